/** A spec: the settings that edit copies, pulls and masters are made by and checked against. */
import type { Framing } from '../framing/index.ts'
import type { CodingCode } from './codings.ts'
import type { SoundCoding, WrapperCode } from './wrappers.ts'

export type SpecKind = 'proxy' | 'intermediate' | 'pull' | 'master'

/** The raster of what is made: as the original's, by one side with the other following the shape, or exactly so. */
export type FrameRule =
  | { readonly by: 'original' }
  | { readonly by: 'height'; readonly height: number }
  | { readonly by: 'width'; readonly width: number }
  | { readonly by: 'exact'; readonly width: number; readonly height: number }

/** Where a burn-in stands: rows from the top, columns from the left. */
export const places = ['top left', 'top', 'top right', 'left', 'middle', 'right', 'bottom left', 'bottom', 'bottom right'] as const
export type BurnInPlace = (typeof places)[number]

/** Text or an image drawn into the picture. */
export interface BurnIn {
  readonly what: 'timecode' | 'frame' | 'name' | 'reel' | 'text' | 'image'
  /** What `text` says. */
  readonly text: string
  /** A PNG or JPEG as base64, for `image`. */
  readonly image: string | null
  readonly place: BurnInPlace
  /** Height in per cent of the picture's. */
  readonly size: number
  /** Per cent. */
  readonly opacity: number
  /** A dark ground behind it. */
  readonly ground: boolean
}

export interface SoundRule {
  /** `mix`: all that are not silent, mixed down to a pair of the same. */
  readonly channels: 'all' | 'unsilent' | 'chosen' | 'mix' | 'none'
  /** Channels from 1, for `chosen`; those a clip has not are left out. */
  readonly chosen: readonly number[]
  /** Streams as the original has them, a stream for each channel, or one for all. */
  readonly streams: 'as-original' | 'each-alone' | 'together'
  readonly coding: SoundCoding
  /** Samples per second; null is the original's. */
  readonly rate: number | null
}

/** What the program needs that receives the copies, as far as a file can fulfil it. */
export interface Receiver {
  /** Wrappers it reads; empty where it reads any. */
  readonly wrappers: readonly WrapperCode[]
  /** It wants a file for the picture and one for each channel of sound. */
  readonly filePerTrack: boolean
  /** Folders are named by numbers only. */
  readonly digitFolders: boolean
  /** It tells A001.mov and A001.mxf apart: the ending must be that of the original. */
  readonly comparesExtensions: boolean
}

export interface Spec {
  /** Stays the same through all versions. */
  readonly code: string
  /** Counts up with every change. */
  readonly version: number
  readonly name: string
  /** What it is for, in a sentence. */
  readonly purpose: string
  readonly kind: SpecKind
  readonly coding: CodingCode
  /** On the coding's own scale; null where it has none, or the usual one. */
  readonly quality: number | null
  readonly wrapper: WrapperCode
  readonly frame: FrameRule
  /** Whether pictures may be made larger than they were shot. */
  readonly enlarge: boolean
  readonly framing: Framing
  /** Fields in order, or each picture made of both. */
  readonly fields: 'kept' | 'deinterlaced'
  readonly rate: 'as-shot' | 'project'
  /** Whether the look that a clip has is drawn into the copy. */
  readonly look: 'left-out' | 'baked'
  /** Colour tags that an original lacks: left out of the copy too, or written as the assumption by which it is read. */
  readonly tags: 'kept' | 'written'
  readonly burnIns: readonly BurnIn[]
  readonly sound: SoundRule
  /** Added before and after the original's name; both empty keeps it. */
  readonly naming: { readonly before: string; readonly after: string }
  /** A tree in the target that mirrors the originals', or a folder of this name beside each original. */
  readonly place: { readonly how: 'tree' } | { readonly how: 'beside'; readonly folder: string }
  readonly receiver: Receiver
  /** Whether all frames of a copy are looked at, or six of them and what stands around them; everything else is checked of every copy. */
  readonly check: 'every-frame' | 'six-frames'
}

/** Streams are copied as they are, nothing is re-encoded. */
export const isRewrap = (spec: Pick<Spec, 'coding'>): boolean => spec.coding === 'unchanged'

/** Whether the check looks at all frames; what is moved as it is, is checked by its digests. */
export const everyFrame = (spec: Pick<Spec, 'check' | 'coding'>): boolean => spec.check === 'every-frame' && !isRewrap(spec)

export const allSound: SoundRule = { channels: 'all', chosen: [], streams: 'as-original', coding: 'pcm24', rate: null }
export const anyReceiver: Receiver = { wrappers: [], filePerTrack: false, digitFolders: false, comparesExtensions: false }

/** What every spec has where nothing else is said. */
export const plainSpec = {
  version: 1,
  quality: null,
  wrapper: 'mov',
  frame: { by: 'original' },
  enlarge: false,
  framing: 'fit',
  fields: 'kept',
  rate: 'as-shot',
  look: 'left-out',
  tags: 'kept',
  burnIns: [],
  sound: allSound,
  naming: { before: '', after: '' },
  place: { how: 'tree' },
  receiver: anyReceiver,
  check: 'every-frame',
} as const satisfies Partial<Spec>
