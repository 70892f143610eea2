/** Edit copies that were made elsewhere or come back: which file is a copy of which original. */
import { z } from 'zod'
import { Id, Place } from './basics.ts'

export const PairAsk = Place.extend({
  /** What they are for; `auto` tells by size and coding. */
  kind: z.enum(['auto', 'proxy', 'intermediate']).default('auto'),
  /** Files (below the place) of which a person says whose copies they are; files named like them follow. */
  pointed: z
    .array(z.object({ path: z.string(), clipId: Id }))
    .max(1000)
    .default([]),
  /** Only these files of the folder; none: all of them. */
  only: z.array(z.string()).max(1000).default([]),
  /** Files that a person takes in place of the copies that stand; only these are paired then. */
  instead: z.array(z.string()).max(1000).default([]),
})
export type PairAsk = z.infer<typeof PairAsk>

/** A copy as it is told from another: its place, and how large it is. */
const CopyFile = z.object({ path: z.string(), width: z.int(), height: z.int(), bytes: z.number() })
export const PairLine = z.object({
  /** Below the folder. */
  path: z.string(),
  verdict: z.enum(['paired', 'taken-back', 'known', 'second', 'unchecked', 'refused', 'several', 'unknown', 'unreadable']),
  clipId: Id.nullable(),
  clip: z.string(),
  /** Originals that fit alike. */
  clipIds: z.array(Id),
  /** A sentence: why not, or what to know of it. */
  reason: z.string(),
  evidence: z.array(z.string()),
  /** The least of the frames that were compared, 0 to 1; null where none was. */
  likeness: z.number().nullable(),
  /** Of a second copy of one original: what it is, and the copy that stands. */
  beside: z.object({ own: CopyFile, standing: CopyFile }).nullable(),
  /** What was compared and does not agree: JPEG pictures as base64, of the copy's frame and of the original's; of a second copy, the first one's in its place. */
  pictures: z.object({ copy: z.string(), original: z.string(), frame: z.int(), of: z.int() }).nullable(),
})
export type PairLine = z.infer<typeof PairLine>
export const PairResult = z.object({
  place: Place,
  folder: z.string(),
  kind: z.enum(['auto', 'proxy', 'intermediate']),
  lines: z.array(PairLine),
  /** Indexes and caches that other software left in the folder, below it. */
  indexes: z.array(z.string()),
})
export type PairResult = z.infer<typeof PairResult>

/** Index files of a folder that are put aside into a folder of their own beside them. */
export const AsideAsk = Place.extend({ paths: z.array(z.string()).min(1).max(10_000) })
export type AsideAsk = z.infer<typeof AsideAsk>
