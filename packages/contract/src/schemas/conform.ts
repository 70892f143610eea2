/** Plans, finishing sources, pulls and masters. */
import { z } from 'zod'
import { Id, RangeShape, StepShape, TargetFolder, Version } from './basics.ts'

export const PlanRow = z.object({
  eventId: z.string(),
  number: z.string(),
  track: z.string(),
  name: z.string(),
  recordIn: z.int(),
  recordOut: z.int(),
  clipId: Id.nullable(),
  clipFrames: z.int(),
  source: RangeShape.nullable(),
  used: RangeShape.nullable(),
  step: StepShape,
  handles: z.object({ wanted: z.int(), head: z.int(), tail: z.int() }).nullable(),
  dissolve: z.int(),
  scale: z.int().nullable(),
  notes: z.array(z.object({ code: z.string(), severity: z.enum(['warning', 'info']), text: z.string() })),
  /** The file of the intermediate that it is finished from; null where that is its original. */
  finishing: z.string().nullable(),
  block: z.string().nullable(),
  /** Frames that its clip does not have; with `partial` the others can be rendered. */
  missing: z.int(),
  partial: z.boolean(),
  /** Its original cannot be read, and a checked intermediate that is here could stand for it. */
  couldFinish: z.boolean(),
})
export type PlanRow = z.infer<typeof PlanRow>
export const PlanQuery = z.object({ handles: z.coerce.number<number>().int().min(0).max(500).default(12) })
/** A source whose picture is smaller than the master's: its size, and the enlargement in per cent (100 is 1:1). */
export const Enlarged = z.object({ clip: z.string(), width: z.int(), height: z.int(), percent: z.int(), eventIds: z.array(z.string()) })
export type Enlarged = z.infer<typeof Enlarged>
export const PlanAnswer = z.object({
  width: z.int(),
  height: z.int(),
  length: z.int(),
  soundTracks: z.int(),
  events: z.array(PlanRow),
  /** Sources with a smaller picture than the project's raster, the most enlarged first. */
  enlarged: z.array(Enlarged),
  pulls: z.array(z.object({ clipId: Id, name: z.string(), range: RangeShape, eventIds: z.array(z.string()), bytes: z.number() })),
  /** Where the first pull would go, below the folder that pulls are written to. */
  first: z.string().nullable(),
  bytes: z.number(),
  time: z.number(),
})
export type PlanAnswer = z.infer<typeof PlanAnswer>

/** What clips are finished from: their originals, or a checked intermediate of each. */
export const FinishingAsk = z.object({
  clipIds: z.array(Id).min(1),
  from: z.enum(['original', 'intermediate']),
  /** Which, of one clip; absent: the largest that can. */
  copyId: Id.optional(),
  /** Which it was as it was seen, of one clip: null for its original. */
  was: Id.nullable().optional(),
})
export type FinishingAsk = z.infer<typeof FinishingAsk>
/** Whether checked intermediates finish whatever has no original that can be read. */
export const FinishingRule = z.object({ missing: z.boolean(), version: Version })
export type FinishingRule = z.infer<typeof FinishingRule>

export const PullRequest = TargetFolder.extend({ handles: z.int().min(0).max(500) })
export const PullRow = z.object({
  id: Id,
  clipId: Id,
  name: z.string(),
  range: RangeShape,
  path: z.string(),
  state: z.enum(['waiting', 'being-made', 'checked', 'failed-check', 'failed', 'cancelled']),
  /** It was made from an intermediate, not from the original. */
  fromCopy: z.boolean(),
  faults: z.array(z.string()),
})
export type PullRow = z.infer<typeof PullRow>

