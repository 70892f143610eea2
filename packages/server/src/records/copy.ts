/** Edit copies. */
import { z } from 'zod'
import { documentOf, kept } from './document.ts'
import { copyReport, rate, sequence, texts } from './shapes.ts'
import type { CopyState } from '@naranja/contract'
import type { Sequence } from '@naranja/core/clip'
import type { FrameMap, Rate } from '@naranja/core/time'
import type { CopyReport } from '@naranja/media'
import { EntitySchema } from 'typeorm'
import { big, flag, id, int, ref, text } from './columns.ts'

/** What a copy is, as far as it is not as its original. */
export interface CopyFacts {
  readonly width: number
  readonly height: number
  readonly rate: Rate
  readonly frames: number
  readonly start: number | null
  readonly drop: boolean
  readonly map: FrameMap | null
  readonly matrix: string
  readonly sequence: Sequence | null
  /** Files that hold its sound, beside its picture. */
  readonly soundFiles: readonly string[]
  /** What was done to the original's picture: another now means that it shows something else than the original would. */
  readonly shownAs: string
  /** The clip's look is drawn into it. */
  readonly baked: boolean
  /** Its streams are those of the original, bit for bit. */
  readonly rewrapped: boolean
  /** The frame of the original that could not be decoded: the copy ends before it, as a person wanted. */
  readonly damagedFrom?: number | undefined
  /** By what it is known again anywhere. */
  readonly contentId?: string | undefined
  /** Nobody here has made it. */
  readonly elsewhere?: boolean | undefined
  /** Channels of sound in one that was made elsewhere. */
  readonly channels?: number | undefined
  /** Its original cannot be decoded: it was checked but for its picture. */
  readonly uncompared?: boolean | undefined
}

const facts = z.object({
  width: z.number(),
  height: z.number(),
  rate,
  frames: z.number(),
  start: z.number().nullable(),
  drop: z.boolean(),
  map: z.object({ original: rate, copy: rate, first: z.number() }).nullable(),
  matrix: z.string(),
  sequence: sequence.nullable(),
  soundFiles: texts,
  shownAs: z.string(),
  baked: z.boolean(),
  rewrapped: z.boolean(),
  damagedFrom: z.number().optional(),
  contentId: z.string().optional(),
  elsewhere: z.boolean().optional(),
  channels: z.number().optional(),
  uncompared: z.boolean().optional(),
})
const documents = {
  facts: documentOf<CopyFacts>()('copy.facts', 1, facts),
  report: documentOf<CopyReport>()('copy.report', 1, copyReport),
}

export interface CopyRecord {
  id: string
  projectId: string
  clipId: string
  /** Code, version and name of the spec that it is made by, and what it is for. */
  spec: string
  specVersion: number
  specName: string
  kind: 'proxy' | 'intermediate'
  volumeId: string
  /** Relative to the volume; of numbered pictures the first. */
  path: string
  /** What was promised of it; null for those of an earlier version, which have size, rate and frames of their specs and originals. */
  facts: CopyFacts | null
  state: Exclude<CopyState, 'none' | 'out-of-date' | 'rewrapped' | 'gone'>
  /** The frames of the original that it holds; both null where it holds all. */
  rangeIn: number | null
  rangeOut: number | null
  /** An older copy stands in its place until it is made. */
  replaces: boolean
  size: number
  report: CopyReport | null
  /** Its file has vanished from a volume that is here. */
  gone?: boolean
}

/** A whole row, as what takes a change back keeps it. */
export const copyRow = z.object({
  id: z.string(),
  projectId: z.string(),
  clipId: z.string(),
  spec: z.string(),
  specVersion: z.number(),
  specName: z.string(),
  kind: z.enum(['proxy', 'intermediate']),
  volumeId: z.string(),
  path: z.string(),
  facts: facts.nullable(),
  state: z.enum(['waiting', 'being-made', 'checked', 'failed-check', 'failed', 'cancelled', 'unchecked']),
  rangeIn: z.number().nullable(),
  rangeOut: z.number().nullable(),
  replaces: z.boolean(),
  size: z.number(),
  report: copyReport.nullable(),
  gone: z.boolean().optional(),
})
export const CopyEntity = new EntitySchema<CopyRecord>({
  name: 'copy',
  columns: {
    id,
    projectId: ref,
    clipId: ref,
    spec: { type: 'varchar', length: 60 },
    specVersion: int,
    specName: { ...text, length: 100 },
    kind: { type: 'varchar', length: 12 },
    facts: { ...kept(documents.facts), nullable: true },
    rangeIn: { ...int, nullable: true },
    rangeOut: { ...int, nullable: true },
    replaces: flag,
    volumeId: ref,
    path: { ...text, length: 4000 },
    state: { type: 'varchar', length: 20 },
    size: big,
    report: { ...kept(documents.report), nullable: true },
    gone: { ...flag, default: false },
  },
})
