/** What is kept, table by table. Paths are bytes; everything with a list inside is JSON. */
import type { Described, Fact, FactSource, LightVerdict, Notice, Sequence, Technical } from '@naranja/core/clip'
import type { Purpose } from '@naranja/contract'
import type { Cut, CutSource, KeptLine, Problem } from '@naranja/core/cutlist'
import type { Decision } from '@naranja/core/reconnect'
import type { Field } from '@naranja/core/describe'
import type { Crop } from '@naranja/core/framing'
import type { DecodeSettings } from '@naranja/core/raw'
import type { Spec } from '@naranja/core/specs'
import type { FrameMap, Rate } from '@naranja/core/time'
import type { CopyReport } from '@naranja/media'
import type {
  BackupRow,
  BackupState,
  CopiesThen,
  CopyState,
  FinishingRule,
  MatchRule,
  MasterReport,
  MasterRow,
  ProjectDecode,
  PullRow,
  TaskKind,
  TaskState,
  Viewing,
} from '@naranja/contract'
import { EntitySchema, type EntitySchemaColumnOptions } from 'typeorm'

const json: EntitySchemaColumnOptions = {
  type: 'longtext',
  transformer: { to: (v: unknown) => JSON.stringify(v ?? null), from: (v: string | null) => (v === null ? null : JSON.parse(v)) },
}
const id: EntitySchemaColumnOptions = { type: 'char', length: 36, primary: true }
const ref: EntitySchemaColumnOptions = { type: 'char', length: 36 }
const text: EntitySchemaColumnOptions = { type: 'varchar', length: 500 }
const int: EntitySchemaColumnOptions = { type: 'int' }
const big: EntitySchemaColumnOptions = { type: 'double' }
const flag: EntitySchemaColumnOptions = { type: 'boolean' }
const when: EntitySchemaColumnOptions = { type: 'datetime', precision: 3 }
const bytes: EntitySchemaColumnOptions = { type: 'varbinary', length: 4000 }

export interface ProjectRecord {
  id: string
  name: string
  rateNum: number
  rateDen: number
  width: number
  height: number
  /** The rate was chosen by a person, not taken from the first originals. */
  rateChosen: boolean
  version: number
  created: Date
}
export const ProjectEntity = new EntitySchema<ProjectRecord>({
  name: 'project',
  columns: { id, name: text, rateNum: int, rateDen: int, width: int, height: int, rateChosen: flag, version: int, created: when },
})

/**
 * How a volume is known: by its file system's own id, by a card reader's id of a card, by a marker file on it, or (where none
 * of these is to be had) by its path on one machine.
 */
export type VolumeKind = 'file-system' | 'reader' | 'marker' | 'path'

export interface VolumeRecord {
  id: string
  label: string
  kind: VolumeKind
  /** The id by which it is known; the machine's name where it is known by path. */
  key: string
  /** The folder of it that is meant, as bytes; the whole path where it is known by path. */
  sub: Buffer
  /** Of kind, key and sub. */
  identity: string
  /** Made to be taken out: nothing is ever written to it unasked. */
  removable: boolean
  created: Date
}
export const VolumeEntity = new EntitySchema<VolumeRecord>({
  name: 'volume',
  columns: {
    id,
    label: text,
    kind: { type: 'varchar', length: 20 },
    key: { type: 'varchar', length: 300, name: 'known_key' },
    sub: bytes,
    identity: { type: 'char', length: 40 },
    removable: flag,
    created: when,
  },
})

/** Under which path a machine sees, or last saw, a volume. */
export interface VolumePathRecord {
  volumeId: string
  machine: string
  path: Buffer
}
export const VolumePathEntity = new EntitySchema<VolumePathRecord>({
  name: 'volume_path',
  columns: { volumeId: { ...ref, primary: true }, machine: { type: 'varchar', length: 200, primary: true }, path: bytes },
})

/** A folder that people come back to: taken in from lately, or pinned. */
export interface PlaceRecord {
  volumeId: string
  path: Buffer
  pathHash: string
  pinned: boolean
  used: Date
}
export const PlaceEntity = new EntitySchema<PlaceRecord>({
  name: 'place',
  columns: { volumeId: { ...ref, primary: true }, pathHash: { type: 'char', length: 40, primary: true }, path: bytes, pinned: flag, used: when },
})

