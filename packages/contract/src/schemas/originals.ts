/** Volumes, originals and what is known of them. */
import { columnUses, describable, readable } from '@naranja/core/describe'
import { z } from 'zod'
import { CropShape, Id, Place, RateShape, Ref, Version } from './basics.ts'

export const Volume = z.object({
  id: Id,
  label: z.string(),
  path: z.string(),
  here: z.boolean(),
  /** Why it is away; empty while it is here. */
  cause: z.string(),
  /** By what it is known again: its file system's id, a card reader's id, a marker file, or its path alone. */
  knownBy: z.enum(['file-system', 'reader', 'marker', 'path']),
  /** Made to be taken out; nothing is written to it unasked. */
  removable: z.boolean(),
  free: z.number().nullable(),
  size: z.number().nullable(),
  clips: z.int(),
})
export type Volume = z.infer<typeof Volume>

/** A card of the reader that ships with the application. */
export const ReaderCardShape = z.object({ name: z.string(), inside: z.boolean() })
export const ReaderAction = z.object({ name: z.string(), action: z.enum(['put-in', 'take-out', 'pull', 'format']) })
export type ReaderAction = z.infer<typeof ReaderAction>

/** A folder that people come back to. */
export const KnownPlace = Place.extend({ label: z.string(), here: z.boolean(), pinned: z.boolean(), used: z.string() })
export type KnownPlace = z.infer<typeof KnownPlace>
export const PinPlace = Place.extend({ pinned: z.boolean() })

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

const TripleShape = z.tuple([z.number().positive(), z.number().positive(), z.number().positive()]).readonly()
/** How a raw clip becomes a picture. Exposure in stops, tint in thousandths of Duv. */
export const DecodeShape = z.object({
  balance: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('as-shot') }),
    z.object({ kind: z.literal('temperature'), kelvin: z.number().min(1700).max(25_000), tint: z.number().min(-50).max(50) }),
    z.object({ kind: z.literal('picked'), neutral: TripleShape }),
  ]),
  exposure: z.number().min(-5).max(5),
  contrast: z.number().min(0.5).max(2),
  saturation: z.number().min(0).max(2),
  size: z.enum(['full', 'half']),
})
/** How the project's raw clips are developed that have no settings of their own, and what all become on screen. */
export const ProjectDecode = z.object({ settings: DecodeShape, display: z.enum(['screen', 'soft']), version: Version })
export type ProjectDecode = z.infer<typeof ProjectDecode>
/**
 * Decode settings that clips get: those that are named, the others stay; null for the project's. `before`: what whoever changes them saw of
 * these, and it is refused where something else stands there; absent where clips get what another clip has, whatever they had.
 */
export const DecodeAsk = z.object({
  clipIds: z.array(Id).min(1).max(200_000),
  settings: DecodeShape.partial().nullable(),
  before: DecodeShape.partial().optional(),
})
export type DecodeAsk = z.infer<typeof DecodeAsk>
/** A point of a frame, from 0 to 1 from the left and from the top. */
export const GreyAsk = z.object({ frame: z.int().min(0), x: z.number().min(0).max(1), y: z.number().min(0).max(1) })
export const GreyAnswer = z.object({ neutral: TripleShape })

export const SequenceShape = z.object({ base: z.string(), ext: z.string(), digits: z.int(), first: z.int(), last: z.int(), missing: z.array(z.int()) })
export const TechnicalShape = z.object({
  wrapper: z.string(),
  codec: z.string(),
  width: z.int(),
  height: z.int(),
  pixelAspect: z.number(),
  rotation: z.int(),
  rate: RateShape,
  variable: z.boolean(),
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
  sound: z.object({ channels: z.int(), sampleRate: z.int(), codec: z.string(), depth: z.int(), streams: z.array(z.int()).optional() }).nullable(),
  parts: z.array(z.object({ name: z.string(), frames: z.int() })),
  captured: z.object({ rate: RateShape, from: z.enum(['file', 'side-file']) }).optional(),
  reading: z.object({ how: z.enum(['time', 'early', 'count', 'uneven']), offset: z.number(), margin: z.number() }).optional(),
  channelFiles: z.array(z.string()),
  heard: z.object({ start: z.int(), channel: z.int() }).nullable(),
  sampleOffset: z.int(),
  hasPicture: z.boolean(),
  dataRate: z.number(),
  sequence: SequenceShape.nullable(),
  raw: z.object({ camera: z.string().nullable(), toCamera: z.array(z.number()).nullable(), neutral: TripleShape.nullable() }).nullable(),
  fault: z.string().nullable(),
})

