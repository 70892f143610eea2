import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { busiest, checkFrame, displacement, judge, likeness, recognise, lumaBytes, sampleSize, stretches, traceBytes, traceSize } from './index.ts'

describe('likeness', () => {
  const picture = (f: (i: number) => number) => Uint8Array.from({ length: lumaBytes }, (_, i) => f(i))
  const moving = (t: number) => picture((i) => (((i % 96) + t * 3) % 96) * 2)
  it('is one for the same picture and little for another', () => {
    expect(likeness(moving(0), moving(0))).toBe(1)
    expect(
      likeness(
        picture(() => 0),
        picture(() => 255),
      ),
    ).toBe(0)
    expect(likeness(moving(0), new Uint8Array(3))).toBe(0)
  })
  it('finds a picture that is a frame off, and by how many', () => {
    const around = [-2, -1, 0, 1, 2].map((d) => moving(10 + d))
    expect(checkFrame(moving(10), around)).toMatchObject({ passed: true, offset: 0, unprovable: false })
    expect(checkFrame(moving(11), around)).toMatchObject({ passed: false, offset: 1 })
    expect(checkFrame(moving(8), around)).toMatchObject({ passed: false, offset: -2 })
  })
  it('says of a picture that stands still that it proves nothing', () => {
    const still = picture((i) => i % 251)
    expect(checkFrame(still, [still, still, still, still, still])).toMatchObject({ passed: true, unprovable: true })
  })
  it('takes a picture that its coding repeated for what it is, by those beside it; a stream that is shifted it does not', () => {
    const around = [-2, -1, 0, 1, 2].map((d) => moving(10 + d))
    expect(checkFrame(moving(9), around)).toMatchObject({ offset: -1 })
    expect(checkFrame(moving(9), around, [moving(9), moving(11)])).toMatchObject({ offset: 0 })
    expect(checkFrame(moving(9), around, [moving(8), moving(10)])).toMatchObject({ offset: -1, passed: false })
    expect(checkFrame(moving(9), [...around.slice(0, 3), null, null], [moving(9), null])).toMatchObject({ offset: 0 })
  })
  it('fails what is too unlike, and what has no source', () => {
    expect(
      checkFrame(
        picture(() => 90),
        [picture(() => 100)],
      ),
    ).toMatchObject({ passed: false, level: -10 })
    expect(checkFrame(moving(0), [null]).passed).toBe(false)
  })
})

describe('a trace', () => {
  const moving = (n: number, at = (i: number) => i) =>
    Uint8Array.from({ length: n * traceBytes }, (_, k) => 40 + ((((k % traceBytes) % traceSize.width) * 6 + at(Math.floor(k / traceBytes)) * 9) % 180))
  const changed = (t: Uint8Array, from: number, to: number, f: (k: number) => number) =>
    t.map((x, k) => (k >= from * traceBytes && k < to * traceBytes ? f(k) : x))
  it('that is as its source, with what coding bends, has no stretch', () => {
    expect(
      stretches(
        moving(50).map((x, k) => x + ((k * 7) % 9) - 4),
        moving(50),
      ),
    ).toEqual([])
  })
  it('tells what is black, stands still or is something else, from which frame to which', () => {
    const source = moving(60)
    const black = changed(source, 5, 8, () => 16)
    const frozen = changed(black, 20, 33, (k) => source[20 * traceBytes + (k % traceBytes)] ?? 0)
    const other = changed(frozen, 40, 41, (k) => 255 - (source[k] ?? 0))
    expect(stretches(other, source)).toEqual([
      { kind: 'black', in: 5, out: 8 },
      { kind: 'frozen', in: 20, out: 33 },
      { kind: 'other', in: 40, out: 41 },
    ])
  })
  it('is right where its source is black or stands still too, and where a coding repeats what hardly moves', () => {
    const black = changed(moving(30), 3, 9, () => 17)
    const still = moving(30, () => 4)
    const slow = moving(30).map((_, k) => 60 + (k % traceBytes) / 6 + Math.floor(k / traceBytes) / 10)
    expect([
      stretches(black, black),
      stretches(still, still),
      stretches(
        slow.map((_, k) => slow[k % traceBytes] ?? 0),
        slow,
      ),
    ]).toEqual([[], [], []])
  })
})

