/** Volumes, originals and what is known of them. */
import { z } from 'zod'
import { Id, Place, RateShape, Ref } from './basics.ts'

export const Volume = z.object({
  id: Id,
  label: z.string(),
  path: z.string(),
  here: z.boolean(),
  /** Why it is away; empty while it is here. */
  cause: z.string(),
  free: z.number().nullable(),
  size: z.number().nullable(),
  clips: z.int(),
})
export type Volume = z.infer<typeof Volume>

export const FolderEntry = z.object({ ref: Ref, name: z.string(), folder: z.boolean(), size: z.number().nullable(), media: z.boolean() })
export const FolderListing = z.object({
  volumeId: Id,
  ref: Ref,
  path: z.string(),
  parent: Ref.nullable(),
  entries: z.array(FolderEntry),
  truncated: z.boolean(),
})
export type FolderListing = z.infer<typeof FolderListing>

export const SequenceShape = z.object({ base: z.string(), ext: z.string(), digits: z.int(), first: z.int(), last: z.int(), missing: z.array(z.int()) })
export const TechnicalShape = z.object({
  wrapper: z.string(),
  codec: z.string(),
  width: z.int(),
  height: z.int(),
  pixelAspect: z.number(),
  rate: RateShape,
  frames: z.int(),
  start: z.int().nullable(),
  drop: z.boolean(),
  depth: z.int(),
  chroma: z.string(),
  scan: z.string(),
  colour: z.object({ primaries: z.string(), transfer: z.string(), matrix: z.string(), range: z.string() }),
  longGop: z.boolean(),
  reel: z.string().nullable(),
  stamp: z.string().nullable(),
  sound: z.object({ channels: z.int(), sampleRate: z.int(), codec: z.string(), depth: z.int() }).nullable(),
  sampleOffset: z.int(),
  hasPicture: z.boolean(),
  dataRate: z.number(),
  sequence: SequenceShape.nullable(),
  fault: z.string().nullable(),
})

export const NoticeShape = z.object({ code: z.string(), severity: z.enum(['info', 'warning', 'error']), short: z.string(), text: z.string() })

export const CopyState = z.enum(['none', 'waiting', 'being-made', 'checked', 'failed-check', 'failed', 'cancelled'])
export type CopyState = z.infer<typeof CopyState>
export const CopyBrief = z.object({
  id: Id,
  spec: z.string(),
  kind: z.enum(['proxy', 'intermediate']),
  state: CopyState,
  path: z.string(),
  size: z.number(),
  faults: z.array(z.string()),
})

export type CopyBrief = z.infer<typeof CopyBrief>

/** The four stations of a clip or event. */
export const Stations = z.array(z.enum(['reached', 'open', 'not-needed', 'away', 'wrong'])).length(4)
export type Stations = z.infer<typeof Stations>

/** A row of the list. */
export const ClipRow = z.object({
  id: Id,
  name: z.string(),
  roll: z.string(),
  day: z.string(),
  place: z.string(),
  /** Full path of the file (of a sequence, of its first). */
  file: z.string(),
  codec: z.string(),
  width: z.int(),
  height: z.int(),
  rate: RateShape,
  start: z.int().nullable(),
  drop: z.boolean(),
  frames: z.int(),
  reel: z.string().nullable(),
  hasPicture: z.boolean(),
  away: z.boolean(),
  notices: z.array(NoticeShape),
  stations: Stations,
  copies: z.array(CopyBrief.pick({ spec: true, kind: true, state: true })),
})
export type ClipRow = z.infer<typeof ClipRow>

export const ClipDetail = ClipRow.extend({
  volumeId: Id,
  volume: z.string(),
  path: z.string(),
  size: z.number(),
  reelSource: z.enum(['file', 'folder', 'none']),
  contentId: z.string(),
  modified: z.string(),
  technical: TechnicalShape,
  edits: z.array(CopyBrief),
})
export type ClipDetail = z.infer<typeof ClipDetail>

export const ClipSort = z.enum(['place', 'name', 'start', 'frames'])
export const ClipQuery = z.object({
  after: z.string().optional(),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
  sort: ClipSort.default('place'),
  search: z.string().max(200).optional(),
  notice: z.string().max(40).optional(),
})
export const ClipPage = z.object({ rows: z.array(ClipRow), next: z.string().nullable(), total: z.int() })
export type ClipPage = z.infer<typeof ClipPage>

/** Bars of the day chart. */
export const LaneClip = z.object({
  id: Id,
  name: z.string(),
  lane: z.string(),
  start: z.int().nullable(),
  frames: z.int(),
  rate: RateShape,
  day: z.string(),
  away: z.boolean(),
  sound: z.boolean(),
})
export type LaneClip = z.infer<typeof LaneClip>

export const TakeIn = z.object({ folders: z.array(Place).min(1) })
export const NewVolume = z.object({ path: z.string().min(1), label: z.string().optional() })
