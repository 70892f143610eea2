import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { alignedAt, fingerprint, type Prints, printWords, sampleBytes, sampleSize, sightings, unlike, unlikeAtMost, type PrintToFind } from './index.ts'

const { width, height } = sampleSize
/** A scene of soft shapes that move, different for each seed. */
function scene(seed: number, t: number): Uint8Array {
  const r = (n: number) => Math.abs(Math.sin(seed * 12.9898 + n * 78.233) * 43758.5453) % 1
  return Uint8Array.from({ length: sampleBytes }, (_, i) => {
    const [x, y] = [(i % width) / width, Math.floor(i / width) / height]
    let v = 0
    for (let n = 0; n < 5; n++) v += Math.sin((1 + 6 * r(n)) * x + (1 + 6 * r(n + 9)) * y + 6 * r(n + 20) + t * 0.02 * (r(n + 30) - 0.4))
    return Math.max(0, Math.min(255, Math.round(128 + 24 * v)))
  })
}
const printOf = (s: Uint8Array) => fingerprint(s)
const every = 12
const clip = (seed: number, frames: number): Prints => {
  const prints = new Uint32Array(Math.ceil(frames / every) * printWords)
  for (let i = 0; i * every < frames; i++) fingerprint(scene(seed, i * every), prints, i * printWords)
  return { clipId: `c${seed}`, every, prints }
}
const wanted = (seed: number, first: number, change: (s: Uint8Array) => Uint8Array = (s) => s): PrintToFind[] =>
  [0, 12, 24, 36].map((frame) => ({ frame, print: printOf(change(scene(seed, first + frame))) }))

describe('a fingerprint', () => {
  it('of the same picture is the same, of others about half unlike', () => {
    const a = printOf(scene(1, 0))
    expect(unlike(a, 0, printOf(scene(1, 0)), 0)).toBe(0)
    const others = Array.from({ length: 40 }, (_, i) => unlike(a, 0, printOf(scene(i + 2, 0)), 0))
    expect(others.reduce((s, x) => s + x, 0) / others.length).toBeGreaterThan(0.35)
  })
  it('bears levels that are moved, noise, and text in a corner', () => {
    const own = scene(3, 0)
    const a = printOf(own)
    const looks = [
      own.map((v) => Math.min(255, Math.round(v * 0.7 + 30))),
      own.map((v) => Math.round(255 * (v / 255) ** 1.6)),
      own.map((v, i) => Math.max(0, Math.min(255, v + ((i * 7919) % 9) - 4))),
      own.map((v, i) => (i % width > width * 0.75 && Math.floor(i / width) > height * 0.88 ? 255 : v)),
    ]
    for (const l of looks) expect(unlike(a, 0, printOf(l), 0)).toBeLessThan(0.12)
  })
  it('asks for a sample of the right size', () => expect(() => fingerprint(new Uint8Array(10))).toThrow(RangeError))
  it('is as unlike another as that is unlike it', () => {
    const word = fc.integer({ min: 0, max: 0xffffffff })
    const print = fc.array(word, { minLength: 4, maxLength: 4 }).map((w) => Uint32Array.from(w))
    fc.assert(
      fc.property(print, print, (a, b) => {
        expect(unlike(a, 0, b, 0)).toBe(unlike(b, 0, a, 0))
        const bits = [...a].reduce((n, w, i) => n + [...((w ^ (b[i] as number)) >>> 0).toString(2)].filter((c) => c === '1').length, 0)
        expect(unlike(a, 0, b, 0)).toBe(bits / 128)
      }),
    )
  })
})

describe('sightings', () => {
  const clips = Array.from({ length: 30 }, (_, i) => clip(i + 1, 600))
  it('find the clip, and the place to within what lies between two prints', () => {
    for (const [seed, first] of [
      [4, 120],
      [17, 333],
      [29, 5],
    ] as const) {
      const [best] = sightings(wanted(seed, first), clips)
      expect(best?.clipId).toBe(`c${seed}`)
      expect(Math.abs((best?.frame ?? 0) - first)).toBeLessThanOrEqual(every)
    }
  })
  it('find it under a look, and tell nothing where it is not there', () => {
    const looked = wanted(9, 240, (s) => s.map((v) => Math.round(v * 0.6 + 40)))
    expect(sightings(looked, clips)[0]).toMatchObject({ clipId: 'c9' })
    const absent = sightings(wanted(77, 100), clips)
    expect(absent.every((s) => s.unlike > 0.08 && s.unlike <= unlikeAtMost)).toBe(true)
  })
  it('are one for each stretch, likest first, and as many as are asked for', () => {
    const all = sightings(wanted(4, 120), clips, 3)
    expect(all.length).toBeLessThanOrEqual(3)
    expect([...all].sort((a, b) => a.unlike - b.unlike)).toEqual(all)
    expect(sightings([], clips)).toEqual([])
  })
})

describe('to the frame', () => {
  const edit = [0, 20, 39].map((frame) => ({ frame, sample: scene(5, 211 + frame) }))
  const own = (f: number) => (f >= 0 && f < 600 ? scene(5, f) : null)
  it('the place is found where the pictures are most alike', () => expect(alignedAt(edit, 204, 13, own)).toMatchObject({ frame: 211, likeness: 1 }))
  it('and how much it stands out', () => {
    const [far, near] = [alignedAt(edit, 204, 13, own), alignedAt(edit, 211, 0, own)]
    expect(far?.next).toBeGreaterThan(0)
    expect(far?.next).toBeLessThan(1)
    expect(near?.next).toBe(0)
  })
  it('what reaches past the end is compared as far as there is something', () =>
    expect(alignedAt(edit, 211, 3, (f) => (f < 240 ? own(f) : null))?.frame).toBe(211))
  it('nothing is told where nothing is there', () => expect(alignedAt(edit, 211, 3, () => null)).toBeNull())
})
