/** One sound is found in another by its loudness: where it lies, and nowhere when it is not there. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { chance, elsewhere, talk, talkRate } from '../testing/index.ts'
import { align, isSame, loudness, momentsPerSecond, searched, transform } from './index.ts'

const rate = talkRate
const samples = (x: Float64Array): Int16Array => Int16Array.from(x, (v) => Math.round(Math.max(-1, Math.min(1, v)) * 32767))
const heard = (x: Float64Array): Uint8Array => loudness(samples(x), rate)

describe('loudness', () => {
  it('is told in half decibels, 255 for full scale', () => {
    expect([...loudness(new Int16Array(80).fill(-32768), rate)]).toEqual([255, 255])
    expect([...loudness(new Int16Array(45).fill(3277), rate)]).toEqual([215])
    expect([...loudness(new Int16Array(40), rate)]).toEqual([0])
  })
})

describe('the transform', () => {
  it('gives back what was given, turned twice over', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 16, maxLength: 16 }), (x) => {
        const [re, im] = [Float64Array.from(x), new Float64Array(16)]
        transform(re, im)
        // Parseval: energy is the same but for the length.
        const energy = re.reduce((n, v, i) => n + v * v + (im[i] as number) ** 2, 0)
        expect(energy / 16).toBeCloseTo(
          x.reduce((n, v) => n + v * v, 0),
          3,
        )
        transform(re, im)
        for (const [i, v] of re.entries()) expect(v / 16).toBeCloseTo(x[(16 - i) % 16] as number, 6)
      }),
    ))
  it('takes powers of two only', () => expect(() => transform(new Float64Array(12), new Float64Array(12))).toThrow(RangeError))
})

describe('a clip in a recording', () => {
  const recording = talk(60, 1)
  const ready = searched(heard(recording))
  it.each([
    ['in its middle', 17.36, 8],
    ['at its end', 49.9, 10],
    ['for a few seconds only', 31.005, 4],
  ])('lies where it was recorded, to a few milliseconds: %s', (_, at, length) => {
    const part = recording.slice(Math.round(at * rate), Math.round((at + length) * rate))
    const found = align(heard(elsewhere(part, 0.2, 0.004, 5)), ready)
    expect(found && isSame(found)).toBe(true)
    expect(Math.abs((found?.at ?? 0) - at)).toBeLessThan(0.02)
    expect(found?.shared).toBeCloseTo(length, 1)
  })
  it('may begin before it, or run on after it', () => {
    const before = new Float64Array(9 * rate)
    before.set(talk(3, 77))
    before.set(recording.slice(0, 6 * rate), 3 * rate)
    const found = align(heard(elsewhere(before, 0.5, 0.002, 3)), ready)
    expect(found && isSame(found)).toBe(true)
    expect(Math.abs((found?.at ?? 0) + 3)).toBeLessThan(0.02)
  })
  it('is found by chance nowhere: other talk, noise, silence, a steady tone', () => {
    for (let seed = 100; seed < 140; seed++) {
      const found = align(heard(talk(4 + (seed % 9), seed)), ready)
      expect(found && isSame(found), `talk ${seed}`).toBe(false)
    }
    const noise = chance(9)
    const others = [
      Float64Array.from({ length: 5 * rate }, () => 0.1 * noise()),
      new Float64Array(5 * rate),
      Float64Array.from({ length: 5 * rate }, (_, i) => 0.3 * Math.sin(i / 3)),
    ]
    for (const other of others) {
      const found = align(heard(other), ready)
      expect(found !== null && isSame(found)).toBe(false)
    }
  })
  it('that is said twice is not trusted', () => {
    const twice = new Float64Array(40 * rate)
    const words = talk(6, 8)
    twice.set(words, 4 * rate)
    twice.set(words, 25 * rate)
    const found = align(heard(words), searched(heard(twice)))
    expect(found?.likeness).toBeGreaterThan(0.9)
    expect(found && isSame(found)).toBe(false)
  })
  it('is not looked for where there is too little', () => {
    expect(align(heard(talk(1, 1)), ready)).toBeNull()
    expect(align(heard(talk(5, 1)), searched(heard(talk(1, 1))))).toBeNull()
    expect(momentsPerSecond).toBe(200)
  })
  it('lies at any moment', () =>
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 50_000 }), fc.integer({ min: 1, max: 1e6 }), (ms, seed) => {
        const from = Math.round((ms / 1000) * rate)
        const found = align(heard(elsewhere(recording.slice(from, from + 8 * rate), 0.3, 0.003, seed)), ready)
        expect(found !== null && isSame(found)).toBe(true)
        expect(Math.abs((found?.at ?? 0) - ms / 1000)).toBeLessThan(0.02)
      }),
      { numRuns: 30 },
    ))
})
