import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  compareLabels,
  dayFrames,
  digitsAt,
  dropPossible,
  formatFrames,
  framesOf,
  isDroppedLabel,
  joinRanges,
  length,
  nominal,
  parseRate,
  parseTimecode,
  type Rate,
  rate,
  rateText,
  relabel,
  rescaleFloor,
  sourceFrame,
  sourceLength,
  stepOf,
  timecodeText,
} from './index.ts'

const ntsc = rate(30000, 1001)
const film = rate(24000, 1001)
const rates = [rate(24), film, rate(25), ntsc, rate(30), rate(48), rate(50), rate(60000, 1001), rate(60), rate(120000, 1001), rate(120)]
const anyRate = fc.constantFrom(...rates)
const tc = (text: string) => {
  const t = parseTimecode(text)
  if (!t) throw new Error(text)
  return t
}

describe('rates', () => {
  it.each([
    ['25', 25, 1],
    ['23.976', 24000, 1001],
    ['23.98', 24000, 1001],
    ['29.97', 30000, 1001],
    ['59.94', 60000, 1001],
    ['24000/1001', 24000, 1001],
    ['50/2', 25, 1],
    ['12.5', 25, 2],
  ])('%s is %i/%i', (text, num, den) => expect(parseRate(text)).toEqual({ num, den }))
  it.each(['0/0', '0', 'fast', '-25', '25/0', '', '4000'])('"%s" is none', (text) => expect(parseRate(text)).toBeNull())
  it('are written for people', () => expect([film, rate(25), ntsc].map(rateText)).toEqual(['23.976', '25', '29.97']))
  it('are not made of halves', () => expect(() => rate(25.5)).toThrow(RangeError))
})

describe('timecode', () => {
  // ST 12-1, 5.2.2: two numbers are left out each minute but every tenth.
  it.each([
    ['00:00:59;29', 1799],
    ['00:01:00;02', 1800],
    ['00:09:59;29', 17981],
    ['00:10:00;00', 17982],
    ['01:00:00;00', 107892],
    ['23:59:59;29', 2589407],
  ])('%s is frame %i in drop-frame counting at 29.97', (text, frames) => {
    expect(framesOf(tc(text), ntsc)).toBe(frames)
    expect(formatFrames(frames, ntsc, true)).toBe(text)
  })
  it('leaves four numbers out at 59.94', () => {
    expect(formatFrames(3600, rate(60000, 1001), true)).toBe('00:01:00;04')
    expect(framesOf(tc('01:00:00;00'), rate(60000, 1001))).toBe(215784)
  })
  it('knows labels that do not exist', () => {
    expect(isDroppedLabel(tc('00:01:00;01'), ntsc)).toBe(true)
    expect(isDroppedLabel(tc('00:10:00;01'), ntsc)).toBe(false)
    expect(isDroppedLabel(tc('00:01:00:01'), ntsc)).toBe(false)
  })
  it('counts every number at rates that cannot drop', () => {
    expect(framesOf(tc('00:01:00;00'), rate(25))).toBe(1500)
    expect(rates.filter(dropPossible).map(rateText)).toEqual(['29.97', '59.94', '119.88'])
  })
  it('refuses frame digits at or above the rate', () =>
    expect([framesOf(tc('00:00:00:24'), rate(25)), framesOf(tc('00:00:00:25'), rate(25)), framesOf(tc('00:00:00:24'), film)]).toEqual([24, null, null]))
  it.each(['24:00:00:00', '10:60:00:00', '10:00:61:00', '1:2:3', 'abc', '10:00:00'])('"%s" is none', (text) => expect(parseTimecode(text)).toBeNull())
  it('passes midnight both ways', () => {
    expect(formatFrames(dayFrames(rate(25), false), rate(25))).toBe('00:00:00:00')
    expect(formatFrames(-1, rate(25))).toBe('23:59:59:24')
    expect(formatFrames(-1, ntsc, true)).toBe('23:59:59;29')
  })
  it('goes to frames and back, at every rate and count', () => {
    fc.assert(
      fc.property(anyRate, fc.boolean(), fc.nat(), (r, drop, n) => {
        const frames = n % dayFrames(r, drop)
        const digits = digitsAt(frames, r, drop)
        expect(framesOf(digits, r)).toBe(frames)
        expect(isDroppedLabel(digits, r)).toBe(false)
        expect(parseTimecode(timecodeText(digits))).toEqual(digits)
      }),
    )
  })
  it('never goes back from one frame to the next within a day', () => {
    fc.assert(
      fc.property(anyRate, fc.boolean(), fc.nat(), (r, drop, n) => {
        const frames = n % (dayFrames(r, drop) - 1)
        expect(compareLabels(digitsAt(frames, r, drop), digitsAt(frames + 1, r, drop))).toBeLessThan(0)
      }),
    )
  })
  it('is read at another rate by its part of the second', () => {
    expect(timecodeText(relabel(tc('10:00:00:12'), rate(25), rate(50), false))).toBe('10:00:00:24')
    expect(timecodeText(relabel(tc('10:00:00:13'), rate(25), film, false))).toBe('10:00:00:12')
  })
})

