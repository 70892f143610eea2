/** What is known of an original. */
import { fileStem, withoutSeparator } from '../naming/index.ts'
import type { Rate } from '../time/index.ts'
import type { RawColour } from '../raw/index.ts'

/** One file of a clip that a camera split, in order. */
export interface PartFile {
  /** In the clip's folder. */
  readonly name: string
  readonly frames: number
}

/** A numbered image sequence: frame = number − first; missing numbers count in the length. */
export interface Sequence {
  readonly base: string
  readonly ext: string
  readonly digits: number
  readonly first: number
  readonly last: number
  /** Numbers that are not there, in order. */
  readonly missing: readonly number[]
}

/** The name of the file of a sequence that bears the number `n`. */
export const numberedName = (s: Pick<Sequence, 'base' | 'ext' | 'digits'>, n: number): string => `${s.base}${String(n).padStart(s.digits, '0')}.${s.ext}`

/** Frames of a clip whose pictures are not there; of what is no sequence, none. */
export const missingFrames = (s: Sequence | null): number[] => s?.missing.map((n) => n - s.first) ?? []

/** How a sequence is called: what stands before its numbers, the first and the last of them, and the extension. */
export const sequenceName = (s: Sequence): string => `${s.base}[${s.first}–${s.last}].${s.ext}`

/** What a clip's copies and pulls are called after: its file's own name without extension; of numbered pictures what stands before their numbers, where anything does. */
export const ownStem = (file: string, s: Sequence | null): string => withoutSeparator(s?.base ?? '') || fileStem(file)

/** Further names it goes by: its first file, and what stands before the numbers, where anything does. */
export const sequenceAliases = (s: Sequence): string[] => {
  const [first, last] = [s.first, s.last].map((n) => String(n).padStart(s.digits, '0'))
  return [
    ...[numberedName(s, s.first), withoutSeparator(s.base)],
    // As lists write them: first and last number, a printf pattern, a sign for each digit.
    ...[
      `${s.base}[${s.first}-${s.last}].${s.ext}`,
      `${s.base}[${first}-${last}].${s.ext}`,
      `${s.base}%0${s.digits}d.${s.ext}`,
      `${s.base}${'#'.repeat(s.digits)}.${s.ext}`,
    ],
  ].filter((n) => n !== '')
}

/** How the frames of a file are found, where not simply by frame over rate. */
export interface Reading {
  /**
   * `time`: a frame stands where its time says; a search begins `margin` seconds before, where pictures are decoded in another order. `early`: a search may end behind it, and begins `margin` seconds before. `count`: the times
   * in the file are not those of its pictures; frames are counted from the first. `uneven`: pictures stand at uneven times, and a frame is
   * what is shown at its time at the clip's rate; `margin` is longer than any picture stands.
   */
  readonly how: 'time' | 'early' | 'count' | 'uneven'
  /** Seconds from the beginning of the file to its first picture: its sound may begin before. */
  readonly offset: number
  /** Seconds; longer than a group of pictures. */
  readonly margin: number
  /** Pictures that the file holds, where frames are not the same. */
  readonly pictures?: number | undefined
}

/** Whether frames stand at their times from the beginning of the file on, however far ahead a search for them must begin. */
export const byTime = (reading: Reading | undefined): boolean => reading === undefined || (reading.how === 'time' && reading.offset === 0)

/** What stands in `fault` of a clip that a log has told of and whose media are not here yet. */
export const waitsForMedia = 'A clip log names this clip; its media have not been added yet.'

