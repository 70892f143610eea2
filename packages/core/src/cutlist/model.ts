/** The cut as read from lists: events on tracks, in whole frames of the cut's rate. */
import type { Cdl } from '../look/index.ts'
import type { Rate, Step, TimecodeDigits } from '../time/index.ts'

export type Medium = 'picture' | 'sound'

/** What an event shows; all but `camera` can do without an original. */
export type EventKind = 'camera' | 'title' | 'still' | 'music' | 'mix' | 'black' | 'bars'

/** A note at a record frame, in frames from midnight at the cut's rate. */
export interface Marker {
  readonly at: number
  /** Frames; 0 marks one moment. */
  readonly length: number
  readonly text: string
  /** As written (RED, GREEN); null where none is. */
  readonly colour: string | null
}

/** How loud an event is from a record frame on (frames from midnight at the cut's rate), in decibels. */
export interface Level {
  readonly at: number
  readonly db: number
}

/** What an OTIO file says of a clip beyond the fields of an event: JSON as text, kept to be written back. */
export interface OtioExtra {
  readonly metadata?: string
  /** Effects that are no change of speed. */
  readonly effects?: readonly string[]
  /** All media references by their keys, where there are several or one that is no plain file, and which of them is used. */
  readonly references?: string
  readonly active?: string
}

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
  /** Source timecode as written; at which rate it counts is known only with the source. Out is exclusive, also of events that run backwards: they show the last frame before it first. */
  readonly sourceIn: TimecodeDigits
  readonly sourceOut: TimecodeDigits
  /** Frames from midnight at the cut's rate; half-open. */
  readonly recordIn: number
  readonly recordOut: number
  readonly transition: Transition
  /** Null is real time. */
  readonly speed: Step | null
  /** Every line that stands with the event, as written; what was understood of them is in the other fields too. */
  readonly comments: readonly string[]
  /** The rate that source timecode counts at, where the file says so; else it is the list's or the source's (see `locate`). */
  readonly sourceRate?: Rate
  /** What the file says its media hold, in frames at `sourceRate`: a first frame and a number of frames. */
  readonly media?: { readonly start: number; readonly length: number }
  /** Further files that hold the same, by their names. */
  readonly otherFiles?: readonly string[]
  /** Channels as the list writes them (V, AA/V), where one line stands for several events. */
  readonly channels?: string
  /** What stands behind the four timecodes in the line itself. */
  readonly tail?: string
  readonly cdl?: Cdl
  readonly markers?: readonly Marker[]
  readonly levels?: readonly Level[]
  readonly otio?: OtioExtra
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

/** A line that belongs to no event: before the first one, or one that could not be read. Lines count from 1. */
export interface KeptLine {
  readonly line: number
  readonly text: string
}

/** Record positions in frames from midnight. */
export interface KeptItem {
  readonly track: string
  readonly recordIn: number
  readonly recordOut: number
  readonly json: string
}

/** What is known of one of the files a cut was read from. */
export interface CutSource {
  readonly format: 'edl' | 'otio' | 'table'
  readonly title: string | null
  readonly kept: readonly KeptLine[]
  /** Frames that share one timecode label in the file: 1, or 2 or 4 where a fast list counts in pairs or fours (ST 12-3). */
  readonly perLabel: number
  /** Data beside the tracks that is written back: JSON as text. */
  readonly metadata?: string
  /** What stands on a track and is no event (switched off, of a kind nobody knows), where it stands, as JSON. */
  readonly items?: readonly KeptItem[]
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
  /** One for each file, in order. Cuts read before this was kept have none. */
  readonly sources?: readonly CutSource[]
  /** Notes on the cut as a whole. */
  readonly markers?: readonly Marker[]
}

const titleWords = /^(main|end|opening|closing)?[\s_-]*(titles?|captions?|credits?|subtitles?|supers?|lower[\s_-]?thirds?|slate|text|card)([\s_\-.:]|\d|$)/i
const musicWords = /(^|[\s_\-.])(music|score|song)([\s_\-.]|\d|$)/i
const mixWords = /(^|[\s_\-.])(final[\s_-]?mix|mixdown|mix)([\s_\-.]|\d|$)/i

/** What an event shows, told from its reel and name. Stills are told only by a picture file's extension. */
export function kindOf(medium: Medium, reel: string | null, name: string | null): EventKind {
  if (reel && /^(BL|BLACK)$/i.test(reel)) return 'black'
  if (reel && /^(BARS?|COLOU?R_?BARS)$/i.test(reel)) return 'bars'
  if (!name) return 'camera'
  if (medium === 'sound') return mixWords.test(name) ? 'mix' : musicWords.test(name) ? 'music' : 'camera'
  if (titleWords.test(name)) return 'title'
  return /\.(png|jpe?g|psd|ai|gif|bmp|svg)$/i.test(name) ? 'still' : 'camera'
}

/** A speed in words: `50 %`, `−100 %`, `freeze`. */
export const speedText = (speed: Step): string => (speed.num === 0 ? 'freeze' : `${Math.round((speed.num / speed.den) * 10_000) / 100} %`.replace('-', '−'))

/** What is particular of an event's time, in words: its transition and its speed; empty for a plain cut in real time. */
export const clockOf = (e: Pick<CutEvent, 'transition' | 'speed'>): string =>
  [...(e.transition.frames ? [`${e.transition.type} ${e.transition.frames}`] : []), ...(e.speed ? [speedText(e.speed)] : [])].join(', ')

/** The frames of an event that are looked at and compared, counted from its first: first, middle and last, a dissolve passed over. */
export function pointsOf(e: Pick<CutEvent, 'recordIn' | 'recordOut' | 'transition'>): {
  readonly first: number
  readonly middle: number
  readonly last: number
} {
  const length = e.recordOut - e.recordIn
  const clear = Math.min(e.transition.frames, length - 1)
  return { first: clear, middle: Math.floor((clear + length) / 2), last: length - 1 }
}
