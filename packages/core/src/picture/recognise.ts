/** Whether two pictures show the same though one has a look, burn-ins or a coarse coding: for copies that nobody here has made. */
import { huesAgree, otherColours } from './colour.ts'
import { meanLevel } from './likeness.ts'
import { lumaBytes } from './sample.ts'

export interface Recognised {
  /** 0 to 1, levels brought together; text that was drawn in counts little. */
  readonly likeness: number
  /** Levels of the made one against the expected one: their contrast, and how much lighter it is, in steps of 255. */
  readonly contrast: number
  readonly lift: number
  /** A neighbour that is clearly likelier than the expected frame, in frames; 0 where none is. */
  readonly offset: number
  /** Its hues are not those of the expected frame, whatever a look has done to its levels. */
  readonly otherColours?: true | undefined
  /** The neighbours differ from the expected frame. */
  readonly moving: boolean
  /** It is clearly likelier than the neighbours two frames away: it moves as the original does. */
  readonly telling: boolean
}

/** The share of a picture that levels are found without. */
const leftOut = 1 / 12
const most = 24

interface Levels {
  readonly gain: number
  readonly add: number
}

/** Squared differences, pixel by pixel. */
const differences = (made: Uint8Array, other: Uint8Array, { gain, add }: Levels): Float32Array =>
  Float32Array.from(made, (m, i) => (gain * m + add - (other[i] ?? 0)) ** 2)

/** The difference above which the worst pixels lie. */
const bound = (d: Float32Array): number => Float32Array.from(d).sort()[Math.floor(d.length * (1 - leftOut))] ?? Number.POSITIVE_INFINITY

/** Contrast and lift that bring `made` nearest to `expected` (least squares over the pixels `of`). */
function levels(made: Uint8Array, expected: Uint8Array, of: (i: number) => boolean): Levels {
  let [n, m, e, mm, me] = [0, 0, 0, 0, 0]
  for (let i = 0; i < made.length; i++) {
    if (!of(i)) continue
    const [x, y] = [made[i] ?? 0, expected[i] ?? 0]
    n++
    m += x
    e += y
    mm += x * x
    me += x * y
  }
  const spread = mm - (m * m) / n
  // What is turned over or flat is no look.
  const gain = spread > 0 ? Math.min(4, Math.max(0.25, (me - (m * e) / n) / spread)) : 1
  return { gain, add: (e - gain * m) / n }
}

/** The levels of a picture as those of another, found again without the pixels that are least alike: text that was drawn in bends them. */
function fitted(made: Uint8Array, expected: Uint8Array): Levels {
  let as = levels(made, expected, () => true)
  for (let round = 0; round < 2; round++) {
    const d = differences(made, expected, as)
    const worst = bound(d)
    as = levels(made, expected, (i) => (d[i] ?? 0) <= worst)
  }
  return as
}

/** Mean squared difference, in steps of 255 squared; what differs by far (text that was drawn in) counts as by `most`. */
function difference(made: Uint8Array, other: Uint8Array, as: Levels): number {
  let sum = 0
  for (const d of differences(made, other, as)) sum += Math.min(d, most * most)
  return sum / made.length
}

const luma = (sample: Uint8Array): Uint8Array => sample.subarray(0, lumaBytes)

/** Likeness of two samples, 0 to 1, whatever a look has done to the levels of the first; text that was drawn in counts little, other hues much. */
export function likenessUnderLook(made: Uint8Array, other: Uint8Array): number {
  const [m, o] = [luma(made), luma(other)]
  return Math.max(0, 1 - Math.sqrt(difference(m, o, fitted(m, o))) / 64) * (huesAgree(made, other) ? 1 : otherColours)
}

/**
 * Compares a picture with the frame it should be, at the middle of `beside` (an odd number of samples; null where the source has no
 * such frame), and with those beside it. Null where there is no such frame.
 */
export function recognise(picture: Uint8Array, beside: readonly (Uint8Array | null)[]): Recognised | null {
  const middle = (beside.length - 1) / 2
  const whole = beside[middle]
  if (!whole || whole.length !== picture.length) return null
  const colours = huesAgree(picture, whole)
  const [made, expected, around] = [luma(picture), luma(whole), beside.map((b) => b && luma(b))]
  const as = fitted(made, expected)
  const own = difference(made, expected, as)
  const others = around.flatMap((o, i) => {
    if (!o || i === middle) return []
    const apart = difference(expected, o, { gain: 1, add: 0 })
    return apart < 0.5 ? [] : [{ by: i - middle, there: difference(made, o, fitted(made, o)) }]
  })
  const best = [...others].sort((a, b) => a.there - b.there)[0]
  const far = others.filter((o) => Math.abs(o.by) === 2)
  return {
    likeness: Math.max(0, 1 - Math.sqrt(own) / 64) * (colours ? 1 : otherColours),
    otherColours: colours ? undefined : true,
    contrast: 1 / as.gain,
    lift: meanLevel(made) - meanLevel(expected),
    offset: best && best.there < 0.64 * own ? best.by : 0,
    moving: others.length > 0,
    telling: far.length > 0 && far.every((o) => o.there > 1.3 * own),
  }
}

/** A picture that is the same reaches this, whatever a look and a coding do to it. */
export const recognisedFrom = 0.88

export interface Judgement {
  /** In a sentence; null where all speaks for it. */
  readonly against: string | null
  /** A look may be in it: levels differ. */
  readonly graded: boolean
  /** Nothing moves where it was looked at: the frames are proven by count alone. */
  readonly unprovable: boolean
  /** The median of the points' likeness, 0 to 1; 0 where none could be compared. */
  readonly median: number
}

/** What points (each of one frame of the copy, `of` the original's frame expected there) say of a whole copy. */
export function judge(points: readonly ({ readonly frame: number; readonly of: number } & Recognised)[]): Judgement {
  const sorted = [...points].sort((a, b) => a.likeness - b.likeness)
  const middle = sorted[Math.floor(sorted.length / 2)]
  const worst = sorted[0]
  const graded = points.filter((p) => Math.abs(p.lift) > 4 || Math.abs(p.contrast - 1) > 0.06).length * 2 > points.length
  const moving = points.filter((p) => p.moving)
  const said = { graded, unprovable: moving.length === 0, median: middle?.likeness ?? 0 }
  if (!middle || !worst) return { ...said, against: 'no frame of it could be compared' }
  const tinted = points.filter((p) => p.otherColours)
  const [other] = tinted
  // Pictures that differ in brightness too are simply others.
  if (other && tinted.length * 2 > points.length && middle.likeness >= recognisedFrom * otherColours)
    return { ...said, against: `its frame ${other.frame} has other colours than frame ${other.of} of the original` }
  if (middle.likeness < recognisedFrom)
    return { ...said, against: `its frame ${worst.frame} is only ${Math.round(worst.likeness * 100)} % like frame ${worst.of} of the original` }
  const off = points.filter((p) => p.offset !== 0)
  const [one] = off
  if (one && off.length * 2 > points.length)
    return { ...said, against: `its frame ${one.frame} shows frame ${one.of + one.offset} of the original, not ${one.of}` }
  if (moving.length > 1 && moving.filter((p) => p.telling).length * 2 < moving.length && worst.likeness < 0.97)
    return { ...said, against: 'it looks like the original but moves differently: another take' }
  const alone = points.find((p) => p.likeness < recognisedFrom)
  if (alone)
    return {
      ...said,
      against: `its frame ${alone.frame} is only ${Math.round(alone.likeness * 100)} % like frame ${alone.of} of the original, though others agree`,
    }
  return { ...said, against: null }
}