describe('frames between rates', () => {
  it('takes the source frame at or before each record frame', () => {
    const step = stepOf(rate(50), rate(25))
    expect([0, 1, 2].map((k) => sourceFrame(20, k, step))).toEqual([20, 22, 24])
    const slow = stepOf(film, rate(25))
    expect([0, 1, 24, 25, 26].map((k) => sourceFrame(0, k, slow))).toEqual([0, 0, 23, 23, 24])
  })
  it('reaches over ceil(length × clip rate / cut rate) source frames', () => {
    expect(sourceLength(25, stepOf(rate(50), rate(25)))).toBe(50)
    expect(sourceLength(25, stepOf(film, rate(25)))).toBe(24)
    expect(sourceLength(26, stepOf(film, rate(25)))).toBe(25)
    expect(sourceLength(1, stepOf(rate(25), rate(25), { num: 0, den: 1 }))).toBe(1)
  })
  it('never shows a frame that has not begun, nor one that has ended', () => {
    fc.assert(
      fc.property(anyRate, anyRate, fc.nat(200_000), (source, record, k) => {
        const f = sourceFrame(0, k, stepOf(source, record))
        const time = (frame: number, r: Rate) => (BigInt(frame) * BigInt(r.den) * 120000n) / BigInt(r.num)
        expect(time(f, source) <= time(k, record)).toBe(true)
        expect(BigInt(f + 1) * BigInt(source.den) * BigInt(record.num) > BigInt(k) * BigInt(record.den) * BigInt(source.num)).toBe(true)
      }),
    )
  })
  it('uses no frame outside the length it reaches over', () => {
    fc.assert(
      fc.property(anyRate, anyRate, fc.integer({ min: 1, max: 5000 }), (source, record, n) => {
        const step = stepOf(source, record)
        expect(sourceFrame(0, n - 1, step)).toBeLessThan(sourceLength(n, step))
      }),
    )
  })
  it('rescales without losing to floating point', () => {
    expect(rescaleFloor(10 ** 12, film, ntsc)).toBe(1.25 * 10 ** 12)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10 ** 9 }), anyRate, anyRate, (n, a, b) => {
        const there = rescaleFloor(n, a, b)
        expect(rescaleFloor(n + 1, a, b)).toBeGreaterThanOrEqual(there)
        // The frame found begins at or before the moment asked for, the next one after it.
        expect(BigInt(there) * BigInt(b.den) * BigInt(a.num) <= BigInt(n) * BigInt(a.den) * BigInt(b.num)).toBe(true)
        expect(BigInt(there + 1) * BigInt(b.den) * BigInt(a.num) > BigInt(n) * BigInt(a.den) * BigInt(b.num)).toBe(true)
      }),
    )
  })
})

describe('ranges', () => {
  it('join where they overlap or touch', () =>
    expect(
      joinRanges([
        { in: 20, out: 30 },
        { in: 0, out: 10 },
        { in: 10, out: 15 },
        { in: 29, out: 40 },
      ]),
    ).toEqual([
      { in: 0, out: 15 },
      { in: 20, out: 40 },
    ]))
  it('keep every frame and no other', () => {
    const ranges = fc.array(fc.tuple(fc.nat(200), fc.integer({ min: 1, max: 30 })).map(([a, n]) => ({ in: a, out: a + n })))
    fc.assert(
      fc.property(ranges, (list) => {
        const frames = new Set(list.flatMap((r) => Array.from({ length: length(r) }, (_, i) => r.in + i)))
        const joined = joinRanges(list)
        expect(joined.reduce((n, r) => n + length(r), 0)).toBe(frames.size)
        for (let i = 1; i < joined.length; i++) expect(joined[i]?.in).toBeGreaterThan(joined[i - 1]?.out ?? 0)
      }),
    )
  })
  it('have a nominal count per second', () => expect([film, ntsc, rate(25)].map(nominal)).toEqual([24, 30, 25]))
})
