/** Originals, and what was found by reading them whole. */
import { noticeCodes } from '@naranja/core/clip'
import { z } from 'zod'
import { documentOf, kept } from './document.ts'
import { crop, decode, described, numbers, technical, texts } from './shapes.ts'
import type { Described, FactSource, LightVerdict, Notice, Technical } from '@naranja/core/clip'
import type { Crop } from '@naranja/core/framing'
import type { DecodeSettings } from '@naranja/core/raw'
import { EntitySchema, type EntitySchemaColumnOptions } from 'typeorm'
import { big, bytes, flag, id, int, ref, text, when } from './columns.ts'

const notices = z.array(z.object({ code: z.enum(noticeCodes), severity: z.enum(['info', 'warning', 'error']), short: z.string(), text: z.string() }))
const verdicts = z.array(z.object({ own: z.string(), of: z.string(), says: z.enum(['alike', 'unlike', 'unsure']), likeness: z.number() }))
/** What the columns of clips keep as documents. */
export const clipDocuments = {
  technical: documentOf<Technical>()('clip.technical', 1, technical),
  notices: documentOf<Notice[]>()('clip.notices', 1, notices),
  described: documentOf<Described>()('clip.described', 1, described),
  beside: documentOf<string[]>()('clip.beside', 1, texts),
  formerNames: documentOf<string[]>()('clip.formerNames', 1, texts),
  lightVerdicts: documentOf<LightVerdict[]>()('clip.lightVerdicts', 1, verdicts),
  decode: documentOf<DecodeSettings>()('clip.decode', 1, decode),
  crop: documentOf<Crop>()('clip.crop', 1, crop),
}

/** What of a file is not there any more: itself, or the folder that it stood in. */
export type Gone = '' | 'folder' | 'file'

export type ReelSource = FactSource | 'folder' | 'none'

export interface ClipRecord {
  id: string
  projectId: string
  volumeId: string
  path: Buffer
  pathHash: string
  name: string
  /** Sort key: roll, then name. */
  place: string
  roll: string
  /** A person gave the roll. */
  rollGiven: boolean
  /** The folder of its copies below a target: the originals' own tree, from the folder that was taken in. */
  tree: string
  day: string
  reel: string | null
  reelSource: ReelSource
  /** First frame, from the file or by rule. */
  start: number | null
  startSource: 'file' | 'rule' | 'none'
  frames: number
  seconds: number
  size: number
  modified: Date
  contentId: string
  technical: Technical
  notices: Notice[]
  /** Codes of the notices, for questions. */
  noticeCodes: string
  /** Files it is made of. */
  files: number
  /** Side files, as text, relative to the volume. */
  beside: string[]
  described: Described
  /** Volumes on which a verified copy of it stands; cards do not count. */
  backups: number
  removed: boolean
  /** Chosen for batch work, until unticked. */
  ticked: boolean
  /** The original that this is a light copy of, where a person said so. */
  lightOf: string | null
  /** A person said that it counts as an original, though it looks like a light copy. */
  keptOriginal: boolean
  /** What comparisons with larger clips of its name have shown. */
  lightVerdicts: LightVerdict[] | null
  /** When its file was found to be another under the same path; null once a person has seen it. */
  changedOn: Date | null
  /** What its file was called before. */
  formerNames: string[]
  /** What of it has vanished from a volume that is here; empty while it stands there. */
  gone: Gone
  /** Decode settings of a raw clip; null where it has the project's. */
  decode: DecodeSettings | null
  /** The part of the picture that edit copies show; null for all of it. */
  crop: Crop | null
  /** The look that belongs to it, shown on it and drawn into copies whose spec says so. */
  lookId: string | null
  /** The edit copy that it is finished from, as a person decided; null for its original. */
  finishing: string | null
  /** Made by the database from the others, to sort and search by. */
  readonly byScene?: string
  readonly byDay?: string
  readonly byCamera?: string
  readonly searched?: string
}

