/** Shapes that every resource uses. */
import { z } from 'zod'

export const Id = z.uuid()
export const RateShape = z.object({ num: z.int().positive(), den: z.int().positive() }).describe('Frames per second as an exact fraction')
export const RangeShape = z.object({ in: z.int(), out: z.int() }).describe('Half-open range in frames')
export const DigitsShape = z.object({ h: z.int(), m: z.int(), s: z.int(), f: z.int(), drop: z.boolean() }).describe('Timecode as written')
export const StepShape = z.object({ num: z.int(), den: z.int() })
export const CropShape = z
  .object({ x: z.int().min(0), y: z.int().min(0), width: z.int().min(2), height: z.int().min(2) })
  .describe('In pixels of the original as it is seen')
export type CropShape = z.infer<typeof CropShape>
export const Viewing = z.enum(['originals', 'intermediates', 'proxies'])
export type Viewing = z.infer<typeof Viewing>
/** What a picture on screen came from. */
export const ShownKind = z.enum(['original', 'intermediate', 'proxy'])
export type ShownKind = z.infer<typeof ShownKind>

export const ProblemAnswer = z.object({
  error: z.object({
    code: z.string(),
    /** What happened, to which file, and what to do next. */
    message: z.string(),
    details: z.array(z.string()).default([]),
    /** What stands there now, where a change saw something older. */
    now: z.unknown().optional(),
  }),
})
export type ProblemAnswer = z.infer<typeof ProblemAnswer>

/** What people change as a whole: a change names the version it saw, and is refused where that is not the latest. 0 before the first. */
export const Version = z.int().min(0)

/** A place on a volume: bytes of the relative path, base64url; empty is the volume itself. */
export const Ref = z.string().regex(/^[A-Za-z0-9_-]*$/)
export const Place = z.object({ volumeId: Id, ref: Ref })
export type Place = z.infer<typeof Place>

/** A folder to write into: a volume and a relative path as text, made if it is not there. */
export const TargetFolder = z.object({ volumeId: Id, folder: z.string().max(1000) })
export type TargetFolder = z.infer<typeof TargetFolder>
/** What a place is written to for; each is remembered by itself. */
export const Purpose = z.enum(['copies', 'pulls', 'masters', 'logs', 'hand-overs', 'moves', 'backups', 'second-backups'])
export type Purpose = z.infer<typeof Purpose>
export const TargetRow = TargetFolder.extend({
  /** In full, as it is called on this machine. */
  path: z.string(),
  volume: z.string(),
  here: z.boolean(),
  free: z.number().nullable(),
})
export type TargetRow = z.infer<typeof TargetRow>
/** Where a project has written to: for each purpose the folder that was used last, and all of them, the latest first. */
export const Targets = z.object({ last: z.partialRecord(Purpose, TargetRow), recent: z.array(TargetRow) })
export type Targets = z.infer<typeof Targets>
/** A place that somebody thinks of writing to, and what for. */
export const TargetAsk = TargetFolder.extend({ purpose: Purpose.optional() })
export type TargetAsk = z.infer<typeof TargetAsk>
/** A place to write to that was looked at; `refusal` says why nothing may be written there. */
export const TargetLook = TargetRow.extend({ refusal: z.string().nullable() })
export type TargetLook = z.infer<typeof TargetLook>
/** A path as people type it. */
export const TypedPath = z.object({ path: z.string().min(1).max(4000) })
/** The place that a typed path is, and what its folder is called. */
export const TypedPlace = Place.extend({ name: z.string(), folder: z.string() })
export type TypedPlace = z.infer<typeof TypedPlace>
export const Ok = z.object({ ok: z.literal(true) })
