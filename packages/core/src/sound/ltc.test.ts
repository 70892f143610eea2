/** Linear timecode, heard as it is recorded: loud and quiet, clean and noisy, either way round. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { digitsAt, formatFrames, framesOf, parseTimecode, type Rate, rate, timecodeText } from '../time/index.ts'
import { readLtc, timecodeHeard, writeLtc } from './index.ts'

const pal = rate(25)
const ntsc = rate(30000, 1001)
const at = (text: string, r: Rate): number => framesOf(parseTimecode(text) as never, r) as number
const sound = (start: number, count: number, r: Rate, sampleRate = 48000, drop = false, level = 0.5) =>
  writeLtc((i) => digitsAt(start + i, r, drop), count, r, sampleRate, level)
const texts = (samples: ArrayLike<number>) => readLtc(samples).map((f) => timecodeText(f.digits))
/** Made-up hiss that is the same every time. */
const hiss = (n: number, level: number): Float32Array => {
  let x = 1
  return Float32Array.from({ length: n }, () => {
    x = (x * 1103515245 + 12345) & 0x7fffffff
    return ((x / 0x7fffffff) * 2 - 1) * level
  })
}
const mixed = (a: Float32Array, b: Float32Array) => a.map((x, i) => x + (b[i] ?? 0))

describe('linear timecode (ST 12-1, clause 9)', () => {
  it('has 80 bits a frame in bi-phase mark, ending with the synchronization word', () => {
    const one = sound(at('10:02:11:04', pal), 1, pal, 80 * 25 * 2)
    expect(one).toHaveLength(160)
    // Two samples a bit: a bit is 1 where they differ, and every bit begins with a change.
    const bits = Array.from({ length: 80 }, (_, i) => (one[2 * i] === one[2 * i + 1] ? 0 : 1))
    expect(bits.slice(64).join('')).toBe('0011111111111101')
    const number = (from: number, n: number) => bits.slice(from, from + n).reduce<number>((sum, b, i) => sum + b * 2 ** i, 0)
    expect([number(0, 4), number(8, 2), number(16, 4), number(24, 3), number(32, 4), number(40, 3), number(48, 4), number(56, 2)]).toEqual([
      4, 0, 1, 1, 2, 0, 0, 1,
    ])
    for (let i = 1; i < 80; i++) expect(one[2 * i]).toBe(-(one[2 * i - 1] as number))
  })
  it.each([
    ['25', pal, false],
    ['24', rate(24), false],
    ['23.976', rate(24000, 1001), false],
    ['29.97 drop-frame', ntsc, true],
    ['30', rate(30), false],
  ] as const)('at %s is heard frame by frame, each where it begins', (_name, r, drop) => {
    const start = at(drop ? '00:00:58;20' : '23:59:58:20', r)
    const heard = readLtc(sound(start, 60, r, 48000, drop))
    // The first frames go by while the length of a bit is learnt.
    expect(heard.length).toBeGreaterThan(55)
    const perFrame = (48000 * r.den) / r.num
    for (const f of heard) {
      const i = Math.round(f.at / perFrame)
      expect(timecodeText(f.digits)).toBe(formatFrames(start + i, r, drop))
      expect(Math.abs(f.at - i * perFrame)).toBeLessThan(1.5)
      expect(f.backwards).toBe(false)
    }
  })
  it('is heard at any sample rate and level, upside down, as whole numbers, and under hiss', () => {
    const start = at('14:02:10:16', pal)
    // Nothing ends the last bit of all, so the last frame but one is the last to be heard.
    const last = formatFrames(start + 28, pal)
    for (const sampleRate of [16000, 44100, 96000]) expect(texts(sound(start, 30, pal, sampleRate)).at(-1)).toBe(last)
    expect(texts(sound(start, 30, pal, 48000, false, 0.003)).at(-1)).toBe(last)
    expect(texts(sound(start, 30, pal).map((x) => -x)).at(-1)).toBe(last)
    expect(texts(Int16Array.from(sound(start, 30, pal), (x) => Math.round(x * 20000))).at(-1)).toBe(last)
    const noisy = mixed(sound(start, 30, pal), hiss(30 * 1920, 0.08))
    expect(texts(noisy).length).toBeGreaterThan(26)
    expect(texts(noisy).at(-1)).toBe(last)
  })
  it('is heard through a filter that rounds its corners, as tape and amplifiers do', () => {
    let y = 0
    const round = sound(at('01:00:00:00', pal), 30, pal).map((x) => {
      y += (x - y) * 0.35
      return y
    })
    expect(texts(round).at(-1)).toBe('01:00:01:03')
  })
  it('played backwards is heard backwards; sped up or slowed down it is heard too', () => {
    const start = at('10:00:00:00', pal)
    const forwards = sound(start, 30, pal)
    const heard = readLtc([...forwards].reverse())
    expect(heard.length).toBeGreaterThan(26)
    expect(heard.every((f) => f.backwards)).toBe(true)
    expect(timecodeText(heard.at(-1)?.digits as never)).toBe('10:00:00:01')
    const stretched = Float32Array.from({ length: Math.floor(forwards.length * 1.3) }, (_, i) => forwards[Math.floor(i / 1.3)] as number)
    expect(texts(stretched).at(-1)).toBe('10:00:01:03')
  })
  it('is not heard in speech-like sound, tones, hiss or silence', () => {
    const n = 96000
    expect(readLtc(new Float32Array(n))).toEqual([])
    expect(readLtc(hiss(n, 0.5))).toEqual([])
    expect(readLtc(Float32Array.from({ length: n }, (_, i) => Math.sin(i / 20)))).toEqual([])
    expect(readLtc(Float32Array.from({ length: n }, (_, i) => Math.sin(i / 20) * Math.sin(i / 333) + Math.sin(i / 7.3) * 0.4))).toEqual([])
    expect(readLtc([])).toEqual([])
  })
})

