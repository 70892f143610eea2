/** Edit copies, and what making them will take. */
import { z } from 'zod'
import { CopyState, NoticeShape } from './originals.ts'
import { Id, RangeShape } from './basics.ts'

export const CopyRequest = z.object({
  /** Where copies go whose spec does not put them beside their originals. Absent while a person has not chosen it yet. */
  volumeId: Id.optional(),
  folder: z.string().max(1000).default(''),
  /** Several are made from one decode, each into a folder of its name below `folder`. */
  specs: z.array(z.string()).min(1).max(4),
  /** Absent: every clip that has no copy of this spec yet. */
  clipIds: z.array(Id).optional(),
  /** Those too that are out of date, or were made by an earlier version of their spec: they are made anew, in the old ones' place. */
  again: z.boolean().default(false),
  /** Only clips that this cut uses. */
  cutId: Id.optional(),
  /** Of these only the ranges that the cut uses, with so many frames more at either end; a clip without timecode is copied whole. */
  handles: z.int().min(0).max(10_000).optional(),
  /** A clip log in each folder of the copies, laid out as was saved under this name. */
  log: z.string().max(60).optional(),
  /** Of these, only clips that are ticked. */
  ticked: z.boolean().default(false),
  /** Without clips that are easy to edit as they are. */
  leaveEasy: z.boolean().default(false),
})
export type CopyAsk = z.input<typeof CopyRequest>
export const CopyEstimate = z.object({
  clips: z.int(),
  /** Copies of each spec: more than clips where several ranges of one are used. */
  pieces: z.int(),
  /** Copies that are there and are out of date, or of an earlier version of the spec. */
  old: z.int(),
  /** Clips left out, with the reason. */
  left: z.array(z.object({ name: z.string(), reason: z.string() })),
  /** Clips that could be copied and are easy to edit as they are. */
  easy: z.int(),
  /** The first file that would be written, its whole path; null while nobody has said where. */
  first: z.string().nullable(),
  /** Why nothing may be written there. */
  refusal: z.string().nullable(),
  seconds: z.number(),
  /** Picture and sound together. */
  bytes: z.number(),
  soundBytes: z.number(),
  free: z.number().nullable(),
  /** Of what is free, what stays free. */
  reserve: z.number().nullable(),
  time: z.number(),
  measured: z.boolean(),
  warnings: z.array(NoticeShape),
})
export type CopyEstimate = z.infer<typeof CopyEstimate>

export const CopyRow = z.object({
  id: Id,
  clipId: Id,
  clip: z.string(),
  spec: z.string(),
  /** Version and name of the spec that it was made by. */
  version: z.int(),
  specName: z.string(),
  kind: z.enum(['proxy', 'intermediate']),
  /** It runs at another rate than its original, and has a frame map. */
  mapped: z.boolean(),
  /** The frames of the original that it holds, where not all. */
  part: RangeShape.nullable(),
  /** The frame of its original that cannot be decoded: it ends before it. */
  damagedFrom: z.int().nullable(),
  state: CopyState,
  path: z.string(),
  size: z.number(),
  points: z.array(z.object({ frame: z.int(), likeness: z.number(), offset: z.int(), unprovable: z.boolean() })),
  faults: z.array(z.string()),
})
export type CopyRow = z.infer<typeof CopyRow>
