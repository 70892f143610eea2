/** Time as single pictures carry it. */
import { dropPossible, framesOf, nominal, type Rate, type TimecodeDigits } from '../time/index.ts'

/** What one picture says; null where it says nothing. */
export interface PictureTime {
  readonly timecode: TimecodeDigits | null
  /** The field mark, where the header has one: above 30 frames a second it is set in the second of the two frames that bear one number. */
  readonly second: boolean | null
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

/** Whether two frames bear one number, since the word of ST 12-1 has no room for more than 39: above 30 frames a second. */
const countsPairs = (rate: Rate): boolean => nominal(rate) > 30

/** The label as it stands in a word that has a field mark, and that mark. */
export const pairOf = (t: TimecodeDigits, rate: Rate): { readonly label: TimecodeDigits; readonly second: boolean } =>
  countsPairs(rate) ? { label: { ...t, f: t.f >> 1 }, second: t.f % 2 === 1 } : { label: t, second: false }

/** The label of a picture whose number is one of a pair where `rate` needs that; null where it says none. */
export function pictureLabel({ timecode, second }: PictureTime, rate: Rate): TimecodeDigits | null {
  return timecode && second !== null && countsPairs(rate) ? { ...timecode, f: 2 * timecode.f + Number(second) } : timecode
}

/**
 * The start of a sequence, in frames from midnight at `rate`. What headers leave open, the labels of its two ends tell, since as many frames lie between
 * them as pictures: whether numbers are dropped where a header cannot say so (ST 12-1, 5.2.2; drop-frame if they do not tell), and whether a program
 * that should have counted pairs of frames has counted single ones. A position in the film header counts where there is no timecode; null without either.
 */
export function pictureTime({ first, last, between }: FirstAndLast, rate: Rate): { start: number; drop: boolean } | null {
  const { timecode } = first
  if (!timecode) return first.position === null || first.position === 0 ? null : { start: first.position, drop: false }
  const drops = first.saysDrop ? [timecode.drop] : dropPossible(rate) ? [true, false] : [false]
  const readings = [pictureLabel, ({ timecode: t }: PictureTime) => t].flatMap((read) =>
    drops.flatMap((drop) => {
      const [a, b] = [first, last].map((p) => {
        const label = read(p, rate)
        return label && framesOf({ ...label, drop }, rate)
      })
      return typeof a === 'number' ? [{ start: a, drop: drop && dropPossible(rate), fits: typeof b === 'number' && b - a === between }] : []
    }),
  )
  const told = readings.find((r) => r.fits) ?? readings[0]
  return told ? { start: told.start, drop: told.drop } : null
}

/** Two decimal digits in a byte. */
export const bcd = (n: number): number => (Math.floor(n / 10) << 4) | (n % 10)
/** The number in such a byte; null where it holds no digits. */
export const ofBcd = (b: number): number | null => ((b & 15) > 9 || b >> 4 > 9 ? null : (b >> 4) * 10 + (b & 15))
