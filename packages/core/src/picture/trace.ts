/** Every frame of a file as a very small grey picture (one byte a pixel, rows from the top): enough to see that none is black, frozen or another. */

/** The size of a frame in a trace; pixels are picked, not averaged, so that taking them costs next to nothing. */
export const traceSize = { width: 32, height: 18 } as const
export const traceBytes = traceSize.width * traceSize.height

/** A stretch of frames that is not as its source is; half-open, counted from the file's first. */
export interface Stretch {
  readonly kind: 'black' | 'frozen' | 'other'
  readonly in: number
  readonly out: number
}

/** Mean difference of two frames of traces, 0 to 255. */
function apart(a: Uint8Array, i: number, b: Uint8Array, j: number): number {
  let sum = 0
  for (let k = 0; k < traceBytes; k++) sum += Math.abs((a[i * traceBytes + k] ?? 0) - (b[j * traceBytes + k] ?? 0))
  return sum / traceBytes
}
function level(a: Uint8Array, i: number): number {
  let sum = 0
  for (let k = 0; k < traceBytes; k++) sum += a[i * traceBytes + k] ?? 0
  return sum / traceBytes
}

/** A picture darker than this shows nothing (the code of black is 16). */
const dark = 24
/** By so much its source must be lighter. */
const lighter = 8
/** A frame so unlike its source shows something else: coarse codings stay far below. */
const another = 24
/** Frames that differ by less are the same picture. */
const same = 0.6
/** By so much the source must have moved on meanwhile. */
const moved = 4
/** So few repeated frames are no stretch: codings repeat what hardly moves. */
const least = 4

/**
 * The stretches in which what was made is black, stands still or shows something else, and its source does not. Both traces start with the
 * same frame; what one has more is left out.
 */
export function stretches(made: Uint8Array, source: Uint8Array): Stretch[] {
  const n = Math.floor(Math.min(made.length, source.length) / traceBytes)
  const kinds: (Stretch['kind'] | null)[] = Array.from({ length: n }, (_, i) => {
    const m = level(made, i)
    if (m < dark && level(source, i) - m > lighter) return 'black'
    return apart(made, i, source, i) > another ? 'other' : null
  })
  for (let i = 0; i < n; ) {
    let j = i + 1
    while (j < n && apart(made, j, made, i) < same) j++
    const run = j - i
    let most = 0
    if (run >= least) for (let k = i + 1; k < j; k++) most = Math.max(most, apart(source, k, source, i))
    if (most > moved) for (let k = i; k < j; k++) if (kinds[k] !== 'black') kinds[k] = 'frozen'
    i = j
  }
  const out: Stretch[] = []
  kinds.forEach((kind, i) => {
    const last = out.at(-1)
    if (!kind) return
    if (last && last.kind === kind && last.out === i) out[out.length - 1] = { ...last, out: i + 1 }
    else out.push({ kind, in: i, out: i + 1 })
  })
  return out
}
