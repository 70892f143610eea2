/** The clip log: laid out by a person, saved under a name; and edit copies that are renamed. */
import { headingValues, logFields, reelFields } from '@naranja/core/cliplog'
import { z } from 'zod'
import { Id, TargetFolder, Version } from './basics.ts'
import { ChipShape } from './originals.ts'

export const LogLayoutShape = z.object({
  name: z.string().trim().min(1).max(60),
  headings: z.array(z.object({ label: z.string().max(200), value: z.enum(headingValues) })).max(20),
  columns: z
    .array(z.object({ field: z.enum(logFields), head: z.string().max(80) }))
    .min(1)
    .max(40),
  heads: z.boolean(),
  separator: z.enum(['comma', 'semicolon', 'tab']),
  guarded: z.boolean().default(true),
  reel: z.enum(reelFields),
  split: z.enum(['one', 'roll']),
})
export type LogLayoutShape = z.infer<typeof LogLayoutShape>
export const LogLayouts = z.object({ layouts: z.array(LogLayoutShape).max(60), version: Version })
export type LogLayouts = z.infer<typeof LogLayouts>

/** Which clips: all, the ticked ones, or these. */
export const LogAsk = z.object({ layout: LogLayoutShape, ticked: z.boolean().default(false), clipIds: z.array(Id).optional() })
export type LogAsk = z.infer<typeof LogAsk>
export const LogFiles = z.object({ files: z.array(z.object({ name: z.string(), text: z.string() })), clips: z.int() })
export type LogFiles = z.infer<typeof LogFiles>
export const LogSave = LogAsk.extend(TargetFolder.shape)

/** New names for the edit copies of a spec, put together from chips. */
export const RenameAsk = z.object({ spec: z.string(), chips: z.array(ChipShape).min(1).max(12), ticked: z.boolean().default(false) })
export type RenameAsk = z.infer<typeof RenameAsk>
export const RenameRow = z.object({
  copyId: Id,
  clip: z.string(),
  before: z.string(),
  /** Null where it stays as it is. */
  after: z.string().nullable(),
  /** Half a sentence. */
  why: z.string(),
})
export type RenameRow = z.infer<typeof RenameRow>
