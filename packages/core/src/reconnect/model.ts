/** What reconnection works on and what it says. */
import type { LightStanding } from '../clip/index.ts'
import type { Agreement } from '../naming/index.ts'
import type { FrameMap, FrameRange, Rate, Step } from '../time/index.ts'

/** What is known of an original; positions in frames of its own rate. */
export interface ClipFacts {
  readonly id: string
  /** File name, or for a sequence `base[first-last].ext`. */
  readonly name: string
  /** Further names it goes by: the first file of a sequence, its base. */
  readonly aliases: readonly string[]
  readonly reel: string | null
  /** The reel was taken from a folder's name; it contradicts only lists that use such reels. */
  readonly reelDerived: boolean
  /** Shown in reasons: volume and folder. */
  readonly place: string
  readonly rate: Rate
  readonly frames: number
  /** Frames from midnight of the first frame; null without timecode (it then counts from zero). */
  readonly start: number | null
  readonly drop: boolean
  /** The number of its first picture, where it is numbered pictures: some lists count source timecode by them. */
  readonly firstNumber?: number | undefined
  readonly hasPicture: boolean
  readonly hasSound: boolean
  /** It is, or is suspected to be, a light copy of another clip; absent of an original. */
  readonly light?: LightFacts | undefined
  /** What rules and lists may ask for beside. */
  readonly roll?: string | null | undefined
  readonly scene?: string | null | undefined
  readonly take?: string | null | undefined
  /** How its picture is coded, in words. */
  readonly coding?: string | undefined
  /** Of which kind it is: `movie`, `numbered pictures`, `sound`. */
  readonly form?: string | undefined
  readonly pixels?: number | undefined
  /** When it was recorded, in milliseconds; only compared. */
  readonly recorded?: number | undefined
  /** Reels that rules read in its name or folders. */
  readonly otherReels?: readonly string[] | undefined
  /** Paths of edit copies made here, which carry its stamp: a list that names one of them means it. */
  readonly copies?: readonly string[] | undefined
  /** The same content elsewhere has the same id. */
  readonly contentId: string
  readonly away: boolean
  /** Its file has vanished from a volume that is here; it counts as away. */
  readonly gone?: boolean
  /** A checked intermediate is finished from in its place, as a person decided. */
  readonly fromCopy?: boolean | undefined
  /** Edit copies of it that run at another rate: a cut made with one counts as the copy does. */
  readonly mapped?: readonly CopyTime[] | undefined
}

/** A light copy among originals: never taken for an original unless a person names it. */
export interface LightFacts {
  readonly standing: LightStanding
  /** The clip that it is a copy of; null where that is not in the list. */
  readonly of: string | null
  /** The same for people: place and name. */
  readonly ofName: string
}

/** How an edit copy counts that runs at another rate than its original. */
export interface CopyTime {
  /** Frames from midnight of its first frame, at its own rate; null without timecode. */
  readonly start: number | null
  readonly drop: boolean
  readonly frames: number
  readonly map: FrameMap
}

/**
 * How an event goes through its clip: frame `first` of the clip stands `k` record frames before the event does, and each record
 * frame leads `step` frames of the clip on. At record frame n, counted from the event's first, it shows `sourceFrame(first, k + n, step)`.
 */
export interface Position {
  readonly first: number
  readonly k: number
  readonly step: Step
}

/** How source timecode was counted in the end; `file`: from the first frame that the cut's file gives its media; `number`: as numbers of pictures. */
export type CountedAt = 'list' | 'source' | 'copy' | 'file' | 'number'

/** Whether source timecode is counted at the list's rate, at the source's, or at whichever fits. */
export type SourceCount = 'list' | 'source' | 'auto'

export type LinkState = 'certain' | 'likely' | 'several' | 'not-found' | 'set-by-hand' | 'confirmed' | 'none-needed'

/** One piece of evidence; `weak` pieces prove nothing alone. */
export interface Evidence {
  readonly kind: 'name' | 'reel' | 'timecode' | 'stamp' | 'scene' | 'folder' | 'rate' | 'length' | 'picture'
  readonly agreement: Agreement
  readonly weak: boolean
  /** A name that no original bears, nor nearly: people give such. It speaks against all alike, and tells none from another. */
  readonly ofNone?: boolean | undefined
  /** A sentence for people. */
  readonly text: string
  /** The sentence once something tells which of two ways to count is meant, where that is open. */
  readonly told?: string | undefined
}

/** What can prove a match; the rest only tells equals apart. */
export const telling: ReadonlySet<Evidence['kind']> = new Set(['name', 'reel', 'timecode', 'stamp', 'scene'])

export interface Candidate {
  readonly clipId: string
  /** Frames of the clip counted from its first; may reach past its ends (`missing` says by how much). */
  readonly range: FrameRange
  readonly countedAt: CountedAt
  /** Where it lies if its timecode is counted at the source's rate, where nothing tells which was meant. */
  readonly otherwise?: { readonly range: FrameRange; readonly at: Position; readonly countedAt: CountedAt } | undefined
  readonly at: Position
  readonly missing: { readonly before: number; readonly after: number }
  readonly evidence: readonly Evidence[]
}

/** What a person settled. `clip` sets or confirms an original; `none` says that none is needed, `camera` that one is, whatever the event is called. */
export type Decision =
  /** `first`: the clip's frame that the event begins with, where its pictures told it and not its timecode. */
  /** `light`: how the clip stood as a light copy when a person named it all the same; where it stands otherwise now, the decision is open again. */
  | { readonly action: 'set' | 'confirm'; readonly clipId: string; readonly first?: number | undefined; readonly light?: LightStanding | undefined }
  | { readonly action: 'none' }
  | { readonly action: 'camera' }

export interface Link {
  readonly eventId: string
  readonly state: LinkState
  readonly away: boolean
  /** Its clip is finished from a checked intermediate, as a person decided: that its original is away does not matter. */
  readonly fromCopy: boolean
  readonly clipId: string | null
  readonly range: FrameRange | null
  /** Where each of its frames lies in its clip, and how that was counted; null without a clip. */
  readonly at: Position | null
  readonly countedAt: CountedAt | null
  /** All that is said of it, in a sentence. */
  readonly reason: string
  /** What of that is no evidence for its candidate, nor the places of several: empty where it says nothing more. */
  readonly beyond: string
  /** Best first; for `not-found` the nearest, each with what is wrong with it. */
  readonly candidates: readonly Candidate[]
}

/** An event that keeps a master from being rendered: nothing, too much, or nothing reachable was found for it. */
export const isOpen = (link: { state: LinkState; away: boolean; fromCopy: boolean }): boolean =>
  link.state === 'several' || link.state === 'not-found' || (link.away && !link.fromCopy && link.state !== 'none-needed')
