/** What pairing works on and what it says. */
import type { Evidence } from '../reconnect/index.ts'
import type { FrameMap, Rate } from '../time/index.ts'

/** A file that may be an edit copy; positions in frames at its own rate. */
export interface FoundCopy {
  /** Below the folder that was pointed at, with its own name at the end. */
  readonly path: string
  readonly frames: number
  readonly rate: Rate
  /** Frames from midnight of its first frame; null without timecode. */
  readonly start: number | null
  readonly drop: boolean
  readonly reel: string | null
  /** The content id of the original that its stamp names. */
  readonly stamp: string | null
}

/** An original that copies are paired with. */
export interface Original {
  readonly id: string
  readonly name: string
  /** Further names it goes by. */
  readonly aliases: readonly string[]
  readonly contentId: string
  readonly roll: string
  /** Its path on its volume. */
  readonly path: string
  readonly frames: number
  readonly rate: Rate
  readonly start: number | null
  readonly drop: boolean
  readonly reel: string | null
  /** Its file cannot be read at all: nothing but its name is known. */
  readonly unread?: boolean | undefined
}

/** What was added to the names of originals. */
export interface Added {
  readonly before: string
  readonly after: string
}

export type Pairing =
  | {
      readonly verdict: 'pair'
      readonly clipId: string
      readonly by: 'stamp' | 'name' | 'hand'
      /** Null where its frames are the original's, one by one from the first. */
      readonly map: FrameMap | null
      readonly evidence: readonly Evidence[]
    }
  | { readonly verdict: 'refused'; readonly clipId: string; readonly reason: string; readonly evidence: readonly Evidence[] }
  /** Originals that nothing but the picture tells apart. */
  | { readonly verdict: 'several'; readonly clipIds: readonly string[]; readonly reason: string }
  | { readonly verdict: 'unknown'; readonly reason: string }
