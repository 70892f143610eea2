/** Space and time before the work, time left during it. */
import type { Size } from '../framing/index.ts'
import type { Rate } from '../time/index.ts'
import { codingOf, isRewrap, pictureBits, type Spec, sizeUnder } from '../specs/index.ts'

export interface Piece {
  /** Of the original. */
  readonly frames: number
  /** Of what is made. */
  readonly rate: Rate
  readonly size: Size
  readonly pixelAspect: number
  /** The raster that is made; without, what the spec makes of all of the picture. */
  readonly made?: Size | undefined
  /** Sound channels that go along. */
  readonly channels: number
  /** Seconds it lasts. */
  readonly seconds: number
  /** Bits per second of the original, which a new file of the same streams has too. */
  readonly dataRate?: number | undefined
}

const madeOf = (spec: Spec, p: Piece): Size => p.made ?? sizeUnder(spec, p.size, p.pixelAspect)

/** Bytes of a second of one channel. */
const perChannel: Record<Spec['sound']['coding'], number> = { pcm16: 2, pcm24: 3, pcm32: 4, flac: 1.6, aac: 0.17 }
/** Bytes that the sound of a piece takes. */
export const soundBytes = (spec: Spec, p: Piece): number => p.seconds * p.channels * (spec.sound.rate ?? 48000) * perChannel[spec.sound.coding]

/** Bytes that a piece takes under a spec: picture, sound, and a little for the wrapper. */
export function bytesUnder(spec: Spec, piece: Piece): number {
  if (isRewrap(spec)) return Math.round((piece.seconds * (piece.dataRate ?? 0)) / 8 + 20000)
  const picture = (piece.seconds * pictureBits(spec, madeOf(spec, piece), piece.rate)) / 8
  return Math.round(picture + soundBytes(spec, piece) + 20000)
}

/** Measured work: pixels read and made per second by a machine. */
export interface Speed {
  readonly pixelsPerSecond: number
}

/** Pixels that making a piece touches: those read and those made. */
export function pixelsOf(spec: Spec, piece: Piece): number {
  const size = madeOf(spec, piece)
  return piece.frames * (piece.size.width * piece.size.height + size.width * size.height)
}

/** Seconds that pieces take at a speed, or at the spec's first guess. */
export const secondsUnder = (spec: Spec, pieces: readonly Piece[], speed: Speed | null): number =>
  Math.ceil(pieces.reduce((sum, p) => sum + pixelsOf(spec, p), 0) / (speed?.pixelsPerSecond ?? codingOf(spec.coding).pixelsPerSecond))

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

export * from './streams.ts'