/** A folder that something was written to, by what for; each project remembers its own. */
export interface TargetRecord {
  projectId: string
  purpose: Purpose
  volumeId: string
  folder: string
  folderHash: string
  used: Date
}
export const TargetEntity = new EntitySchema<TargetRecord>({
  name: 'target',
  columns: {
    projectId: { ...ref, primary: true },
    purpose: { type: 'varchar', length: 20, primary: true },
    volumeId: { ...ref, primary: true },
    folderHash: { type: 'char', length: 40, primary: true },
    folder: { type: 'varchar', length: 4000 },
    used: when,
  },
})

/** Below which name copies of what a folder holds stand: one name for each folder that was taken in. */
export interface TreeRecord {
  projectId: string
  /** The name in lower case. */
  key: string
  top: string
  volumeId: string
  path: Buffer
}
export const TreeEntity = new EntitySchema<TreeRecord>({
  name: 'tree',
  columns: {
    projectId: { ...ref, primary: true },
    key: { type: 'varchar', length: 400, primary: true, name: 'tree_key' },
    top: { ...text, length: 400 },
    volumeId: ref,
    path: bytes,
  },
})

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
    technical: json,
    notices: json,
    noticeCodes: text,
    files: int,
    beside: json,
    described: json,
    backups: int,
    removed: flag,
    ticked: flag,
    lightOf: { ...ref, nullable: true },
    keptOriginal: flag,
    lightVerdicts: { ...json, nullable: true },
    changedOn: { ...when, nullable: true },
    formerNames: json,
    gone: { type: 'varchar', length: 6 },
    decode: { ...json, nullable: true },
    crop: { ...json, nullable: true },
    lookId: { ...ref, nullable: true },
    finishing: { ...ref, nullable: true },
    byScene: made,
    byDay: made,
    byCamera: made,
    searched: { ...made, select: false },
  },
})

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
    facts: { ...json, nullable: true },
    rangeIn: { ...int, nullable: true },
    rangeOut: { ...int, nullable: true },
    replaces: flag,
    volumeId: ref,
    path: { ...text, length: 4000 },
    state: { type: 'varchar', length: 20 },
    size: big,
    report: { ...json, nullable: true },
    gone: { ...flag, default: false },
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
  columns: { clipId: { ...ref, primary: true }, projectId: ref, peaks: json, rates: json, loud: { type: 'mediumblob', nullable: true } },
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

export interface BackupRecord {
  id: string
  projectId: string
  card: string
  sourceVolumeId: string
  /** The folder on the source that was backed up. */
  sourcePath: Buffer
  placeVolumeId: string
  /** The card's folder on the place's volume. */
  placePath: Buffer
  /** Of source and place: one backup of one card in one place. */
  once: string
  state: BackupState
  files: number
  verified: number
  bytes: number
  readBack: 'disk' | 'cache'
  problems: string[]
  checked: BackupRow['checked']
  made: Date
}
export const BackupEntity = new EntitySchema<BackupRecord>({
  name: 'backup',
  columns: {
    id,
    projectId: ref,
    card: text,
    sourceVolumeId: ref,
    sourcePath: bytes,
    placeVolumeId: ref,
    placePath: bytes,
    once: { type: 'char', length: 40 },
    state: { type: 'varchar', length: 20 },
    files: int,
    verified: int,
    bytes: big,
    readBack: { type: 'varchar', length: 10 },
    problems: json,
    checked: { ...json, nullable: true },
    made: when,
  },
})

/** One file of a backup. The hashes are of volume and path, as a clip's is, on the source and in the place. */
export interface BackupFileRecord {
  backupId: string
  sourceHash: string
  placeHash: string
  size: number
  verified: boolean
}
export const BackupFileEntity = new EntitySchema<BackupFileRecord>({
  name: 'backup_file',
  columns: {
    backupId: { ...ref, primary: true },
    sourceHash: { type: 'char', length: 40, primary: true },
    placeHash: { type: 'char', length: 40 },
    size: big,
    verified: flag,
  },
})

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
    cut: json,
    problems: json,
    files: json,
    hash: { type: 'char', length: 40 },
    sourceCount: { type: 'varchar', length: 10 },
    referenceVolumeId: { ...ref, nullable: true },
    referencePath: { ...text, length: 4000, nullable: true },
    copiesVolumeId: { ...ref, nullable: true },
    copiesPath: { ...text, length: 4000, nullable: true },
    follows: { ...ref, nullable: true },
    summary: { ...json, nullable: true },
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
  columns: { id, projectId: ref, eventKey: { type: 'char', length: 40 }, decision: json },
})

