/** Specs, edit copies, and what making them will take. */
import { z } from 'zod'
import { CopyState, NoticeShape } from './originals.ts'
import { Id, TargetFolder } from './basics.ts'

export const SpecShape = z.object({
  code: z.string(),
  name: z.string(),
  purpose: z.string(),
  kind: z.enum(['proxy', 'intermediate', 'pull', 'master']),
  video: z.string(),
  height: z.int().nullable(),
  wrapper: z.string(),
  depth: z.int(),
  chroma: z.string(),
})
export type SpecShape = z.infer<typeof SpecShape>

export const CopyRequest = TargetFolder.extend({
  spec: z.string(),
  /** Absent: every clip that has no copy of this spec yet. */
  clipIds: z.array(Id).optional(),
  /** Of these, only clips that are ticked. */
  ticked: z.boolean().default(false),
})
export const CopyEstimate = z.object({
  clips: z.int(),
  /** Clips left out, with the reason. */
  left: z.array(z.object({ name: z.string(), reason: z.string() })),
  seconds: z.number(),
  bytes: z.number(),
  free: z.number(),
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
  state: CopyState,
  path: z.string(),
  size: z.number(),
  points: z.array(z.object({ frame: z.int(), likeness: z.number(), offset: z.int(), unprovable: z.boolean() })),
  faults: z.array(z.string()),
})
export type CopyRow = z.infer<typeof CopyRow>
