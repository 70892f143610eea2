/**
 * How alike two pictures are. Pictures here are small samples: brightness first, one byte a pixel, rows from the top, then the two colour differences
 * at half the size (4:2:0, ITU-R BT.601 or BT.709 as their source, full range). Brightness alone (`lumaBytes`) will do where colours are not asked for.
 */
import { coloursAgree, otherColours } from './colour.ts'
import { lumaBytes } from './sample.ts'

/**
 * Likeness of two samples in brightness, 0 to 1: 1 for the same picture, about 0 for pictures with nothing in common. It is one less the
 * root of the mean squared difference, a quarter of the full scale counting as nothing alike.
 */
export function likeness(a: Uint8Array, b: Uint8Array): number {
  if (a.length !== b.length || a.length === 0) return 0
  const n = Math.min(a.length, lumaBytes)
  let sum = 0
  for (let i = 0; i < n; i++) {
    const d = (a[i] ?? 0) - (b[i] ?? 0)
    sum += d * d
  }
  return Math.max(0, 1 - Math.sqrt(sum / n) / 64)
}

/** Mean brightness, 0 to 255. */
export function meanLevel(sample: Uint8Array): number {
  const a = sample.subarray(0, lumaBytes)
  return a.length ? a.reduce((s, x) => s + x, 0) / a.length : 0
}

export interface FrameCheck {
  /** Likeness to the expected frame, 0 to 1. */
  readonly likeness: number
  /** The neighbour that is likelier than the expected frame, as an offset in frames; 0 when the expected one is best. */
  readonly offset: number
  /** The neighbours are so alike that the picture proves nothing about the frame. */
  readonly unprovable: boolean
  /** Brightness of the picture less that of its source, in steps of 255. */
  readonly level: number
  /** Its colours are not those of the source. */
  readonly otherColours?: true | undefined
  readonly passed: boolean
}

/** Neighbours differ where their likeness to the expected frame is below this. */
const still = 0.9995
/** Another frame is the likelier one where its difference is at most this share of the expected one's. */
const clearly = 0.8
/** An expected frame must be at least this alike. */
export const alikeEnough = 0.95

/** Mean squared difference, from 0. */
const apart = (a: Uint8Array, b: Uint8Array): number => (1 - likeness(a, b)) ** 2

/**
 * Judges a picture against the frame it should be and its neighbours: `expected` at the middle of `around` (an odd number of
 * samples; null where the source has no such frame). The expected frame must be likelier than every neighbour that differs
 * from it, and at least as alike as `least` says, in colours that `agree`. `beside`: the pictures that were made just before and after it (null where there is none). With them
 * the whole neighbourhood decides: codings that leave out what hardly moves now and then repeat a single picture.
 */
export function checkFrame(
  made: Uint8Array,
  around: readonly (Uint8Array | null)[],
  beside: readonly [Uint8Array | null, Uint8Array | null] = [null, null],
  least = alikeEnough,
  agree = coloursAgree,
): FrameCheck {
  const middle = (around.length - 1) / 2
  const expected = around[middle]
  if (!expected) return { likeness: 0, offset: 0, unprovable: false, level: 0, passed: false }
  const colours = agree(made, expected)
  const own = likeness(made, expected) * (colours ? 1 : otherColours)
  const pictures = [beside[0], made, beside[1]]
  /** Mean difference of the pictures from the frames `by` later, and from those expected, over all that can be compared with both. */
  const shifted = (by: number): { there: number; here: number } => {
    let [there, here, n] = [0, 0, 0]
    pictures.forEach((p, i) => {
      const [at, other] = [around[middle + i - 1], around[middle + i - 1 + by]]
      if (!p || !at || !other) return
      there += apart(p, other)
      here += apart(p, at)
      n++
    })
    return n ? { there: there / n, here: here / n } : { there: 1, here: 0 }
  }
  let best = Number.POSITIVE_INFINITY
  let offset = 0
  let moving = false
  around.forEach((other, i) => {
    if (!other || i === middle || likeness(expected, other) >= still) return
    moving = true
    const { there, here } = shifted(i - middle)
    if (there <= clearly * here && there < best) {
      best = there
      offset = i - middle
    }
  })
  const level = meanLevel(made) - meanLevel(expected)
  return { likeness: own, offset, unprovable: !moving, level, otherColours: colours ? undefined : true, passed: colours && own >= least && offset === 0 }
}