const From = z.enum(['file', 'side-file', 'rule', 'typed', 'table'])
const fact = <T extends z.ZodType>(value: T) => z.object({ value, from: From }).optional()
/** What people call a clip by, and where each comes from. */
export const DescribedShape = z.object({
  scene: fact(z.string()),
  take: fact(z.string()),
  angle: fact(z.string()),
  camera: fact(z.string()),
  plain: fact(z.string()),
  notes: fact(z.string()),
  circled: fact(z.boolean()),
  tracks: fact(z.array(z.string().nullable())),
})

export const NoticeShape = z.object({ code: z.string(), severity: z.enum(['info', 'warning', 'error']), short: z.string(), text: z.string() })

export const CopyState = z.enum([
  'none',
  'waiting',
  'being-made',
  'checked',
  'failed-check',
  'failed',
  'cancelled',
  'out-of-date',
  'rewrapped',
  'unchecked',
  'gone',
])
export type CopyState = z.infer<typeof CopyState>
export const CopyBrief = z.object({
  id: Id,
  spec: z.string(),
  specName: z.string(),
  kind: z.enum(['proxy', 'intermediate']),
  state: CopyState,
  /** It holds a part of its original. */
  part: z.boolean(),
  /** The frame of its original that cannot be decoded: it ends before it. */
  damagedFrom: z.int().nullable(),
  /** Its clip is finished from it, as a person decided. */
  finishing: z.boolean(),
  /** Why nothing can be finished from it, as a clause; null where something can. */
  unfit: z.string().nullable(),
  /** The volume it stands on is away. */
  away: z.boolean(),
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
  pixelAspect: z.number(),
  /** The part that edit copies show; null for all of it. */
  crop: CropShape.nullable(),
  /** The look that belongs to it. */
  lookId: Id.nullable(),
  rate: RateShape,
  start: z.int().nullable(),
  drop: z.boolean(),
  frames: z.int(),
  reel: z.string().nullable(),
  hasPicture: z.boolean(),
  away: z.boolean(),
  /** Verified copies of it on volumes apart from one another; a card does not count. */
  backups: z.int(),
  notices: z.array(NoticeShape),
  stations: Stations,
  /** Its file has vanished from a volume that is here. */
  gone: z.boolean(),
  copies: z.array(CopyBrief.pick({ spec: true, kind: true, state: true, part: true, damagedFrom: true, away: true })),
  ticked: z.boolean(),
  scene: z.string().nullable(),
  take: z.string().nullable(),
  angle: z.string().nullable(),
  camera: z.string().nullable(),
  plain: z.string().nullable(),
  notes: z.string().nullable(),
  size: z.number(),
  dataRate: z.number(),
  depth: z.int(),
  chroma: z.string(),
  scan: z.string(),
  channels: z.int(),
  sampleRate: z.int(),
  colour: TechnicalShape.shape.colour,
  modified: z.string(),
  /** Changes when the same file is shown in another way. */
  shownAs: z.string(),
})
export type ClipRow = z.infer<typeof ClipRow>

export const ClipDetail = ClipRow.extend({
  volumeId: Id,
  volume: z.string(),
  path: z.string(),
  /** The folder it stands in, below its volume. */
  folder: Ref,
  reelSource: z.enum(['file', 'side-file', 'folder', 'rule', 'typed', 'table', 'none']),
  startSource: z.enum(['file', 'rule', 'none']),
  contentId: z.string(),
  /** The original that this is a light copy of, where a person said so. */
  lightOf: Id.nullable(),
  /** Decode settings of its own; null where it has the project's. */
  decode: DecodeShape.nullable(),
  /** Files it is made of. */
  files: z.int(),
  /** Side files, below its volume. */
  beside: z.array(z.string()),
  described: DescribedShape,
  /** What one reading of the whole file told: peaks in dB by channel, bits in each second. Null until then. */
  listened: z.object({ peaks: z.array(z.number()), rates: z.array(z.number()) }).nullable(),
  technical: TechnicalShape,
  edits: z.array(CopyBrief),
})
export type ClipDetail = z.infer<typeof ClipDetail>