describe('displacement', () => {
  const { width, height } = sampleSize
  /** A smooth picture with edges both ways, as it looks from a little aside. */
  const seen = (dx: number, dy: number, lift = 0) =>
    Uint8Array.from({ length: lumaBytes }, (_, i) => {
      const [x, y] = [(i % width) - dx, Math.floor(i / width) - dy]
      return Math.round(110 + lift + 50 * Math.sin(x / 5) * Math.cos(y / 6) + 40 * Math.sin((x + 2 * y) / 9))
    })
  it('is measured to a fiftieth of a pixel of the sample, whatever the brightness', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.8, max: 0.8, noNaN: true }),
        fc.double({ min: -0.8, max: 0.8, noNaN: true }),
        fc.integer({ min: -9, max: 9 }),
        (dx, dy, lift) => {
          const d = displacement(seen(dx, dy, lift), seen(0, 0))
          expect(Math.abs((d?.x ?? 9) * width - dx)).toBeLessThan(0.02)
          expect(Math.abs((d?.y ?? 9) * height - dy)).toBeLessThan(0.02)
        },
      ),
    )
  })
  it('is unknown where nothing, or only rows, are to be seen', () => {
    const rows = Uint8Array.from({ length: lumaBytes }, (_, i) => 100 + 80 * Math.sin(Math.floor(i / width) / 3))
    expect([displacement(new Uint8Array(lumaBytes).fill(90), new Uint8Array(lumaBytes).fill(90)), displacement(rows, rows)]).toEqual([null, null])
  })
})

describe('a copy that nobody here has made', () => {
  /** A scene in which something moves: frame `t` of take `k`. */
  const shot = (t: number, k = 0) =>
    Uint8Array.from({ length: lumaBytes }, (_, i) => {
      const [x, y] = [i % sampleSize.width, Math.floor(i / sampleSize.width)]
      const ground = 90 + 40 * Math.sin(x / 9) + 25 * Math.cos(y / 7)
      const boat = (x - (20 + k * 23) - t * 1.5) ** 2 + (y - 20 - k * 5) ** 2 < 90 ? 60 : 0
      return Math.round(ground + boat + 6 * Math.sin((x + t * 2) / 2))
    })
  const around = (t: number) => [-2, -1, 0, 1, 2].map((d) => shot(t + d))
  const looked = (p: Uint8Array, f: (v: number) => number) => p.map((v) => Math.min(255, Math.max(0, Math.round(f(v)))))
  const points = (made: (t: number) => Uint8Array) =>
    [10, 20, 30].flatMap((t) => {
      const r = recognise(made(t), around(t))
      return r ? [{ frame: t, of: t, ...r }] : []
    })
  it('is recognised as it is, with a look, with text drawn in, and coarsely coded', () => {
    const burnt = (t: number) => shot(t).map((v, i) => (i > 46 * 96 && i < 49 * 96 && i % 96 > 20 && i % 96 < 75 ? (i % 3 ? 235 : 16) : v))
    for (const made of [
      shot,
      (t: number) => looked(shot(t), (v) => 255 * (v / 255) ** 0.7),
      (t: number) => looked(shot(t), (v) => 64 + v / 2),
      burnt,
      (t: number) => looked(shot(t), (v) => Math.round(v / 12) * 12),
    ])
      expect(judge(points(made)).against).toBeNull()
    expect(judge(points(shot))).toEqual({ against: null, graded: false, unprovable: false, median: 1 })
    expect(judge(points((t) => looked(shot(t), (v) => 64 + v / 2))).graded).toBe(true)
  })
  it('is refused where it is a frame off, another take, or another scene', () => {
    expect(judge(points((t) => shot(t + 1))).against).toBe('its frame 10 shows frame 11 of the original, not 10')
    expect(judge(points((t) => shot(t, 1))).against).toMatch(/another take|only \d+ % like/)
    expect(judge(points((t) => Uint8Array.from({ length: lumaBytes }, (_, i) => ((i * 7 + t) % 96) * 2))).against).toMatch(/only \d+ % like frame/)
  })
  it('that stands still is said to prove nothing by its picture', () => {
    const r = recognise(shot(3), [shot(3), shot(3), shot(3), shot(3), shot(3)])
    expect(r && judge([{ frame: 0, of: 0, ...r }])).toEqual({ against: null, graded: false, unprovable: true, median: 1 })
    expect(recognise(shot(3), [null])).toBeNull()
    expect(judge([]).against).toBe('no frame of it could be compared')
  })
})

describe('the busiest part of a picture', () => {
  it('is where there is most detail, not at its edges', () => {
    const { width } = sampleSize
    const sample = Uint8Array.from({ length: lumaBytes }, (_, i) => {
      const [x, y] = [i % width, Math.floor(i / width)]
      if (x > 60 && x < 72 && y > 10 && y < 18) return 120
      return x < 1 ? 255 : 9
    })
    const at = busiest(sample, { width: 0.12, height: 0.14 })
    expect([at.x * width, at.y * sampleSize.height].map(Math.round)).toEqual([expect.closeTo(66, -1), expect.closeTo(14, -1)])
    expect(busiest(new Uint8Array(lumaBytes).fill(8), { width: 2, height: 2 })).toEqual({ x: expect.any(Number), y: expect.any(Number) })
  })
})
