/** Cuts, what was decided about their events, and what is made of them. */
import { z } from 'zod'
import { documentOf, kept } from './document.ts'
import { copyReport, digits, rate, texts, triple } from './shapes.ts'
import { MasterReport, type MasterRow, type PullRow } from '@naranja/contract'
import type { Cut, CutSource, KeptLine, Problem } from '@naranja/core/cutlist'
import type { Decision } from '@naranja/core/reconnect'
import type { Rate } from '@naranja/core/time'
import type { CopyReport } from '@naranja/media'
import { EntitySchema } from 'typeorm'
import { flag, id, int, ref, text, when } from './columns.ts'

const marker = z.object({ at: z.number(), length: z.number(), text: z.string(), colour: z.string().nullable() })
const keptLines = z.array(z.object({ line: z.number(), text: z.string() }))
const event = z.object({
  id: z.string(),
  number: z.string(),
  track: z.string(),
  medium: z.enum(['picture', 'sound']),
  kind: z.enum(['camera', 'title', 'still', 'music', 'mix', 'black', 'bars']),
  reel: z.string().nullable(),
  clipName: z.string().nullable(),
  sourceFile: z.string().nullable(),
  sourceIn: digits,
  sourceOut: digits,
  recordIn: z.number(),
  recordOut: z.number(),
  transition: z.object({ type: z.enum(['cut', 'dissolve', 'wipe', 'key']), frames: z.number(), code: z.string(), fromBlack: z.boolean() }),
  speed: z.object({ num: z.number(), den: z.number() }).nullable(),
  comments: texts,
  sourceRate: rate.optional(),
  channels: z.string().optional(),
  tail: z.string().optional(),
  cdl: z.object({ slope: triple, offset: triple, power: triple, saturation: z.number() }).optional(),
  markers: z.array(marker).optional(),
  levels: z.array(z.object({ at: z.number(), db: z.number() })).optional(),
  otio: z.object({ metadata: z.string().optional(), effects: texts.optional(), references: z.string().optional(), active: z.string().optional() }).optional(),
  file: z.number(),
  firstLine: z.number(),
  lastLine: z.number(),
})
const source = z.object({
  format: z.enum(['edl', 'otio', 'table']),
  title: z.string().nullable(),
  kept: keptLines,
  perLabel: z.number(),
  metadata: z.string().optional(),
  items: z.array(z.object({ track: z.string(), recordIn: z.number(), recordOut: z.number(), json: z.string() })).optional(),
})
const cut = z.object({
  name: z.string(),
  rate,
  drop: z.boolean(),
  start: z.number(),
  length: z.number(),
  events: z.array(event),
  sources: z.array(source).optional(),
  markers: z.array(marker).optional(),
})
const problems = z.array(z.object({ code: z.string(), severity: z.enum(['error', 'warning']), file: z.string(), line: z.number(), message: z.string() }))
const summary = z.object({
  rate,
  drop: z.boolean(),
  start: z.number(),
  length: z.number(),
  events: z.number(),
  files: z.array(z.object({ name: z.string(), lines: z.number(), format: z.enum(['edl', 'otio', 'table']), kept: keptLines })),
})
/** What a person settled about an event. */
export const decisionShape = z.union([
  z.object({
    action: z.enum(['set', 'confirm']),
    clipId: z.string(),
    first: z.number().optional(),
    light: z.enum(['suspected', 'proven', 'marked']).optional(),
  }),
  z.object({ action: z.literal('none') }),
  z.object({ action: z.literal('camera') }),
])
const documents = {
  cut: documentOf<Cut>()('cut.cut', 1, cut),
  problems: documentOf<Problem[]>()('cut.problems', 1, problems),
  files: documentOf<CutRecord['files']>()('cut.files', 1, z.array(z.object({ name: z.string(), base64: z.string() }))),
  summary: documentOf<CutSummary>()('cut.summary', 1, summary),
  decision: documentOf<Decision>()('decision.decision', 1, decisionShape),
  pull: documentOf<CopyReport>()('pull.report', 1, copyReport),
  master: documentOf<MasterReport>()('master.report', 1, MasterReport),
}

export interface CutRecord {
  id: string
  projectId: string
  name: string
  cut: Cut
  problems: Problem[]
  /** The lists as they came, byte for byte, base64. */
  files: { name: string; base64: string }[]
  hash: string
  sourceCount: 'auto' | 'list' | 'source'
  referenceVolumeId: string | null
  referencePath: string | null
  /** The folder of the light copies it was cut from. */
  copiesVolumeId: string | null
  copiesPath: string | null
  /** The turnover before it. */
  follows: string | null
  /** What lists of cuts show of it; null for those imported before it was kept. */
  summary: CutSummary | null
  created: Date
  removed: boolean
}

export interface CutSummary {
  readonly rate: Rate
  readonly drop: boolean
  readonly start: number
  readonly length: number
  readonly events: number
  readonly files: { name: string; lines: number; format: CutSource['format']; kept: KeptLine[] }[]
}

export const CutEntity = new EntitySchema<CutRecord>({
  name: 'cut',
  columns: {
    id,
    projectId: ref,
    name: text,
    cut: kept(documents.cut),
    problems: kept(documents.problems),
    files: kept(documents.files),
    hash: { type: 'char', length: 40 },
    sourceCount: { type: 'varchar', length: 10 },
    referenceVolumeId: { ...ref, nullable: true },
    referencePath: { ...text, length: 4000, nullable: true },
    copiesVolumeId: { ...ref, nullable: true },
    copiesPath: { ...text, length: 4000, nullable: true },
    follows: { ...ref, nullable: true },
    summary: { ...kept(documents.summary), nullable: true },
    created: when,
    removed: flag,
  },
})

/** Kept by what an event is (reel, name, range), not by where it stands, so that it outlives a new turnover. */
export interface DecisionRecord {
  id: string
  projectId: string
  eventKey: string
  decision: Decision
}

export const DecisionEntity = new EntitySchema<DecisionRecord>({
  name: 'decision',
  columns: { id, projectId: ref, eventKey: { type: 'char', length: 40 }, decision: kept(documents.decision) },
})

export interface PullRecord {
  id: string
  projectId: string
  cutId: string
  clipId: string
  in: number
  out: number
  volumeId: string
  path: string
  state: PullRow['state']
  /** The edit copy that it was made from; null for the original. */
  source: string | null
  report: CopyReport | null
}

export const PullEntity = new EntitySchema<PullRecord>({
  name: 'pull',
  columns: {
    id,
    projectId: ref,
    cutId: ref,
    clipId: ref,
    in: { ...int, name: 'frame_in' },
    out: { ...int, name: 'frame_out' },
    source: { ...ref, nullable: true },
    volumeId: ref,
    path: { ...text, length: 4000 },
    state: { type: 'varchar', length: 20 },
    report: { ...kept(documents.pull), nullable: true },
  },
})

export interface MasterRecord {
  id: string
  projectId: string
  cutId: string
  volumeId: string
  path: string
  state: MasterRow['state']
  width: number
  height: number
  report: MasterReport | null
  created: Date
}

export const MasterEntity = new EntitySchema<MasterRecord>({
  name: 'master',
  columns: {
    id,
    projectId: ref,
    cutId: ref,
    volumeId: ref,
    path: { ...text, length: 4000 },
    state: { type: 'varchar', length: 20 },
    width: int,
    height: int,
    report: { ...kept(documents.master), nullable: true },
    created: when,
  },
})
