/** What an event points at when a cut is written. */
import type { Sequence } from '../clip/index.ts'
import type { CutEvent } from '../cutlist/index.ts'
import { type FrameRange, framesOf, nominal, type Rate } from '../time/index.ts'

/** A file, and which of its frames an event shows; frames at the file's rate. */
export interface Pointed {
  readonly name: string
  readonly url: string
  readonly reel: string | null
  /** The roll it is of, for lists that name rolls instead of reels. */
  readonly roll?: string | null | undefined
  readonly rate: Rate
  readonly drop: boolean
  /** Timecode of the file's first frame, in frames from midnight. */
  readonly start: number
  readonly frames: number
  /** Where it is numbered pictures, of which `url` is the first. */
  readonly sequence?: Sequence | null | undefined
  /** The frames that the event reaches over, as timecode of the file; one that runs backwards shows the last of them first. */
  readonly range: FrameRange
}

/** A label that counts at one rate, counted at another: hours, minutes, seconds stay. `exact` is false where its frame has no name there. */
export function labelFrames(e: CutEvent, cut: Rate): { frames: number; exact: boolean } {
  const from = e.sourceRate ?? cut
  const f = (e.sourceIn.f * nominal(cut)) / nominal(from)
  const held = Math.min(Math.floor(f), nominal(cut) - 1)
  return { frames: framesOf({ ...e.sourceIn, f: held }, cut) ?? 0, exact: held === f }
}