/** One field of one clip, as it was and as it was set. */
export interface DescribedChange {
  readonly id: string
  readonly field: Field
  readonly before: Fact<string> | { readonly value: string; readonly from: ReelSource } | null
  readonly after: string | null
}
/** Where a clip or a copy was known to stand: its path as base64. */
export interface Located {
  readonly id: string
  readonly volumeId: string
  readonly path: string
  readonly name?: string
  readonly formerNames?: string[]
}
export type Inverse =
  | { kind: 'found-again'; clips: Located[]; copies: Located[] }
  | { kind: 'decisions'; before: { eventKey: string; decision: Decision | null }[] }
  | { kind: 'clips-removed'; clipIds: string[] }
  | { kind: 'clips-added'; clipIds: string[] }
  | { kind: 'copies-renamed'; was: { copyId: string; path: string }[] }
  | { kind: 'described'; was: DescribedChange[] }
  | { kind: 'ticked'; ticked: boolean; clipIds: string[] }
  | { kind: 'light-copies'; before: Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[] }
  | { kind: 'decode'; before: Pick<ClipRecord, 'id' | 'decode'>[] }
  | { kind: 'crop'; before: Pick<ClipRecord, 'id' | 'crop'>[] }
  | { kind: 'look'; before: Pick<ClipRecord, 'id' | 'lookId'>[] }
  | { kind: 'project-decode'; before: Omit<ProjectDecode, 'version'> }
  | { kind: 'finishing'; before: Pick<ClipRecord, 'id' | 'finishing'>[] }
  | { kind: 'finishing-rule'; before: Pick<FinishingRule, 'missing'> }
  | { kind: 'rules'; before: MatchRule[] }
  | { kind: 'changes-seen'; before: Pick<ClipRecord, 'id' | 'changedOn'>[] }
  | { kind: 'rolls'; before: Pick<ClipRecord, 'id' | 'roll' | 'rollGiven' | 'place'>[] }
  | { kind: 'by-rule'; before: Pick<ClipRecord, 'id' | 'start' | 'startSource' | 'reel' | 'reelSource'>[] }
  | { kind: 'cut-removed'; cutId: string }
  | { kind: 'cut-imported'; cutId: string }
  | { kind: 'edit-pictures'; cutId: string; before: Pick<CutRecord, 'referenceVolumeId' | 'referencePath' | 'copiesVolumeId' | 'copiesPath'> }
  /** How a folder was looked after; null where it was not. `ref`: its path, as a place names it. */
  | {
      kind: 'looked-after'
      volumeId: string
      ref: string
      before: (Pick<ArrivalFolderRecord, 'id' | 'on' | 'quiet' | 'copies' | 'version'> & { since: string | null }) | null
    }
  | {
      kind: 'paired'
      made: string[]
      before: CopyRecord[]
      light?: Pick<ClipRecord, 'id' | 'lightOf' | 'keptOriginal'>[]
      adopted?: Pick<ClipRecord, 'id' | 'frames' | 'seconds' | 'start' | 'startSource' | 'technical'>[]
    }
  | { kind: 'put-aside'; moved: { from: string; to: string }[] }
  | { kind: 'project'; before: Pick<ProjectRecord, 'name' | 'rateNum' | 'rateDen' | 'width' | 'height' | 'rateChosen'> }
export interface ChangeRecord {
  id: string
  projectId: string
  ord?: number
  who: string
  /** The browser it was made in; none where it was the command, or a worker. */
  browser: string
  at: Date
  sentence: string
  inverse: Inverse
  undone: boolean
}
export const ChangeEntity = new EntitySchema<ChangeRecord>({
  name: 'change',
  tableName: 'change_log',
  columns: {
    id,
    projectId: ref,
    ord: { type: 'int', generated: 'increment' },
    who: text,
    browser: { type: 'varchar', length: 16 },
    at: when,
    sentence: { ...text, length: 1000 },
    inverse: json,
    undone: flag,
  },
})