export const ClipSort = z.enum(['place', 'name', 'start', 'frames', 'byScene', 'byDay', 'byCamera', 'size'])
export type ClipSort = z.infer<typeof ClipSort>
/** Conditions that all hold; `is` null means that the field is empty. */
export const ClipCondition = z.discriminatedUnion('field', [
  z.object({ field: z.enum(['roll', 'day', 'reel', 'scene', 'camera', 'codec']), is: z.string().max(300).nullable() }),
  z.object({ field: z.literal('notice'), is: z.string().max(40) }),
  z.object({ field: z.literal('ticked'), is: z.boolean() }),
  z.object({ field: z.literal('backups'), is: z.int().min(0) }),
])
export type ClipCondition = z.infer<typeof ClipCondition>
export const ClipValues = z.array(z.object({ value: z.string().nullable(), count: z.int() }))
export type ClipValues = z.infer<typeof ClipValues>
export const ClipQuery = z.object({
  after: z.string().optional(),
  limit: z.coerce.number<number>().int().min(1).max(1000).default(200),
  sort: ClipSort.default('place'),
  descending: z.stringbool().default(false),
  search: z.string().max(200).optional(),
  /** A list of conditions as JSON. */
  where: z.string().max(4000).optional(),
})
export const ClipPage = z.object({ rows: z.array(ClipRow), next: z.string().nullable(), total: z.int() })
export type ClipPage = z.infer<typeof ClipPage>

/** Timecode or reels for clips without, by rule. Absent `clipIds`: every clip that lacks it. */
export const RuleAsk = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('start'), rule: z.enum(['file-time', 'sound', 'recorder', 'roll-hour']), clipIds: z.array(Id).optional() }),
  z.object({ kind: z.literal('reel'), rule: z.enum(['folder', 'name']), clipIds: z.array(Id).optional() }),
])
export type RuleAsk = z.infer<typeof RuleAsk>
/** What a rule was seen to make of clips, before it is applied: it makes that, or nothing. */
export const RuleSeen = z.array(z.object({ clipId: Id, before: z.string().nullable(), after: z.string().nullable() }))
export type RuleSeen = z.infer<typeof RuleSeen>
export const RuleApply = z.intersection(RuleAsk, z.object({ seen: RuleSeen.optional() }))
export type RuleApply = z.infer<typeof RuleApply>
/** What is said of clips that are, or look like, light copies; `was`: how the one clip stood as it was seen. Absent `clipIds`: every clip concerned. */
export const LightAsk = z.object({ mark: z.boolean(), clipIds: z.array(Id).optional(), was: z.enum(['original', 'suspected', 'light']).optional() })
export type LightAsk = z.infer<typeof LightAsk>
/** What a clip would get: `after` is null where the rule has nothing to say. */
export const RuleRow = z.object({
  clipId: Id,
  name: z.string(),
  roll: z.string(),
  before: z.string().nullable(),
  after: z.string().nullable(),
  why: z.string(),
})
export type RuleRow = z.infer<typeof RuleRow>

