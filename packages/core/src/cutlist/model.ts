/** The cut as read from lists: events on tracks, in whole frames of the cut's rate. */
import type { Rate, Step, TimecodeDigits } from '../time/index.ts'

export type Medium = 'picture' | 'sound'

/** What an event shows; all but `camera` and `recorder` can do without an original. */
export type EventKind = 'camera' | 'title' | 'still' | 'music' | 'mix' | 'black'

/** The transition at the head of an event; it belongs to the incoming event. `frames` is 0 for a cut. */
export interface Transition {
  readonly type: 'cut' | 'dissolve' | 'wipe' | 'key'
  readonly frames: number
  /** As written in the list: `C`, `D`, `W001`, `KB`. */
  readonly code: string
  /** The outgoing side is black (a fade in), whatever stands before on the track. */
  readonly fromBlack: boolean
}

/** One event on one track. */
export interface CutEvent {
  /** `cut/track/number`, unique within the cut. */
  readonly id: string
  /** As written in the list, zeros included. */
  readonly number: string
  /** V1, V2, A1 and so on. */
  readonly track: string
  readonly medium: Medium
  readonly kind: EventKind
  readonly reel: string | null
  readonly clipName: string | null
  readonly sourceFile: string | null
  /** Source timecode as written; at which rate it counts is known only with the source. Out is exclusive. */
  readonly sourceIn: TimecodeDigits
  readonly sourceOut: TimecodeDigits
  /** Frames from midnight at the cut's rate; half-open. */
  readonly recordIn: number
  readonly recordOut: number
  readonly transition: Transition
  /** Null is real time. */
  readonly speed: Step | null
  readonly comments: readonly string[]
  /** Which of the cut's files it stands in, and its lines there, counted from 1, both included. */
  readonly file: number
  readonly firstLine: number
  readonly lastLine: number
}

/** Something a reader could not take as it stands. `warning` means the event was read all the same. */
export interface Problem {
  readonly code: string
  readonly severity: 'error' | 'warning'
  readonly file: string
  /** Counted from 1; 0 where the whole file is meant. */
  readonly line: number
  readonly message: string
}

export interface Cut {
  readonly name: string
  readonly rate: Rate
  /** Record timecode is drop-frame. */
  readonly drop: boolean
  /** The earliest record-in over all lists, in frames from midnight: frame 0 of the cut. */
  readonly start: number
  /** Frames from `start` to the latest record-out. */
  readonly length: number
  readonly events: readonly CutEvent[]
}

const titleWords = /^(main|end|opening|closing)?[\s_-]*(titles?|captions?|credits?|subtitles?|supers?|lower[\s_-]?thirds?|slate|text|card)([\s_\-.:]|\d|$)/i
const musicWords = /(^|[\s_\-.])(music|score|song)([\s_\-.]|\d|$)/i
const mixWords = /(^|[\s_\-.])(final[\s_-]?mix|mixdown|mix)([\s_\-.]|\d|$)/i

/** What an event shows, told from its reel and name. Stills are told only by a picture file's extension. */
export function kindOf(medium: Medium, reel: string | null, name: string | null): EventKind {
  if (reel && /^(BL|BLACK)$/i.test(reel)) return 'black'
  if (!name) return 'camera'
  if (medium === 'sound') return mixWords.test(name) ? 'mix' : musicWords.test(name) ? 'music' : 'camera'
  if (titleWords.test(name)) return 'title'
  return /\.(png|jpe?g|psd|ai|gif|bmp|svg)$/i.test(name) ? 'still' : 'camera'
}