describe('the timecode of a recording', () => {
  it('is that of its first whole frame, wherever the sound was cut', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 24 * 3600 * 25 - 1 }), fc.integer({ min: 0, max: 1919 }), (start, cut) => {
        // A bit is 24 samples long: where most of the first is cut away, it may be read or not.
        fc.pre(cut <= 12 || cut >= 24)
        const heard = timecodeHeard(readLtc(sound(start, 40, pal).subarray(cut)), pal, 48000)
        const whole = cut <= 12 ? start : (start + 1) % (24 * 3600 * 25)
        expect([heard?.start, heard?.drop]).toEqual([whole, false])
        expect(Math.abs((heard?.offset ?? -9) - (cut <= 12 ? 0 : 1920 - cut))).toBeLessThan(20)
      }),
      { numRuns: 25 },
    )
  })
  it('is zero at midnight', () => expect(Object.is(timecodeHeard(readLtc(sound(0, 40, pal)), pal, 48000)?.start, 0)).toBe(true))
  it('goes by what most frames say, and is none where too few agree', () => {
    const a = sound(at('10:00:00:00', pal), 40, pal)
    const b = sound(at('17:30:00:00', pal), 15, pal)
    const joined = new Float32Array(a.length + b.length)
    joined.set(a)
    joined.set(b, a.length)
    const heard = timecodeHeard(readLtc(joined), pal, 48000)
    expect([heard?.start, (heard?.agreeing ?? 0) > 30, (heard?.frames ?? 0) > (heard?.agreeing ?? 0)]).toEqual([at('10:00:00:00', pal), true, true])
    expect(timecodeHeard(readLtc(sound(0, 8, pal)), pal, 48000)).toBeNull()
    expect(timecodeHeard([], pal, 48000)).toBeNull()
  })
  it('counts dropped numbers where the sound says so', () => {
    const start = at('00:01:00;02', ntsc)
    expect(timecodeHeard(readLtc(sound(start, 60, ntsc, 48000, true)), ntsc, 48000)).toMatchObject({ start, drop: true })
  })
})