/** Facts read from the file itself. */
export interface Technical {
  /** What FFmpeg calls the form of a single file, as it was found; not of clips that were taken in before this was kept. */
  readonly form?: string | null
  readonly wrapper: string
  /** As the media world writes it: `H.264 High 4:2:2`, `ProRes 422 HQ`. */
  readonly codec: string
  /** As shown: a rotated picture's sides stand as they are seen. */
  readonly width: number
  readonly height: number
  readonly pixelAspect: number
  /** Degrees, clockwise, by which players turn the picture: 0, 90, 180 or 270. */
  readonly rotation: number
  readonly rate: Rate
  /** When the recording began, as the file's own header says (ISO 8601; without an offset the camera's own clock). */
  readonly recordedOn?: string | undefined
  /** False where the file says no rate (numbered pictures): `rate` is the project's then. */
  readonly rateGiven?: boolean | undefined
  /** The rate at which it was shot, where that is another; it plays slower or faster than it happened. */
  readonly captured?: { readonly rate: Rate; readonly from: 'file' | 'side-file' } | undefined
  /** Its frames stand at uneven times; `rate` is what they come nearest to. */
  readonly variable: boolean
  readonly frames: number
  /** Frames from midnight at `rate`; null without timecode. */
  readonly start: number | null
  readonly drop: boolean
  readonly depth: number
  readonly chroma: string
  readonly scan: string
  readonly colour: { readonly primaries: string; readonly transfer: string; readonly matrix: string; readonly range: string }
  /** Key frames further than one apart. */
  readonly longGop: boolean
  readonly reel: string | null
  /** Identity of the original that this file is an edit copy of. */
  readonly stamp: string | null
  readonly sound: {
    /** Of all streams together. */
    readonly channels: number
    readonly sampleRate: number
    readonly codec: string
    readonly depth: number
    /** Channels of each stream, in order; without, one stream holds all (or each channel has a file). */
    readonly streams?: readonly number[] | undefined
  } | null
  /** The files of a recording that the camera split, in order; empty for one file. */
  readonly parts: readonly PartFile[]
  /** The files that hold the sound, from the clip's folder, in the order of channels; empty where the clip's own file holds all. */
  readonly channelFiles: readonly string[]
  /** Linear timecode heard in the sound of a file that carries none: the first frame, and the channel from 1. */
  readonly heard: { readonly start: number; readonly channel: number } | null
  /** Samples by which a recorder's file starts after its first whole frame. */
  readonly sampleOffset: number
  readonly hasPicture: boolean
  /** Bits per second over the whole file. */
  readonly dataRate: number
  readonly sequence: Sequence | null
  /** How its frames are found; without, each stands at frame over rate. */
  readonly reading?: Reading | undefined
  /** What a raw picture says of its colours; null for every other. */
  readonly raw: (RawColour & { readonly camera: string | null }) | null
  /** Why it cannot be decoded, as a sentence; null where it can. */
  readonly fault: string | null
}

/** Where a description comes from. */
export type FactSource = 'file' | 'side-file' | 'rule' | 'typed' | 'table'
export interface Fact<T> {
  readonly value: T
  readonly from: FactSource
}
/** What people call a clip by, each with where it comes from. Its reel stands apart. */
export interface Described {
  readonly scene?: Fact<string>
  readonly take?: Fact<string>
  readonly angle?: Fact<string>
  readonly camera?: Fact<string>
  /** What people say instead of its file name. */
  readonly plain?: Fact<string>
  readonly notes?: Fact<string>
  /** The take that was liked. */
  readonly circled?: Fact<boolean>
  /** Names of the sound channels; null where one has none. */
  readonly tracks?: Fact<readonly (string | null)[]>
}

/** What there can be to notice. */
export const noticeCodes = [
  'variable-rate',
  'rotated',
  'squeezed',
  'fields',
  'other-shape',
  'easy-to-edit',
  'silent-channels',
  'no-timecode',
  'no-reel',
  'other-rate',
  'same-name',
  'fault',
  'waiting',
  'long-gop',
  'missing-numbers',
  'counted',
  'off-speed',
  'edit-copy',
  'zero-timecode',
  'changed',
  'light-copy',
  'gone',
  'marked-light',
] as const
export interface Notice {
  readonly code: (typeof noticeCodes)[number]
  readonly severity: 'info' | 'warning' | 'error'
  /** Two or three words for a table. */
  readonly short: string
  /** The reason in a sentence, and what can be done. */
  readonly text: string
}

/** Names, beside its first file, of the others that a clip is made of which is no sequence of pictures. */
export const otherFiles = (t: Pick<Technical, 'parts' | 'channelFiles'>): string[] => [...t.parts.map((p) => p.name), ...t.channelFiles]

/** Further names of a clip that are those of its files: of its later parts, or of its sequence. */
export const fileAliases = (t: Pick<Technical, 'parts' | 'sequence'>): string[] =>
  t.parts.length ? t.parts.slice(1).map((p) => p.name) : t.sequence ? sequenceAliases(t.sequence) : []
