/** Space and time before the work, time left during it. */
import type { Size } from '../framing/index.ts'
import type { Rate } from '../time/index.ts'
import { codingOf, isRewrap, pictureBits, type Spec, sizeUnder } from '../specs/index.ts'

export interface CopyToEstimate {
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
  /** Whether its pictures are raw and have to be developed. */
  readonly raw?: boolean | undefined
}

const madeOf = (spec: Spec, p: CopyToEstimate): Size => p.made ?? sizeUnder(spec, p.size, p.pixelAspect)

/** Bytes of a second of one channel. */
const perChannel: Record<Spec['sound']['coding'], number> = { pcm16: 2, pcm24: 3, pcm32: 4, flac: 1.6, aac: 0.17 }
/** Bytes that the sound of a piece takes. */
export const soundBytes = (spec: Spec, p: CopyToEstimate): number => p.seconds * p.channels * (spec.sound.rate ?? 48000) * perChannel[spec.sound.coding]

/** Bytes that a piece takes under a spec: picture, sound, and a little for the wrapper. */
export function bytesUnder(spec: Spec, piece: CopyToEstimate): number {
  if (isRewrap(spec)) return Math.round((piece.seconds * (piece.dataRate ?? 0)) / 8 + 20000)
  const picture = (piece.seconds * pictureBits(spec, madeOf(spec, piece), piece.rate)) / 8
  return Math.round(picture + soundBytes(spec, piece) + 20000)
}

/** Pixels of originals that a machine of two cores reads in a second, as a first guess: coded ones, and raw ones that are developed. */
const readPerSecond = { coded: 350e6, raw: 5.8e6 }
/** Bytes that a machine moves into a new file in a second, as a first guess. */
const movedPerSecond = 150e6
/** Seconds a copy takes beside its pixels: processes that start, its check, its file put in place. */
export const handlingSeconds = 0.3

/** A piece, and the spec it is copied by. */
export interface Making {
  readonly spec: Spec
  readonly piece: CopyToEstimate
}

/** Of one piece under one spec: what it takes by itself, and what reading the original takes, which others share. */
function guessOne({ spec, piece }: Making): { own: number; read: number } {
  if (isRewrap(spec)) return { own: handlingSeconds + bytesUnder(spec, piece) / movedPerSecond, read: 0 }
  const made = madeOf(spec, piece)
  return {
    own: handlingSeconds + (piece.frames * made.width * made.height) / codingOf(spec.coding).pixelsPerSecond,
    read: (piece.frames * piece.size.width * piece.size.height) / readPerSecond[piece.raw ? 'raw' : 'coded'],
  }
}

/**
 * Seconds in which a machine of two cores with nothing else to do makes copies of one original from one decode, as a first
 * guess; for each copy its part of them.
 */
export function firstGuess(copies: readonly Making[]): number[] {
  const each = copies.map(guessOne)
  const sharing = each.filter((e) => e.read > 0).length
  return each.map((e) => e.own + e.read / (sharing || 1))
}

/** Seconds left of work that is `done` of `total` (any unit) after `elapsed` seconds; null while nothing can be said. */
export function secondsLeft(done: number, total: number, elapsed: number): number | null {
  return done <= 0 || elapsed < 0.5 ? null : Math.max(0, (elapsed / done) * (total - done))
}

/** A task in hand, for the time left of its batch. */
export interface InHand {
  /** Seconds of a whole machine that it is guessed to take. */
  readonly cost: number
  /** How much of its picture has been made, 0 to 1. */
  readonly share: number
  /** Seconds of a whole machine that it took so far. */
  readonly spent: number
  /** How many tasks its machine runs, this one included, at least 1; null while it is held. */
  readonly beside: number | null
}

/** What is known of a batch. Costs in guessed, `spent` in real seconds of a whole machine. */
export interface WorkNow {
  readonly cost: number
  /** Of what has ended in any way. */
  readonly ended: number
  /** Of what has been made, and what making it took. */
  readonly made: number
  readonly spent: number
  readonly inHand: readonly InHand[]
  /** Whether a task's end is only handled, not made in its progress: that of an edit copy is checked after its last frame. */
  readonly handled: boolean
}

/** What the tasks in hand have done of their cost. */
const goingOf = (w: WorkNow): number =>
  w.inHand.reduce((n, t) => n + Math.min(1, t.share) * (t.cost - (w.handled ? Math.min(handlingSeconds, t.cost / 2) : 0)), 0)

/** How far a batch is, from 0 to 1: what has ended, and what its tasks in hand have done of their cost. */
export const shareDone = (w: WorkNow): number => (w.ended + goingOf(w)) / (w.cost || 1)

/**
 * Seconds left of a batch; null while nothing can be said. What its work took so far says what the rest takes; a machine
 * that has other work in hand counts for the part that it gives to this batch.
 */
export function workLeft(w: WorkNow): number | null {
  const hands = w.inHand.reduce((n, t) => n + (t.beside ? 1 / t.beside : 0), 0)
  if (hands === 0) return null
  const spent = w.inHand.reduce((n, t) => n + t.spent, w.spent)
  const left = secondsLeft(w.made + goingOf(w), w.made + w.cost - w.ended, spent)
  return left === null ? null : left / hands
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

/**
 * Bytes that stay free on a disk of `size` bytes that others work on too: a hundredth of it, one GB at most. A disk that is full to its last
 * byte keeps nobody's work.
 */
export const targetReserve = (size: number): number => Math.min(1e9, Math.floor(size / 100))

/** Bytes that stay free on the disk that holds database, queue and caches: a twentieth of it, two GB at most. */
export const ownReserve = (size: number): number => Math.min(2e9, Math.floor(size / 20))

export * from './streams.ts'
