/** Timecode as SMPTE ST 12-1 counts it: labels for frames, with and without dropped numbers. */
import { dropPossible, nominal, type Rate } from './rate.ts'

/** The digits of a timecode, before anyone has said at which rate they are counted. */
export interface TimecodeDigits {
  readonly h: number
  readonly m: number
  readonly s: number
  readonly f: number
  /** Written with `;` or `,` before the frames, the usual sign of drop-frame counting. */
  readonly drop: boolean
}

/** Reads `hh:mm:ss:ff`, `hh:mm:ss;ff` and `hh:mm:ss.ff` (dot and semicolon both say drop-frame). Null if it is none of these. */
export function parseTimecode(text: string): TimecodeDigits | null {
  return plainTimecode(text) ?? writtenTimecode(text)
}

/** `hh:mm:ss:ff` and `hh:mm:ss;ff` without blanks, as nearly all of them are: long lists are full of them. */
function plainTimecode(text: string): TimecodeDigits | null {
  if (text.length !== 11 || text.charCodeAt(2) !== 58 || text.charCodeAt(5) !== 58) return null
  const sign = text.charCodeAt(8)
  const [h, m, s, f] = [pair(text, 0), pair(text, 3), pair(text, 6), pair(text, 9)]
  return (sign === 58 || sign === 59) && h >= 0 && h < 24 && m >= 0 && m < 60 && s >= 0 && s < 60 && f >= 0 ? { h, m, s, f, drop: sign === 59 } : null
}
function pair(text: string, at: number): number {
  const [a, b] = [text.charCodeAt(at) - 48, text.charCodeAt(at + 1) - 48]
  return a >= 0 && a <= 9 && b >= 0 && b <= 9 ? a * 10 + b : -1
}

function writtenTimecode(text: string): TimecodeDigits | null {
  const t = /^\s*(\d{1,2})[:;.](\d{2})[:;.](\d{2})([:;.,])(\d{2,3})\s*$/.exec(text)
  if (!t) return null
  const [h, m, s, f] = [Number(t[1]), Number(t[2]), Number(t[3]), Number(t[5])]
  if (h > 23 || m > 59 || s > 59) return null
  return { h, m, s, f, drop: t[4] !== ':' }
}

/** Numbers left out at the start of each minute but every tenth: 2 at 30000/1001, 4 at 60000/1001 (ST 12-1, 5.2.2). */
const dropped = (r: Rate): number => (nominal(r) / 30) * 2

/** True for a label that drop-frame counting leaves out, such as 00:01:00;00 at 29.97. */
export function isDroppedLabel(tc: TimecodeDigits, r: Rate): boolean {
  return tc.drop && dropPossible(r) && tc.m % 10 !== 0 && tc.s === 0 && tc.f < dropped(r)
}

/**
 * Frames from 00:00:00:00 to this label at `r`. Dropped numbers count only where `tc.drop` and the rate allow it.
 * Returns null where the frame digits reach the nominal rate.
 */
export function framesOf(tc: TimecodeDigits, r: Rate): number | null {
  const n = nominal(r)
  if (tc.f >= n) return null
  const minutes = tc.h * 60 + tc.m
  const plain = (minutes * 60 + tc.s) * n + tc.f
  if (!tc.drop || !dropPossible(r)) return plain
  return plain - dropped(r) * (minutes - Math.floor(minutes / 10))
}

/** The same where frame digits that reach the nominal rate are held at the last frame of their second. */
export const framesWithin = (tc: TimecodeDigits, r: Rate): number => framesOf({ ...tc, f: Math.min(tc.f, nominal(r) - 1) }, r) ?? 0

/** Frames in 24 hours of timecode. */
export function dayFrames(r: Rate, drop: boolean): number {
  const n = nominal(r)
  return drop && dropPossible(r) ? 24 * 3600 * n - dropped(r) * (24 * 60 - 24 * 6) : 24 * 3600 * n
}

/** The label of the frame `frames` after 00:00:00:00; passes midnight in both directions. */
export function digitsAt(frames: number, r: Rate, drop = false): TimecodeDigits {
  const n = nominal(r)
  const useDrop = drop && dropPossible(r)
  const day = dayFrames(r, useDrop)
  let count = ((frames % day) + day) % day
  if (useDrop) {
    const d = dropped(r)
    const perMinute = 60 * n - d
    const perTen = 10 * 60 * n - 9 * d
    const tens = Math.floor(count / perTen)
    const rest = count % perTen
    count += 9 * d * tens + (rest < 60 * n ? 0 : d * (1 + Math.floor((rest - 60 * n) / perMinute)))
  }
  const f = count % n
  const s = Math.floor(count / n)
  return { h: Math.floor(s / 3600), m: Math.floor(s / 60) % 60, s: s % 60, f, drop: useDrop }
}

const twos = Array.from({ length: 100 }, (_, x) => String(x).padStart(2, '0'))
const two = (x: number): string => twos[x] ?? String(x).padStart(2, '0')

/** `hh:mm:ss:ff`, with `;` before the frames for drop-frame. */
export const timecodeText = (tc: TimecodeDigits): string => `${two(tc.h)}:${two(tc.m)}:${two(tc.s)}${tc.drop ? ';' : ':'}${two(tc.f)}`

/** Before (negative), the same (0) or after (positive), as labels run through a day. */
export const compareLabels = (a: TimecodeDigits, b: TimecodeDigits): number => a.h - b.h || a.m - b.m || a.s - b.s || a.f - b.f

/** The label at a frame count, written out. */
export const formatFrames = (frames: number, r: Rate, drop = false): string => timecodeText(digitsAt(frames, r, drop))

/**
 * The same label counted at another rate: hours, minutes and seconds stay, the frame digits become the frame at or before
 * the same part of the second. This is how a list at 25 names a frame of a clip that counts 50.
 */
export function relabel(tc: TimecodeDigits, from: Rate, to: Rate, drop: boolean): TimecodeDigits {
  return { ...tc, f: Math.floor((tc.f * nominal(to)) / nominal(from)), drop }
}