export interface TaskRecord {
  id: string
  projectId: string
  batchId: string
  batchLabel: string
  kind: TaskKind
  label: string
  state: TaskState
  payload: object
  /** Ids of the volumes that it reads and writes, in order, with commas between; null for what is done only where the API runs. */
  needs: string | null
  done: number
  total: number
  unit: string
  /** Share of its batch; of copies, the seconds of a whole worker that it is guessed to take. */
  cost: number
  /** Seconds of a whole worker that it took. */
  spent: number
  error: string
  command: string
  message: string
  result: object | null
  attempts: number
  created: Date
  started: Date | null
  ended: Date | null
  /** Its place in its batch; smaller goes first. */
  place: number
  /** 1 goes before everything, -1 waits until nothing else does. */
  priority: number
  /** Who set it going. */
  who: string
  /** The turn (a job of the queue) in which it was taken last. */
  job: string | null
  /** The machine that took it last. */
  machine: string | null
  /** Held by itself, not with the whole queue. */
  heldAlone: boolean
  ord?: number
}
export const TaskEntity = new EntitySchema<TaskRecord>({
  name: 'task',
  columns: {
    id,
    projectId: ref,
    batchId: ref,
    batchLabel: text,
    kind: { type: 'varchar', length: 20 },
    label: text,
    state: { type: 'varchar', length: 12 },
    payload: json,
    needs: { ...text, length: 400, nullable: true },
    done: big,
    total: big,
    unit: { type: 'varchar', length: 20 },
    cost: big,
    spent: big,
    error: { ...text, length: 2000 },
    command: { type: 'text' },
    message: { ...text, length: 2000 },
    result: json,
    attempts: int,
    created: when,
    started: { ...when, nullable: true },
    ended: { ...when, nullable: true },
    place: big,
    priority: int,
    who: { ...text, length: 200 },
    job: { type: 'varchar', length: 80, nullable: true },
    machine: { ...text, length: 200, nullable: true },
    heldAlone: flag,
    ord: { type: 'int', generated: 'increment' },
  },
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
    report: { ...json, nullable: true },
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
    report: { ...json, nullable: true },
    created: when,
  },
})

export interface ViewingRecord {
  projectId: string
  who: string
  viewing: Viewing
}
export const ViewingEntity = new EntitySchema<ViewingRecord>({
  name: 'viewing',
  columns: { projectId: { ...ref, primary: true }, who: { type: 'varchar', length: 100, primary: true }, viewing: { type: 'varchar', length: 20 } },
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

/** A folder that is looked after. */
export interface ArrivalFolderRecord {
  id: string
  projectId: string
  volumeId: string
  path: Buffer
  on: boolean
  /** Seconds. */
  quiet: number
  copies: CopiesThen | null
  /** What was there before is left alone; null takes it in as well. */
  since: Date | null
  version: number
}
export const ArrivalFolderEntity = new EntitySchema<ArrivalFolderRecord>({
  name: 'arrival_folder',
  columns: {
    id,
    projectId: ref,
    volumeId: ref,
    path: bytes,
    on: { ...flag, name: 'active' },
    quiet: int,
    copies: { ...json, nullable: true },
    since: { ...when, nullable: true },
    version: { type: 'int', default: 1 },
  },
})
/** What became of something that arrived. */
export interface ArrivalRecord {
  ord?: number
  folderId: string
  at: Date
  /** Below the folder. */
  path: string
  what: string
  good: boolean
}
export const ArrivalEntity = new EntitySchema<ArrivalRecord>({
  name: 'arrival',
  columns: {
    ord: { type: 'int', primary: true, generated: 'increment' },
    folderId: ref,
    at: when,
    path: { ...text, length: 4000 },
    what: { ...text, length: 2000 },
    good: flag,
  },
})

/** A spec in one of its versions. */
export interface SpecRecord {
  code: string
  version: number
  /** The version that new copies are made by. */
  current: boolean
  removed: boolean
  spec: Spec
  made: Date
  who: string
}
export const SpecEntity = new EntitySchema<SpecRecord>({
  name: 'spec',
  columns: {
    code: { type: 'varchar', length: 60, primary: true },
    version: { ...int, primary: true },
    current: flag,
    removed: flag,
    spec: json,
    made: when,
    who: text,
  },
})

/** Small facts: measured speeds, whether the queue is paused, what people have set for a project. */
export interface SettingRecord {
  name: string
  value: object | boolean | number | string
  /** Moves on with every change by a person; 0 before the first. */
  version: number
}
export const SettingEntity = new EntitySchema<SettingRecord>({
  name: 'setting',
  columns: { name: { type: 'varchar', length: 100, primary: true }, value: json, version: { type: 'int', default: 0 } },
})

export const entities = [
  ArrivalEntity,
  ArrivalFolderEntity,
  ProjectEntity,
  VolumeEntity,
  VolumePathEntity,
  BackupEntity,
  BackupFileEntity,
  ListenedEntity,
  PrintsEntity,
  LookEntity,
  PlaceEntity,
  TargetEntity,
  TreeEntity,
  ClipEntity,
  CopyEntity,
  SpecEntity,
  CutEntity,
  DecisionEntity,
  ChangeEntity,
  TaskEntity,
  PullEntity,
  MasterEntity,
  ViewingEntity,
  SettingEntity,
]
