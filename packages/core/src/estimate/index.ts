/** Space and time before the work, time left during it. */
import type { Size } from '../framing/index.ts'
import { type Spec, sizeUnder } from '../specs/index.ts'

export interface Piece {
  readonly frames: number
  readonly size: Size
  readonly pixelAspect: number
  /** Sound channels that go along, at 48 kHz and 24 bit. */
  readonly channels: number
  /** Seconds it lasts. */
  readonly seconds: number
}

/** Bytes that a piece takes under a spec: picture, sound, and a little for the wrapper. */
export function bytesUnder(spec: Spec, piece: Piece): number {
  const size = sizeUnder(spec, piece.size, piece.pixelAspect)
  const picture = (piece.frames * size.width * size.height * spec.bitsPerPixel) / 8
  return Math.round(picture + piece.seconds * piece.channels * 48000 * 3 + 20000)
}

/** Measured work: pixels read and made per second by a machine. */
export interface Speed {
  readonly pixelsPerSecond: number
}

/** Pixels that making a piece touches: those read and those made. */
export function pixelsOf(spec: Spec, piece: Piece): number {
  const size = sizeUnder(spec, piece.size, piece.pixelAspect)
  return piece.frames * (piece.size.width * piece.size.height + size.width * size.height)
}

/** Seconds that pieces take at a speed, or at the spec's first guess. */
export const secondsUnder = (spec: Spec, pieces: readonly Piece[], speed: Speed | null): number =>
  Math.ceil(pieces.reduce((sum, p) => sum + pixelsOf(spec, p), 0) / (speed?.pixelsPerSecond ?? spec.pixelsPerSecond))

/** Seconds left of work that is `done` of `total` (any unit) after `elapsed` seconds; null while nothing can be said. */
export function secondsLeft(done: number, total: number, elapsed: number): number | null {
  return done <= 0 || elapsed < 0.5 ? null : Math.max(0, (elapsed / done) * (total - done))
}

/** A time for people: `about 3 min`. */
export function aboutTime(s: number): string {
  if (s < 50) return `about ${Math.max(1, Math.round(s / 5) * 5 || 1)} s`
  if (s < 3600) return `about ${Math.max(1, Math.round(s / 60))} min`
  return `about ${Math.floor(s / 3600)} h ${Math.round((s % 3600) / 60)} min`
}

/** Decimal units: `1.3 GB`. */
export function bytesText(n: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB', 'PB']
  let i = 0
  let v = n
  while (v >= 1000 && i < units.length - 1) {
    v /= 1000
    i++
  }
  return `${v >= 100 || i === 0 ? Math.round(v) : v.toFixed(1)} ${units[i]}`
}
