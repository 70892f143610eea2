/** Time as single pictures carry it. */
import { dropPossible, framesOf, type Rate, type TimecodeDigits } from '../time/index.ts'

/** What one picture says; null where it says nothing. */
export interface PictureTime {
  readonly timecode: TimecodeDigits | null
  /** Whether the header can say that numbers are dropped: where it cannot, `timecode.drop` means nothing. */
  readonly saysDrop: boolean
  readonly rate: Rate | null
  /** Position in the sequence, by the film header; counted in frames. */
  readonly position: number | null
}

/** What is written into a picture: its timecode, and the rate it counts at. */
export interface TimeStamp {
  readonly timecode: TimecodeDigits
  readonly rate: Rate
  /** Frames since the sequence's first. */
  readonly position: number
  readonly length: number
}

/** What a sequence's first and last picture say, and how many numbers lie between them. */
export interface FirstAndLast {
  readonly first: PictureTime
  readonly last: PictureTime
  readonly between: number
}

/**
 * The start of a sequence, in frames from midnight at `rate`. Where headers cannot say whether numbers are dropped, the labels of its two ends tell: as many
 * frames lie between them as pictures (ST 12-1, 5.2.2); where they do not tell, it is drop-frame if the rate knows that. A position in the film header counts where there is no timecode; null without either.
 */
export function pictureTime({ first, last, between }: FirstAndLast, rate: Rate): { start: number; drop: boolean } | null {
  const { timecode } = first
  if (!timecode) return first.position === null || first.position === 0 ? null : { start: first.position, drop: false }
  const fits = (drop: boolean): boolean => {
    const [a, b] = [framesOf({ ...timecode, drop }, rate), last.timecode && framesOf({ ...last.timecode, drop }, rate)]
    return a !== null && b !== null && b - a === between
  }
  const drop = first.saysDrop ? timecode.drop : dropPossible(rate) && (fits(true) || !fits(false))
  const start = framesOf({ ...timecode, drop }, rate)
  return start === null ? null : { start, drop: drop && dropPossible(rate) }
}

/** Two decimal digits in a byte. */
export const bcd = (n: number): number => (Math.floor(n / 10) << 4) | (n % 10)
/** The number in such a byte; null where it holds no digits. */
export const ofBcd = (b: number): number | null => ((b & 15) > 9 || b >> 4 > 9 ? null : (b >> 4) * 10 + (b & 15))
