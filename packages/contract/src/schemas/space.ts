/** What each kind takes on each volume, and deleting edit copies. */
import { z } from 'zod'
import { Id, TargetFolder } from './basics.ts'
import { LogLayoutShape } from './cliplog.ts'

export const SpaceKind = z.enum(['originals', 'intermediates', 'proxies', 'pulls', 'masters'])
export type SpaceKind = z.infer<typeof SpaceKind>
export const SpaceRow = z.object({
  volumeId: Id,
  volume: z.string(),
  here: z.boolean(),
  /** Of the volume, where it is here. */
  size: z.number().nullable(),
  free: z.number().nullable(),
  kinds: z.array(z.object({ kind: SpaceKind, count: z.int(), bytes: z.number(), usedCount: z.int(), usedBytes: z.number(), goneCount: z.int() })),
})
export type SpaceRow = z.infer<typeof SpaceRow>
export const SpecSpace = z.object({
  spec: z.string(),
  name: z.string(),
  kind: z.enum(['proxy', 'intermediate']),
  count: z.int(),
  bytes: z.number(),
  unusedCount: z.int(),
  unusedBytes: z.number(),
})
export type SpecSpace = z.infer<typeof SpecSpace>
export const Space = z.object({ cuts: z.int(), volumes: z.array(SpaceRow), specs: z.array(SpecSpace) })
export type Space = z.infer<typeof Space>

/** Which edit copies to delete: all of a spec, or only those that no cut uses. */
export const DeleteAsk = z.object({ spec: z.string(), unusedOnly: z.boolean() })
export type DeleteAsk = z.infer<typeof DeleteAsk>
export const DeletePlan = z.object({
  copies: z.int(),
  bytes: z.number(),
  /** What would be lost, in sentences. */
  lost: z.array(z.string()),
  /** Copies that are not deleted, with the reason. */
  kept: z.array(z.object({ name: z.string(), reason: z.string() })),
})
export type DeletePlan = z.infer<typeof DeletePlan>

/** What is carried elsewhere: edit copies of a spec, pulls or masters; of copies perhaps only those that a cut uses. */
export const CarryWhat = z.discriminatedUnion('what', [
  z.object({ what: z.literal('copies'), spec: z.string(), cutId: Id.optional(), unusedOnly: z.boolean().default(false) }),
  z.object({ what: z.literal('pulls') }),
  z.object({ what: z.literal('masters') }),
  /** Originals and copies together, of all clips or of those that a cut uses, with the cut as lists that point at them. */
  z.object({ what: z.literal('project'), kinds: z.array(z.enum(['originals', 'intermediates', 'proxies'])).min(1), cutId: Id.optional() }),
])
export type CarryWhat = z.infer<typeof CarryWhat>
/** Moved for good, or collected into one folder for somebody elsewhere, with its log, contents and checksums. */
export const CarryAsk = TargetFolder.extend({ how: z.enum(['move', 'hand-over']), things: CarryWhat, log: LogLayoutShape.optional() })
export type CarryAsk = z.infer<typeof CarryAsk>
export const CarryPlan = z.object({
  things: z.int(),
  files: z.int(),
  bytes: z.number(),
  free: z.number(),
  /** Of what is free, what stays free. */
  reserve: z.number(),
  /** The folder it all goes into. */
  folder: z.string(),
  /** What stays behind, with the reason. */
  left: z.array(z.object({ name: z.string(), reason: z.string() })),
  /** The first of the paths there, below the folder. */
  paths: z.array(z.string()),
})
export type CarryPlan = z.infer<typeof CarryPlan>

/** Files that are made again when they are wanted: pictures looked at, pictures of trials, pieces of masters, logs. */
export const WorkingKind = z.enum(['pictures', 'trials', 'segments', 'logs'])
export type WorkingKind = z.infer<typeof WorkingKind>
export const WorkingFiles = z.object({
  folder: z.string(),
  kinds: z.array(z.object({ kind: WorkingKind, bytes: z.number(), limit: z.number() })),
  /** Saves of everything but media, made once a day. */
  saves: z.object({
    count: z.int(),
    bytes: z.number(),
    folder: z.string(),
    last: z.iso.datetime().nullable(),
    /** Why the last try failed. */
    problem: z.string(),
  }),
})
export type WorkingFiles = z.infer<typeof WorkingFiles>