/** A field of a clip. */
export const Field = z.enum(describable)
/** What a person types; refused where `before` is not what stands there any more. */
export const DescribeEdit = z.object({ clipId: Id, field: Field, before: z.string().nullable(), value: z.string().max(4000).nullable() })
export type DescribeEdit = z.infer<typeof DescribeEdit>
/** What stands in a field that somebody else has changed meanwhile. */
export const DescribedNow = z.object({ clipId: Id, name: z.string(), field: Field, value: z.string().nullable() })
export type DescribedNow = z.infer<typeof DescribedNow>
export const ChipShape = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('text'), text: z.string().max(200) }),
  z.object({
    kind: z.literal('value'),
    of: z.enum(readable),
    part: z.discriminatedUnion('kind', [z.object({ kind: z.literal('all') }), z.object({ kind: z.enum(['piece', 'run']), nth: z.int().min(-20).max(20) })]),
    form: z.enum(['as-is', 'upper', 'lower', 'plain-number']),
  }),
])
/** A field filled by rule. Absent `clipIds`: every clip. */
export const DerivationAsk = z.object({
  field: Field,
  chips: z.array(ChipShape).min(1).max(12),
  onlyEmpty: z.boolean(),
  clipIds: z.array(Id).optional(),
})
export type DerivationAsk = z.infer<typeof DerivationAsk>
/** A table file, with what its columns hold where a person has said so. */
export const TableAsk = z.object({
  base64: z.string().max(40_000_000),
  uses: z.array(z.enum(columnUses).nullable()).optional(),
  /** The name of a layout by which the file was written; absent: told by its heads. */
  layout: z.string().optional(),
  /** Rows whose clip is not here become clips that wait for their media. */
  add: z.boolean().default(false),
})
export type TableAsk = z.infer<typeof TableAsk>
export const TableAnswer = z.object({
  /** The layout that it is in, where it is one that was saved. */
  layout: z.string().nullable(),
  columns: z.array(z.object({ head: z.string(), use: z.enum(columnUses).nullable() })),
  rows: z.array(
    z.object({
      line: z.int(),
      name: z.string(),
      clipId: Id.nullable(),
      state: z.enum(['found', 'several', 'not-found']),
      why: z.string(),
      changes: z.array(z.object({ field: Field, before: z.string().nullable(), value: z.string() })),
      /** It could become a clip that waits for its media. */
      waits: z.boolean(),
    }),
  ),
})
export type TableAnswer = z.infer<typeof TableAnswer>
/** How the list is seen: columns by their codes from left to right, its order, its groups, its conditions. */
export const ListView = z.object({
  columns: z.array(z.string().max(40)).max(60),
  group: z.enum(['none', 'roll', 'day', 'camera']),
  sort: ClipSort.nullable(),
  descending: z.boolean(),
  where: z.array(ClipCondition).max(12),
})
export type ListView = z.infer<typeof ListView>
/** The view of one person, and those kept under a name. */
export const ListViews = z.object({
  now: ListView,
  kept: z.array(z.object({ name: z.string().trim().min(1).max(60), view: ListView })).max(40),
  version: Version,
})
export type ListViews = z.infer<typeof ListViews>

/** Bars of the day chart. */
export const LaneClip = z.object({
  id: Id,
  name: z.string(),
  lane: z.string(),
  reel: z.string().nullable(),
  start: z.int().nullable(),
  drop: z.boolean(),
  frames: z.int(),
  rate: RateShape,
  day: z.string(),
  away: z.boolean(),
  /** Sound without a picture. */
  sound: z.boolean(),
  hasSound: z.boolean(),
})
export type LaneClip = z.infer<typeof LaneClip>

/** A folder to make in another one. */
export const NewFolder = z.object({ ref: Ref, name: z.string().min(1).max(255) })
/** The roll that clips belong to, as a person says. */
/** `seen`: the rolls that stood there for whoever gives another. */
export const RollAsk = z.object({
  clipIds: z.array(Id).min(1).max(200_000),
  roll: z.string().trim().min(1).max(100),
  seen: z
    .array(z.object({ clipId: Id, roll: z.string() }))
    .max(200_000)
    .optional(),
})
export type RollAsk = z.infer<typeof RollAsk>
export const NewVolume = z.object({ path: z.string().min(1), label: z.string().optional() })

/** What stands somewhere else now, and where it may be: folders, or the file itself. Neither clips nor copies named: all that is away or gone. */
export const LookForAsk = z.object({
  places: z.array(Place).min(1).max(20),
  clipIds: z.array(Id).max(200_000).optional(),
  copyIds: z.array(Id).max(200_000).optional(),
})
export type LookForAsk = z.infer<typeof LookForAsk>