/** A clip that nobody has done anything with yet. */
export const untouched = {
  ...{ removed: false, ticked: false, rollGiven: false, lightOf: null, keptOriginal: false, lightVerdicts: null, changedOn: null, gone: '' as Gone },
  formerNames: [] as string[],
  ...{ decode: null, crop: null, lookId: null, finishing: null },
} satisfies Partial<ClipRecord>

const made: EntitySchemaColumnOptions = { ...text, length: 650, insert: false, update: false }

export const ClipEntity = new EntitySchema<ClipRecord>({
  name: 'clip',
  columns: {
    id,
    projectId: ref,
    volumeId: ref,
    path: bytes,
    pathHash: { type: 'char', length: 40 },
    name: { ...text, length: 300 },
    place: { ...text, length: 400 },
    roll: { ...text, length: 100 },
    rollGiven: flag,
    tree: { type: 'varchar', length: 4000 },
    day: { ...text, length: 100 },
    reel: { ...text, length: 200, nullable: true },
    reelSource: { type: 'varchar', length: 10 },
    startSource: { type: 'varchar', length: 10 },
    start: { ...int, nullable: true },
    frames: int,
    seconds: big,
    size: big,
    modified: when,
    contentId: { type: 'varchar', length: 80 },
    technical: kept(clipDocuments.technical),
    notices: kept(clipDocuments.notices),
    noticeCodes: text,
    files: int,
    beside: kept(clipDocuments.beside),
    described: kept(clipDocuments.described),
    backups: int,
    removed: flag,
    ticked: flag,
    lightOf: { ...ref, nullable: true },
    keptOriginal: flag,
    lightVerdicts: { ...kept(clipDocuments.lightVerdicts), nullable: true },
    changedOn: { ...when, nullable: true },
    formerNames: kept(clipDocuments.formerNames),
    gone: { type: 'varchar', length: 6 },
    decode: { ...kept(clipDocuments.decode), nullable: true },
    crop: { ...kept(clipDocuments.crop), nullable: true },
    lookId: { ...ref, nullable: true },
    finishing: { ...ref, nullable: true },
    byScene: made,
    byDay: made,
    byCamera: made,
    searched: { ...made, select: false },
  },
})

/** What was found by reading a clip with sound from beginning to end. */
export interface ListenedRecord {
  clipId: string
  projectId: string
  peaks: number[]
  rates: number[]
  /** Loudness from moment to moment; null where it was read before that was kept. */
  loud: Buffer | null
}

export const ListenedEntity = new EntitySchema<ListenedRecord>({
  name: 'listened',
  columns: {
    clipId: { ...ref, primary: true },
    projectId: ref,
    peaks: kept(documentOf<number[]>()('listened.peaks', 1, numbers)),
    rates: kept(documentOf<number[]>()('listened.rates', 1, numbers)),
    loud: { type: 'mediumblob', nullable: true },
  },
})

/** Fingerprints of a clip, of every `every`th frame; they hold for its content. */
export interface PrintsRecord {
  clipId: string
  projectId: string
  contentId: string
  every: number
  prints: Buffer
}

export const PrintsEntity = new EntitySchema<PrintsRecord>({
  name: 'prints',
  columns: {
    clipId: { ...ref, primary: true },
    projectId: ref,
    contentId: { type: 'varchar', length: 100 },
    every: { type: 'int' },
    prints: { type: 'mediumblob' },
  },
})

/** A look that can be tried: a table file, or a color decision list as one. */
export interface LookRecord {
  id: string
  projectId: string
  name: string
  kind: '1d' | '3d' | 'cdl'
  /** As a `.cube` file. */
  cube: string
  created: Date
}

export const LookEntity = new EntitySchema<LookRecord>({
  name: 'look',
  columns: { id, projectId: ref, name: text, kind: { type: 'varchar', length: 10 }, cube: { type: 'longtext' }, created: when },
})
