/** A trial: two seconds of the hardest clip really made by two or three specs, and what they play like here. */
import { z } from 'zod'
import { Id, TargetFolder } from './basics.ts'

export const TrialAsk = TargetFolder.extend({
  specs: z.array(z.string()).min(1).max(3),
  /** Absent: the clip that is hardest to play. */
  clipId: Id.optional(),
})
export type TrialAsk = z.infer<typeof TrialAsk>

export const TrialPlay = z.object({
  /** Streams at once that machine and drive keep up with, and each by itself. */
  angles: z.int(),
  byMachine: z.int(),
  byDrive: z.int(),
  /** Frames dropped when so many were played at once for two seconds. */
  dropped: z.int(),
})
export const TrialSpec = z.object({
  spec: z.string(),
  name: z.string(),
  version: z.int(),
  /** Why it could not be made of this clip; empty where it was. */
  fault: z.string(),
  width: z.int(),
  height: z.int(),
  depth: z.int(),
  chroma: z.string(),
  /** What it gives up. */
  losses: z.array(z.string()),
  /** Bits per second of picture and sound. */
  dataRate: z.number(),
  /** Frames per second at which it was made. */
  fps: z.number(),
  /** The least alike of the frames checked, 0 to 1. */
  likeness: z.number(),
  play: TrialPlay.nullable(),
  /** Streams at once against the height of the picture. */
  sizes: z.array(z.object({ height: z.int(), angles: z.int() })),
})
export type TrialSpec = z.infer<typeof TrialSpec>
export const TrialResult = z.object({
  clipId: Id,
  clip: z.string(),
  /** The frame that is shown, and the part of it, in pixels of the original. */
  frame: z.int(),
  part: z.object({ x: z.int(), y: z.int(), width: z.int(), height: z.int() }),
  dataRate: z.number(),
  depth: z.int(),
  chroma: z.string(),
  /** How fast the original is decoded, against real time. */
  speed: z.number(),
  specs: z.array(TrialSpec),
  machine: z.string(),
  at: z.string(),
})
export type TrialResult = z.infer<typeof TrialResult>
