/** Fingerprints: small numbers that stand for pictures when looking for their like among very many. */
import { lumaBytes, sampleBytes, sampleSize } from './sample.ts'
import { likenessUnderLook } from './recognise.ts'

/** Words of 32 bits that a fingerprint takes. */
export const printWords = 4
const bits = printWords * 32
const columns = 9
const rows = 9

/**
 * The fingerprint of a sample: whether brightness rises from field to field of a coarse grid, along rows and along columns. It
 * bears looks (any change of levels that keeps their order), coarse codings and small burn-ins.
 */
export function fingerprint(sample: Uint8Array, into: Uint32Array = new Uint32Array(printWords), at = 0): Uint32Array {
  if (sample.length !== sampleBytes && sample.length !== lumaBytes) throw new RangeError(`A sample has ${sampleBytes} bytes, not ${sample.length}.`)
  const sums = new Float64Array(columns * rows)
  for (let r = 0; r < rows; r++) {
    const [top, bottom] = [Math.floor((r * sampleSize.height) / rows), Math.floor(((r + 1) * sampleSize.height) / rows)]
    for (let c = 0; c < columns; c++) {
      const [left, right] = [Math.floor((c * sampleSize.width) / columns), Math.floor(((c + 1) * sampleSize.width) / columns)]
      let sum = 0
      for (let y = top; y < bottom; y++) for (let x = left; x < right; x++) sum += sample[y * sampleSize.width + x] as number
      sums[r * columns + c] = sum / ((bottom - top) * (right - left))
    }
  }
  for (let w = 0; w < printWords; w++) into[at + w] = 0
  let bit = 0
  const put = (rises: boolean) => {
    if (rises) into[at + (bit >> 5)] = ((into[at + (bit >> 5)] as number) | (1 << (bit & 31))) >>> 0
    bit++
  }
  for (let r = 0; r < 8; r++) for (let c = 0; c < 8; c++) put((sums[r * columns + c + 1] as number) > (sums[r * columns + c] as number))
  for (let r = 0; r < 8; r++) for (let c = 0; c < 8; c++) put((sums[(r + 1) * columns + c] as number) > (sums[r * columns + c] as number))
  return into
}

/** Bits set in a word of 32. */
function ones(x: number): number {
  let v = x - ((x >>> 1) & 0x55555555)
  v = (v & 0x33333333) + ((v >>> 2) & 0x33333333)
  return Math.imul((v + (v >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24
}

/** How unlike two fingerprints are: 0 for the same, about a half for pictures with nothing in common. */
export function unlike(a: Uint32Array, at: number, b: Uint32Array, bt: number): number {
  let sum = 0
  for (let w = 0; w < printWords; w++) sum += ones((a[at + w] as number) ^ (b[bt + w] as number))
  return sum / bits
}

/** Fingerprints of a clip: one of every `every`th frame, from its first on. */
export interface Prints {
  readonly clipId: string
  readonly every: number
  readonly prints: Uint32Array
}

/** What is looked for: pictures, each `frame` frames of the clip after the first that is wanted. */
export interface PrintToFind {
  readonly frame: number
  readonly print: Uint32Array
}

export interface Sighting {
  readonly clipId: string
  /** Frame of the clip at which what was looked for begins, to within `every` frames. */
  readonly frame: number
  /** 0 for the very same pictures. */
  readonly unlike: number
}

/** Beyond this a run of pictures is another. */
export const unlikeAtMost = 0.3
/** Of two pictures together: somewhat less than what two have that have nothing in common. */
const nothingAlike = 0.84

/**
 * The places among all clips where the wanted pictures stand, likest first: at most one in a clip for each stretch as long as
 * what is wanted. Those that are unlike are left out.
 */
export function sightings(wanted: readonly PrintToFind[], clips: readonly Prints[], most = 9): Sighting[] {
  const found: Sighting[] = []
  if (wanted.length === 0) return found
  const span = wanted.reduce((n, w) => Math.max(n, w.frame), 0)
  for (const { clipId, every, prints } of clips) {
    const count = prints.length / printWords
    const offsets = wanted.map((w) => Math.round(w.frame / every))
    const near = Math.max(1, Math.ceil(span / every))
    let last: Sighting | null = null
    for (let i = 0; i < count; i++) {
      let [sum, n] = [0, 0]
      for (let k = 0; k < wanted.length; k++) {
        const j = i + (offsets[k] as number)
        // What reaches past the end is compared as far as there is something.
        if (j >= count) continue
        sum += unlike((wanted[k] as PrintToFind).print, 0, prints, j * printWords)
        n++
        // What has nothing in common in its first two pictures is not looked at further.
        if (sum > unlikeAtMost * wanted.length || (k === 1 && sum > nothingAlike)) break
      }
      if (n === 0 || n * 2 < wanted.length || sum > unlikeAtMost * n) continue
      const here = { clipId, frame: i * every, unlike: sum / n }
      if (last && (here.frame - last.frame) / every <= near) {
        if (here.unlike < last.unlike) {
          found[found.length - 1] = here
          last = here
        }
      } else {
        found.push(here)
        last = here
      }
    }
  }
  return found.sort((a, b) => a.unlike - b.unlike).slice(0, most)
}

/**
 * To the frame: of the places within `reach` of a sighting the one where the pictures are most alike, under whatever look. `edit`: pictures, each `frame`
 * frames after the first; `frameOf` gives the clip's own pictures, null where there are none. `next`: the likeness at the likest other place, 0 where
 * there is none. Null where nothing could be compared.
 */
export function alignedAt(
  edit: readonly { readonly frame: number; readonly sample: Uint8Array }[],
  near: number,
  reach: number,
  frameOf: (frame: number) => Uint8Array | null,
): { readonly frame: number; readonly likeness: number; readonly next: number } | null {
  let best: { frame: number; likeness: number } | null = null
  let next = 0
  for (let first = near - reach; first <= near + reach; first++) {
    const alike = edit.flatMap(({ frame, sample }) => {
      const own = frameOf(first + frame)
      return own ? [likenessUnderLook(sample, own)] : []
    })
    // Most of it must be there to be compared.
    if (alike.length * 2 <= edit.length) continue
    const mean = alike.reduce((a, b) => a + b, 0) / alike.length
    if (!best || mean > best.likeness || (mean === best.likeness && Math.abs(first - near) < Math.abs(best.frame - near))) {
      next = Math.max(next, best?.likeness ?? 0)
      best = { frame: first, likeness: mean }
    } else next = Math.max(next, mean)
  }
  return best && { ...best, next }
}