/** Which files a written cut list points at, and in which form it is written. */
export const ListQuery = z.object({
  target: z.enum(['originals', 'intermediates', 'proxies', 'pulls', 'folder']),
  /** Files in a folder, called as the originals are or as edit copies of them. */
  volumeId: Id.optional(),
  ref: z.string().optional(),
  format: z.enum(['edl', 'otio']),
  /** Edit decision lists: one for all tracks, or one for each. */
  lists: z.enum(['one', 'each']).default('one'),
  /** Edit decision lists: what stands as reel, and how many characters it may have. */
  reels: z.enum(['reel', 'name', 'file', 'roll']).default('reel'),
  longest: z.coerce.number<number>().int().min(4).max(128).optional(),
})
export type ListQuery = z.infer<typeof ListQuery>
export const ListPreview = z.object({
  files: z.array(z.object({ name: z.string(), bytes: z.int(), head: z.string() })),
  /** What the form cannot carry. */
  losses: z.array(z.string()),
  /** Events without such a file: they keep what the imported list says. */
  left: z.array(z.object({ number: z.string(), track: z.string(), name: z.string(), why: z.string() })),
})
export type ListPreview = z.infer<typeof ListPreview>

export const MasterRequest = TargetFolder.extend({
  file: z.string().min(1).max(200),
  from: z.enum(['originals', 'pulls']).default('originals'),
  placeholders: z.boolean().default(false),
  /** What shows where a clip ends before its event does: a placeholder, like any other, or the last frame held. */
  missing: z.enum(['placeholder', 'held']).default('placeholder'),
})
export const CheckRow = z.object({ code: z.string(), passed: z.boolean(), text: z.string() })
export const EventCheck = z.object({
  eventId: z.string(),
  number: z.string(),
  track: z.string(),
  /** What stood there: the original's name, black, or a placeholder. */
  source: z.string(),
  note: z.string(),
  worst: z.number(),
  points: z.array(
    z.object({
      at: z.enum(['first', 'middle', 'last']),
      frame: z.int(),
      clipId: Id.nullable(),
      sourceFrame: z.int().nullable(),
      likeness: z.number(),
      offset: z.int(),
      level: z.number(),
      unprovable: z.boolean(),
      passed: z.boolean(),
    }),
  ),
})
export const MasterReport = z.object({
  format: z.literal(1),
  master: z.string(),
  cut: z.string(),
  spec: z.string(),
  frames: z.int(),
  framesExpected: z.int(),
  verified: z.boolean(),
  checks: z.array(CheckRow),
  events: z.array(EventCheck),
  placeholders: z.array(z.object({ eventId: z.string(), reason: z.string() })),
  /** Events of which some frames do not exist, how many, and whether a picture beside them is held there. */
  missing: z.array(z.object({ eventId: z.string(), frames: z.int(), held: z.boolean() })).default([]),
  /** Clips that were finished from an intermediate, as a person decided. */
  finishing: z.array(z.object({ clip: z.string(), copy: z.string(), eventIds: z.array(z.string()), decided: z.string() })).default([]),
  /** Sources with a smaller picture than the master's, and by how much they were enlarged. */
  enlarged: z.array(Enlarged).default([]),
  /** Light copies that were used as originals, because a person named them. */
  light: z.array(z.object({ clip: z.string(), of: z.string(), eventIds: z.array(z.string()) })).default([]),
  unconfirmed: z.array(z.string()),
  notCarried: z.array(z.string()),
  checksum: z.string(),
  made: z.string(),
})
export type MasterReport = z.infer<typeof MasterReport>
export const MasterRow = z.object({
  id: Id,
  cutId: Id,
  cut: z.string(),
  path: z.string(),
  /** `unchecked`: rendered, but its check could not run. */
  state: z.enum(['waiting', 'being-made', 'verified', 'unchecked', 'failed-check', 'failed', 'cancelled']),
  width: z.int(),
  height: z.int(),
  created: z.string(),
  report: MasterReport.nullable(),
  /** Why what it was made from no longer counts as an original, clip by clip, as sentences. */
  doubts: z.array(z.string()),
})
export type MasterRow = z.infer<typeof MasterRow>
