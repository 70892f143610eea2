/** Whether two pictures have the same colours: hue, not only brightness. */
import { lumaBytes, sampleSize } from './sample.ts'

const columns = sampleSize.width / 2
const rows = sampleSize.height / 2
const cells = columns * rows
/** Mean distance of a picture's colours from grey, in steps of 255, below which nothing can be told of its hue. */
const grey = 3

/** Colour differences (Cb and Cr, from 0) of a cell of a sample. */
const chroma = (s: Uint8Array, cell: number): readonly [number, number] => [(s[lumaBytes + cell] ?? 128) - 128, (s[lumaBytes + cells + cell] ?? 128) - 128]

const hasColour = (s: Uint8Array): boolean => s.length >= lumaBytes + 2 * cells

/** Mean distance of the colours of a sample from grey. */
function saturation(s: Uint8Array): number {
  let sum = 0
  for (let i = 0; i < cells; i++) sum += Math.hypot(...chroma(s, i))
  return sum / cells
}

/** A copy without a look agrees from here on; hues turned by 40 degrees stay below (0.75, measured). */
const sameColours = 0.8
/** Colours this far apart are what coding makes of grey. */
const noise = 8

/**
 * Whether `made` has the colours of `expected`, where no look is between them. Samples without colour agree. A picture whose hue is turned by 40 degrees
 * or more, whose channels are swapped, that is tinted or has lost its colour does not.
 */
export function coloursAgree(made: Uint8Array, expected: Uint8Array): boolean {
  if (!hasColour(made) || !hasColour(expected)) return true
  let apart = 0
  for (let i = 0; i < cells; i++) {
    const [mu, mv] = chroma(made, i)
    const [eu, ev] = chroma(expected, i)
    apart += Math.hypot(mu - eu, mv - ev)
  }
  return 1 - apart / cells / (saturation(made) + saturation(expected) + noise) >= sameColours
}

/** Red, green and blue of each cell, one after another (ITU-R BT.709, full range). */
function channels(s: Uint8Array): Float64Array {
  const out = new Float64Array(cells * 3)
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++) {
      const i = y * columns + x
      const at = 2 * y * sampleSize.width + 2 * x
      const luma = ((s[at] ?? 0) + (s[at + 1] ?? 0) + (s[at + sampleSize.width] ?? 0) + (s[at + sampleSize.width + 1] ?? 0)) / 4
      const [u, v] = chroma(s, i)
      out[i * 3] = luma + 1.5748 * v
      out[i * 3 + 1] = luma - 0.1873 * u - 0.4681 * v
      out[i * 3 + 2] = luma + 1.8556 * u
    }
  return out
}
const lumaOf = (c: Float64Array, i: number): number => 0.2126 * (c[i * 3] ?? 0) + 0.7152 * (c[i * 3 + 1] ?? 0) + 0.0722 * (c[i * 3 + 2] ?? 0)

/** Gain and means of the line that brings `x` nearest to `y`. */
function line(n: number, x: (i: number) => number, y: (i: number) => number): { gain: number; x: number; y: number } {
  let [sx, sy, xx, xy] = [0, 0, 0, 0]
  for (let i = 0; i < n; i++) {
    const [a, b] = [x(i), y(i)]
    sx += a
    sy += b
    xx += a * a
    xy += a * b
  }
  const spread = xx - (sx * sx) / n
  return { gain: spread > 0 ? (xy - (sx * sy) / n) / spread : 1, x: sx / n, y: sy / n }
}
const within = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x))

/** By how much the levels of one channel may differ from those of all: what white balance and tints of a look do. */
const channelGain = 1.25
const channelAdd = 20

/** `made` with the levels of `expected`: contrast and lift of all channels, and a little of each by itself. */
function levelled(made: Float64Array, expected: Float64Array): Float64Array {
  const all = line(
    cells,
    (i) => lumaOf(made, i),
    (i) => lumaOf(expected, i),
  )
  const gain = within(all.gain, 0.25, 4)
  const out = made.map((v) => gain * (v - all.x) + all.y)
  for (let c = 0; c < 3; c++) {
    const own = line(
      cells,
      (i) => out[i * 3 + c] ?? 0,
      (i) => expected[i * 3 + c] ?? 0,
    )
    const k = within(own.gain, 1 / channelGain, channelGain)
    // The shift that is left in the middle of the scale.
    const middle = (k - 1) * 128
    const add = within(own.y - k * own.x, -channelAdd - middle, channelAdd - middle)
    for (let i = 0; i < cells; i++) out[i * 3 + c] = k * (out[i * 3 + c] ?? 0) + add
  }
  return out
}

/** How alike the hues of two pictures are: 1 for the same, 0.77 where all are turned by 40 degrees; grey counts as alike. */
function hueLikeness(a: Float64Array, b: Float64Array): number {
  let [ab, aa, bb] = [0, 0, 0]
  for (let i = 0; i < cells; i++) {
    const [la, lb] = [lumaOf(a, i), lumaOf(b, i)]
    const [au, av] = [((a[i * 3 + 2] ?? 0) - la) / 1.8556, ((a[i * 3] ?? 0) - la) / 1.5748]
    const [bu, bv] = [((b[i * 3 + 2] ?? 0) - lb) / 1.8556, ((b[i * 3] ?? 0) - lb) / 1.5748]
    ab += au * bu + av * bv
    aa += au * au + av * av
    bb += bu * bu + bv * bv
  }
  const few = grey * grey * cells
  return (ab + few) / Math.sqrt((aa + few) * (bb + few))
}

/**
 * Hues agree from here on, as they are and with their levels brought together in the mean: looks of usual strength reach 0.89, hues turned by 40
 * degrees 0.86 (measured on drawn and computed pictures).
 */
const sameHues = 0.872

/**
 * Whether `made` has the hues of `expected` whatever a look has done to its levels, channel by channel, or to its saturation. Where one of them is
 * grey nothing can be told, and they agree.
 */
export function huesAgree(made: Uint8Array, expected: Uint8Array): boolean {
  if (!hasColour(made) || !hasColour(expected) || saturation(made) < grey || saturation(expected) < grey) return true
  const [m, e] = [channels(made), channels(expected)]
  return (hueLikeness(m, e) + hueLikeness(levelled(m, e), e)) / 2 >= sameHues
}

/** What is left of the likeness of two pictures whose colours do not agree: less than any check takes for the same picture. */
export const otherColours = 0.85
