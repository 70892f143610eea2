/** What a conform will do, as plain data. Positions are frames; record positions count from the cut's first frame. */
import type { Position } from '../reconnect/index.ts'
import type { FrameRange, Rate, Step } from '../time/index.ts'

/** What the plan needs to know of an original. */
export interface PlanClip {
  readonly id: string
  readonly name: string
  /** Roll and name, which tell clips of one name apart; absent: the name alone. */
  readonly place?: string | undefined
  readonly rate: Rate
  readonly frames: number
  readonly width: number
  readonly height: number
  /** Width of a pixel over its height. */
  readonly pixelAspect: number
  /** Frames that a numbered sequence lacks, in order, counted from its first. */
  readonly holes: readonly number[]
  /** Its file has vanished from a volume that is here. */
  readonly gone?: boolean
  /** The clip that it is, or looks like, a light copy of, in words; absent of an original. */
  readonly copyOf?: string | undefined
  /** What it is finished from, where that is not its original. */
  readonly finishing?: FinishingSource | undefined
}

/** A checked intermediate that stands for an original when finishing, because a person said so. */
export interface FinishingSource {
  /** Its file. */
  readonly name: string
  /** The frames of the original that it holds. */
  readonly held: FrameRange
  /** Of its picture; its pixels are square. */
  readonly width: number
  readonly height: number
  /** It holds every channel of the original's sound. */
  readonly sound: boolean
  /** The original can be read too, and gives the sound where this does not. */
  readonly original: boolean
  /** What a person should know of it, as clauses. */
  readonly notes: readonly string[]
  /** Why it cannot be read now, as a clause; null where it can. */
  readonly fault: string | null
}

export type Layer =
  /** Frame j of the part shows source frame `sourceFrame(first, k + j, step)` of the clip. */
  | {
      readonly kind: 'clip'
      readonly eventId: string
      readonly clipId: string
      /** What its pictures are read from where that is not what stands for the clip: a pull, by its id. */
      readonly source?: string | undefined
      readonly first: number
      readonly k: number
      readonly step: Step
    }
  | { readonly kind: 'black' }
  /** A plain picture that names event and reason; its edge code counts from `k`. */
  | { readonly kind: 'placeholder'; readonly eventId: string; readonly code: number; readonly text: string; readonly k: number }

/** By what the source of a layer is found among all: its own where it names one, else its clip's. */
export const sourceOf = (l: Extract<Layer, { kind: 'clip' }>): string => l.source ?? l.clipId

/** A stretch of the picture that one pass can make: one layer, or two with the second coming in. */
export interface PlanPart {
  readonly in: number
  readonly out: number
  readonly layers: readonly [Layer] | readonly [Layer, Layer]
  /** Share of the second layer in frame j of the part: (from + j + 1) / (of + 1). */
  readonly mix: { readonly from: number; readonly of: number } | null
}

/** A stretch of one sound track; it begins at `first` + k steps of the clip, to the sample. */
export interface SoundPart {
  readonly track: string
  readonly in: number
  readonly out: number
  readonly eventId: string
  readonly clipId: string
  readonly first: number
  readonly k: number
  readonly step: Step
}

export interface PlanNote {
  readonly code:
    | 'missing-frames'
    | 'other-rate'
    | 'enlarged'
    | 'gap'
    | 'overlap'
    | 'unconfirmed'
    | 'short-handles'
    | 'transition'
    | 'finishing-source'
    | 'light-copy'
  readonly severity: 'warning' | 'info'
  readonly text: string
}

export interface PlanEvent {
  readonly eventId: string
  readonly number: string
  readonly track: string
  readonly recordIn: number
  readonly recordOut: number
  readonly clipId: string | null
  /** Frames that its clip has. */
  readonly clipFrames: number
  /** The event's own frames of the clip. */
  readonly source: FrameRange | null
  /** It was counted by an edit copy at another rate than its clip. */
  readonly byCopy: boolean
  /** With the tail that a following dissolve shows. */
  readonly used: FrameRange | null
  /** Where each of its frames lies in its clip. */
  readonly at: Position | null
  /** Frames wanted and there at either end of the used range, in frames of the clip. */
  readonly handles: { readonly wanted: number; readonly head: number; readonly tail: number } | null
  readonly dissolve: number
  /** Frames of the cut for which the clip has none: past its ends, or missing in a sequence. What is there of the event is rendered. */
  readonly missing: number
  /** Height of the picture at the finishing raster against the source's, in per cent. */
  readonly scale: number | null
  readonly notes: readonly PlanNote[]
  /** The file of the intermediate that it is finished from; null where that is its original. */
  readonly finishing: string | null
  /** Why no frame can be rendered for it as things stand; null where one can. */
  readonly block: string | null
  readonly placeholder: boolean
  /** Only frames that are missing stand in its way, and not all are: the others are rendered. */
  readonly partial: boolean
}

/** What is planned of each event. */
export interface PlanEvents {
  readonly rate: Rate
  readonly start: number
  readonly length: number
  readonly width: number
  readonly height: number
  readonly events: readonly PlanEvent[]
  readonly soundTracks: number
}

/** The same, and what is rendered of them together. */
export interface Plan extends PlanEvents {
  readonly parts: readonly PlanPart[]
  readonly sound: readonly SoundPart[]
}

/** A range of one original to be rendered on its own, for one or more events. */
export interface PullPlan {
  readonly clipId: string
  readonly range: FrameRange
  readonly eventIds: readonly string[]
}
