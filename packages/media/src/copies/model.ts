/** What is to be made of an original, and what came of it. */
import type { FrameCheck } from '@naranja/core/picture'
import type { Promised } from '@naranja/core/specs'
import type { FrameRange } from '@naranja/core/time'
import type { Root } from '../disk/index.ts'
import type { Colour } from '../ffmpeg/index.ts'
import type { MediaInput } from '../input/index.ts'
import type { Carried } from '../probe/index.ts'

/** What burn-ins say of a clip. */
export interface Burning {
  readonly name: string
  readonly reel: string | null
  /** Timecode of the original's first frame that is read, at the original's rate; null counts from zero. */
  readonly start: number | null
  readonly drop: boolean
  /** The number of that frame, counted from the original's first. */
  readonly frame: number
  readonly fonts: Fonts
}
/** Font files: for text, and with digits of one width. */
export interface Fonts {
  readonly text: string
  readonly mono: string
}

/** One copy of an original; several are made from one decode. */
export interface CopyOutput extends Promised {
  /** A look that is drawn in. */
  readonly look: { readonly kind: '1d' | '3d'; readonly path: string } | null
  readonly carried: Carried
  /** Its file; of numbered pictures the first. */
  readonly target: string
  /** Where the drive stands that its file is on. */
  readonly root: Root
  /** What stands there is an older copy of the same, and goes once the new one is checked. */
  readonly replaces?: boolean
}

export interface CopyJob {
  readonly input: MediaInput
  /** The original's colours. */
  readonly colour: Colour
  readonly interlaced: boolean
  /** Frames of the original, half-open; the whole clip for an edit copy. */
  readonly range: FrameRange
  readonly burning: Burning
  readonly outputs: readonly CopyOutput[]
}

export interface CheckPoint extends FrameCheck {
  /** Frame of the copy, counted from 0. */
  readonly frame: number
}
export interface CopyReport {
  readonly frames: number
  readonly framesExpected: number
  readonly points: readonly CheckPoint[]
  /** Digests (SHA-256) of the streams, where they were copied as they are: picture, then sound. */
  readonly hashes?: readonly string[] | undefined
  /** Each a sentence; empty where the copy is what its spec promises. */
  readonly faults: readonly string[]
}

/** The files of one copy. */
export interface CopyFiles {
  /** The picture's file, or the first of numbered pictures. */
  readonly picture: string
  readonly sound: readonly string[]
  /** Numbered pictures: what they are called, for reading them in order. */
  readonly sequence: {
    readonly base: string
    readonly ext: string
    readonly digits: number
    readonly first: number
    readonly last: number
    readonly missing: readonly number[]
  } | null
}
