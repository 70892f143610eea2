/** Colours of pictures that are drawn here, turned and graded: what is a look, and what is another picture. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { blackSample, checkFrame, coloursAgree, huesAgree, likenessUnderLook, lumaBytes, recognise, sampleBytes, sampleSize } from './index.ts'

type Rgb = readonly [number, number, number]
const columns = sampleSize.width / 2
/** A sample (BT.709, full range) of what `at` draws, at fractions of the picture. */
function sample(at: (x: number, y: number) => Rgb): Uint8Array {
  const out = blackSample()
  const put = (i: number, v: number) => {
    out[i] = Math.min(255, Math.max(0, Math.round(v)))
  }
  const luma = ([r, g, b]: Rgb) => 0.2126 * r + 0.7152 * g + 0.0722 * b
  for (let y = 0; y < sampleSize.height; y++)
    for (let x = 0; x < sampleSize.width; x++) {
      const c = at(x / sampleSize.width, y / sampleSize.height)
      put(y * sampleSize.width + x, luma(c))
      if (x % 2 || y % 2) continue
      const cell = (y / 2) * columns + x / 2
      put(lumaBytes + cell, 128 + (c[2] - luma(c)) / 1.8556)
      put(lumaBytes + (sampleBytes - lumaBytes) / 2 + cell, 128 + (c[0] - luma(c)) / 1.5748)
    }
  return out
}
/** A sea under an evening sky, with a red boat and a yellow lamp. */
const scene = (x: number, y: number): Rgb => {
  if (y > 0.62 && y < 0.74 && x > 0.3 && x < 0.55) return [180, 60, 45]
  if ((x - 0.8) ** 2 + (y - 0.2) ** 2 < 0.01) return [240, 210, 90]
  const wave = 12 * Math.sin(40 * x + 20 * y)
  return y < 0.55 ? [150 + 90 * y, 120 + 60 * y, 150 - 40 * y] : [30 + wave, 80 + wave, 110 + wave]
}
const graded = (f: (c: Rgb) => Rgb): Uint8Array => sample((x, y) => f(scene(x, y)))
/** Hue turned by degrees: colour differences turned, brightness kept. */
const turned =
  (degrees: number) =>
  ([r, g, b]: Rgb): Rgb => {
    const y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    const [u, v] = [(b - y) / 1.8556, (r - y) / 1.5748]
    const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)]
    const [tu, tv] = [cos * u - sin * v, sin * u + cos * v]
    const [red, blue] = [y + 1.5748 * tv, y + 1.8556 * tu]
    return [red, (y - 0.2126 * red - 0.0722 * blue) / 0.7152, blue]
  }
const original = graded((c) => c)
const around = [null, null, original, null, null]

const others: [string, (c: Rgb) => Rgb][] = [
  ['turned by 40°', turned(40)],
  ['turned back by 40°', turned(-40)],
  ['turned by 90°', turned(90)],
  ['turned round', turned(180)],
  ['red and blue swapped', ([r, g, b]) => [b, g, r]],
  ['red and green swapped', ([r, g, b]) => [g, r, b]],
  ['channels moved on', ([r, g, b]) => [g, b, r]],
  [
    'tinted as old paper',
    (c) => {
      const y = 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]
      return [1.15 * y, 0.95 * y, 0.6 * y]
    },
  ],
]
const looks: [string, (c: Rgb) => Rgb][] = [
  ['nothing', (c) => c],
  ['contrast and lift', ([r, g, b]) => [0.8 * r + 20, 0.8 * g + 20, 0.8 * b + 20]],
  ['gamma', ([r, g, b]) => [255 * (r / 255) ** 0.75, 255 * (g / 255) ** 0.75, 255 * (b / 255) ** 0.75]],
  ['warmer', ([r, g, b]) => [1.12 * r, g, 0.88 * b]],
  ['lifted blacks in blue', ([r, g, b]) => [r, g, 0.93 * b + 14]],
  [
    'half the saturation',
    (c) => {
      const y = 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]
      return [(c[0] + y) / 2, (c[1] + y) / 2, (c[2] + y) / 2]
    },
  ],
]

describe('colours', () => {
  it.each(others)('of a picture that is %s are others, for every comparison', (_, f) => {
    const made = graded(f)
    expect([coloursAgree(made, original), huesAgree(made, original)]).toEqual([false, false])
    expect(checkFrame(made, around)).toMatchObject({ passed: false, otherColours: true })
    expect(recognise(made, around)).toMatchObject({ otherColours: true })
    expect(recognise(made, around)?.likeness).toBeLessThan(0.88)
    expect(likenessUnderLook(made, original)).toBeLessThan(0.88)
  })
  it.each(looks)('under a look stay the same: %s', (_, f) => {
    const made = graded(f)
    expect(huesAgree(made, original)).toBe(true)
    expect(recognise(made, around)?.otherColours).toBeUndefined()
  })
  it('of a copy without a look agree through what coding makes of them, and fail where its saturation is another', () => {
    const coded = original.map((v, i) => (i < lumaBytes ? v : v + ((i * 7) % 5) - 2))
    expect(checkFrame(coded, around)).toMatchObject({ passed: true, otherColours: undefined })
    expect(coloursAgree(graded(looks[5]?.[1] ?? ((c) => c)), original)).toBe(false)
  })
  it('of grey pictures tell nothing, but a tint in what was grey does', () => {
    const grey = graded(([r]) => [r, r, r])
    const nearly = graded(([r]) => [r + 2, r, r - 1])
    expect([coloursAgree(nearly, grey), huesAgree(nearly, grey), huesAgree(grey, original)]).toEqual([true, true, true])
    expect(
      coloursAgree(
        graded(([r]) => [r + 30, r, r - 20]),
        grey,
      ),
    ).toBe(false)
  })
  it('are the same whichever way levels of usual strength go, and never where the hue is turned further than 45°', () =>
    fc.assert(
      fc.property(
        fc.double({ min: 0.7, max: 1.3, noNaN: true }),
        fc.integer({ min: -10, max: 20 }),
        fc.integer({ min: 45, max: 180 }),
        fc.boolean(),
        (gain, add, degrees, back) => {
          expect(
            huesAgree(
              graded(([r, g, b]) => [gain * r + add, gain * g + add, gain * b + add]),
              original,
            ),
          ).toBe(true)
          expect(huesAgree(graded(turned(back ? -degrees : degrees)), original)).toBe(false)
        },
      ),
      { numRuns: 60 },
    ))
})
