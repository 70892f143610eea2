/** Where one sound lies in another, by how their loudness moves. */
import { transform } from './fourier.ts'
import { momentsPerSecond } from './loudness.ts'

export interface Alignment {
  /** Seconds in the recording at which the clip's sound begins; negative where it begins before it. */
  readonly at: number
  /** Of how their loudness moves, where both are heard: 1 is the same, 0 nothing alike. */
  readonly likeness: number
  /** Seconds in which both are heard. */
  readonly shared: number
  /** How far this is from chance: in spreads of what unlike sounds give, the same for short stretches and long ones. */
  readonly weight: number
  /** The weight of the best place elsewhere. */
  readonly next: number
}

/** Syllables and the like in a second: so many independent movements. */
const movements = 4
/** Fisher's transformation of a correlation over so many seconds. */
const weightOf = (likeness: number, shared: number): number => Math.atanh(Math.min(0.9999, likeness)) * Math.sqrt(Math.max(0, shared * movements - 3))

/** Moments that are put together for the first search: 25 a second. */
const coarse = momentsPerSecond / 25
/** Seconds over which loudness is levelled: what is slower is the room and the recorder's gain. */
const slow = 1.5
/** Half decibels: a bang counts no more than a word. */
const most = 30
/** Seconds that both must be heard for, and around a place that belong to it. */
const least = 2
const around = 0.4

/** Movement of loudness: against the level around each moment, without what only tells that nothing is heard. */
function movement(loud: ArrayLike<number>, perSecond: number): Float64Array {
  const n = loud.length
  const sums = new Float64Array(n + 1)
  // Below 70 dB under full scale lies noise of its own in each recorder.
  const floor = 255 - 140
  for (let i = 0; i < n; i++) sums[i + 1] = (sums[i] as number) + Math.max(floor, loud[i] as number)
  const half = Math.max(1, Math.round((slow * perSecond) / 2))
  const out = new Float64Array(n)
  for (let i = 0; i < n; i++) {
    const [a, b] = [Math.max(0, i - half), Math.min(n, i + half + 1)]
    const level = ((sums[b] as number) - (sums[a] as number)) / (b - a)
    out[i] = Math.max(-most, Math.min(most, Math.max(floor, loud[i] as number) - level))
  }
  return out
}

function thinned(loud: Uint8Array): Float64Array {
  const out = new Float64Array(Math.floor(loud.length / coarse))
  for (let i = 0; i < out.length; i++) {
    let sum = 0
    for (let k = 0; k < coarse; k++) sum += loud[i * coarse + k] as number
    out[i] = sum / coarse
  }
  return out
}

const squares = (x: Float64Array): Float64Array => {
  const out = new Float64Array(x.length + 1)
  for (let i = 0; i < x.length; i++) out[i + 1] = (out[i] as number) + (x[i] as number) ** 2
  return out
}

/** A recording made ready to be searched, once for many clips. */
export interface Searched {
  readonly fine: Float64Array
  readonly coarse: Float64Array
  /** Spectra of the coarse movement by their length. */
  readonly spectra: Map<number, { re: Float64Array; im: Float64Array }>
}
export const searched = (loud: Uint8Array): Searched => ({
  fine: movement(loud, momentsPerSecond),
  coarse: movement(thinned(loud), momentsPerSecond / coarse),
  spectra: new Map(),
})

function spectrumOf(x: Float64Array, size: number): { re: Float64Array; im: Float64Array } {
  const re = new Float64Array(size)
  re.set(x)
  const im = new Float64Array(size)
  transform(re, im)
  return { re, im }
}

/** Likeness at each place of `a` in `b`, from -(a - 1) on; null where too little is shared. */
function likenesses(a: Float64Array, b: Searched, perSecond: number): (number | null)[] {
  const n = a.length
  const m = b.coarse.length
  let size = 1
  while (size < n + m) size *= 2
  let kept = b.spectra.get(size)
  if (!kept) {
    kept = spectrumOf(b.coarse, size)
    b.spectra.set(size, kept)
  }
  const own = spectrumOf(a, size)
  // The product with the conjugate is the correlation.
  for (let i = 0; i < size; i++) {
    const [x, y, u, v] = [kept.re[i] as number, kept.im[i] as number, own.re[i] as number, own.im[i] as number]
    own.re[i] = x * u + y * v
    own.im[i] = -(y * u - x * v)
  }
  // Of the conjugate the transform is, but for its length, the inverse.
  transform(own.re, own.im)
  const [sa, sb] = [squares(a), squares(b.coarse)]
  const need = Math.min(least * perSecond, n)
  return Array.from({ length: n + m - 1 }, (_, i) => {
    const at = i - (n - 1)
    const from = Math.max(0, at)
    const to = Math.min(m, at + n)
    if (to - from < need) return null
    const energy = ((sa[to - at] as number) - (sa[from - at] as number)) * ((sb[to] as number) - (sb[from] as number))
    return energy > 0 ? (own.re[(at + size) % size] as number) / size / Math.sqrt(energy) : 0
  })
}

/** Likeness of `a` laid at `at` in `b`, moment by moment. */
function likenessAt(a: Float64Array, b: Float64Array, at: number): number {
  let [ab, aa, bb] = [0, 0, 0]
  for (let i = Math.max(0, -at); i < Math.min(a.length, b.length - at); i++) {
    const [x, y] = [a[i] as number, b[i + at] as number]
    ab += x * y
    aa += x * x
    bb += y * y
  }
  return aa * bb > 0 ? ab / Math.sqrt(aa * bb) : 0
}

/**
 * The best place of a clip's sound in a recording, by their loudness (`momentsPerSecond`); null where they share less than two
 * seconds, or nothing is heard. Whether it can be trusted is told by `isSame`.
 */
export function align(clip: Uint8Array, recording: Searched): Alignment | null {
  const perSecond = momentsPerSecond / coarse
  const a = movement(thinned(clip), perSecond)
  if (a.length < least * perSecond || recording.coarse.length < least * perSecond) return null
  const all = likenesses(a, recording, perSecond)
  const sharedAt = (i: number): number => {
    const at = i - (a.length - 1)
    return (Math.min(recording.coarse.length, at + a.length) - Math.max(0, at)) / perSecond
  }
  const weights = all.map((l, i) => (l === null ? Number.NEGATIVE_INFINITY : weightOf(l, sharedAt(i))))
  let best = 0
  for (const [i, w] of weights.entries()) if (w > (weights[best] as number)) best = i
  const next = weights.reduce((most, w, i) => (Math.abs(i - best) > around * perSecond && w > most ? w : most), 0)
  const fine = movement(clip, momentsPerSecond)
  const near = (best - (a.length - 1)) * coarse
  let at = near
  let likeness = Number.NEGATIVE_INFINITY
  for (let d = -2 * coarse; d <= 2 * coarse; d++) {
    const l = likenessAt(fine, recording.fine, near + d)
    if (l > likeness) [likeness, at] = [l, near + d]
  }
  return { at: at / momentsPerSecond, likeness: all[best] ?? 0, shared: sharedAt(best), weight: weights[best] as number, next }
}

/**
 * Whether two sounds are the same moment: alike far beyond chance, and nowhere else nearly so (measured: unlike talk comes to 4.5, in
 * recordings of an hour). Wrong is worse than none.
 */
export const isSame = (a: Alignment): boolean => a.weight >= 5.2 && a.likeness >= 0.4 && a.weight - a.next >= 1.2
