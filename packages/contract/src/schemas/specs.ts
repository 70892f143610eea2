/** Specs: what edit copies are made by, as resources and as files. */
import { codings, places, wrappers } from '@naranja/core/specs'
import { z } from 'zod'
import { CropShape, Id, RateShape } from './basics.ts'

const codes = <T extends string>(list: readonly { readonly code: T }[]) => z.enum(list.map((x) => x.code) as [T, ...T[]])
const side = z.int().min(16).max(16384)

export const BurnInShape = z.object({
  what: z.enum(['timecode', 'frame', 'name', 'reel', 'text', 'image']),
  text: z.string().max(200).default(''),
  /** PNG or JPEG, base64; 2 MB at most. */
  image: z.base64().max(2_800_000).nullable().default(null),
  place: z.enum(places),
  size: z.number().min(1).max(50).describe("Per cent of the picture's height"),
  opacity: z.number().min(5).max(100).describe('Per cent'),
  ground: z.boolean().default(true),
})

/** All of a spec that a person chooses. */
export const SpecDraft = z.object({
  name: z.string().trim().min(1).max(100),
  purpose: z.string().max(300).default(''),
  kind: z.enum(['proxy', 'intermediate']),
  coding: codes(codings),
  quality: z.number().nullable().default(null),
  wrapper: codes(wrappers),
  frame: z.discriminatedUnion('by', [
    z.object({ by: z.literal('original') }),
    z.object({ by: z.literal('height'), height: side }),
    z.object({ by: z.literal('width'), width: side }),
    z.object({ by: z.literal('exact'), width: side, height: side }),
  ]),
  enlarge: z.boolean().default(false),
  framing: z.enum(['fit', 'fill', 'stretch', 'centre']).default('fit'),
  fields: z.enum(['kept', 'deinterlaced']).default('kept'),
  rate: z.enum(['as-shot', 'project']).default('as-shot'),
  look: z.enum(['left-out', 'baked']).default('left-out'),
  burnIns: z.array(BurnInShape).max(8).default([]),
  sound: z.object({
    channels: z.enum(['all', 'unsilent', 'chosen', 'mix', 'none']),
    chosen: z.array(z.int().min(1).max(64)).max(64).default([]),
    streams: z.enum(['as-original', 'each-alone', 'together']).default('as-original'),
    coding: z.enum(['pcm16', 'pcm24', 'pcm32', 'flac', 'aac']),
    rate: z.int().min(8000).max(192000).nullable().default(null),
  }),
  naming: z.object({ before: z.string().max(40), after: z.string().max(40) }).default({ before: '', after: '' }),
  place: z
    .discriminatedUnion('how', [z.object({ how: z.literal('tree') }), z.object({ how: z.literal('beside'), folder: z.string().max(100) })])
    .default({ how: 'tree' }),
  receiver: z
    .object({
      wrappers: z.array(codes(wrappers)).default([]),
      filePerTrack: z.boolean().default(false),
      digitFolders: z.boolean().default(false),
      comparesExtensions: z.boolean().default(false),
    })
    .default({ wrappers: [], filePerTrack: false, digitFolders: false, comparesExtensions: false }),
  tags: z.enum(['kept', 'written']).default('kept'),
  check: z.enum(['every-frame', 'six-frames']).default('every-frame'),
})
export type SpecDraft = z.infer<typeof SpecDraft>

/** A spec in one of its versions. */
export const SpecShape = SpecDraft.extend({ code: z.string(), version: z.int().min(1), kind: z.enum(['proxy', 'intermediate', 'pull', 'master']) })
export type SpecShape = z.infer<typeof SpecShape>

export const SpecRow = SpecShape.extend({
  /** What is chosen where nobody chooses. */
  isDefault: z.boolean(),
  /** It is there from the start, and can be brought back to what it was. */
  shipped: z.boolean(),
  /** Copies of this project that were made by it, in whatever version. */
  copies: z.int(),
  /** Copies made by an earlier version. */
  older: z.int(),
})
export type SpecRow = z.infer<typeof SpecRow>

export const SpecVersion = z.object({ version: z.int(), made: z.string(), who: z.string(), spec: SpecDraft.extend({ code: z.string(), version: z.int() }) })
export type SpecVersion = z.infer<typeof SpecVersion>

/** The part that edit copies show: of some clips, or of every clip of the same shape as the first of them; null for all of the picture. */
export const CropAsk = z.object({
  clipIds: z.array(Id).min(1).max(20_000),
  crop: CropShape.nullable(),
  allOfShape: z.boolean().default(false),
  seen: CropShape.nullable().optional(),
})
export type CropAsk = z.infer<typeof CropAsk>
/** The look that belongs to a clip, to all of its roll or camera, to what is ticked, or to all; null for none. */
export const LookAsk = z.object({ clipId: Id, to: z.enum(['clip', 'roll', 'camera', 'ticked', 'all']), lookId: Id.nullable(), seen: Id.nullable().optional() })
export type LookAsk = z.infer<typeof LookAsk>

/** A spec as a file: a small JSON document (docs/specs.md). */
export const SpecFile = z.object({ format: z.literal('spec 1'), spec: SpecDraft })

/** What a spec makes of one clip: shown while it is changed. */
export const PreviewAsk = z.object({ spec: SpecDraft, frame: z.int().min(0), width: z.int().min(100).max(4096).optional() })
/** What a spec would come to. */
export const OutcomeAsk = z.object({ spec: SpecDraft })
export const Outcome = z.object({
  clips: z.int(),
  seconds: z.number(),
  pictureBytes: z.number(),
  soundBytes: z.number(),
  /** Clips that it cannot be made of, with the reason; at most twenty, `unfit` counts all. */
  left: z.array(z.object({ name: z.string(), reason: z.string() })),
  unfit: z.int(),
  /** What it gives up, and of how many clips. */
  losses: z.array(z.object({ text: z.string(), clips: z.int() })),
  /** Clips that come out larger than shot, with fields, at another rate. */
  larger: z.int(),
  /** Clips that are not tagged with their colours. */
  untagged: z.int(),
  otherRate: z.int(),
  rates: z.array(z.object({ rate: RateShape, clips: z.int() })),
})
export type Outcome = z.infer<typeof Outcome>
