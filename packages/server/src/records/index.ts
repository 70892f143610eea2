/** What is kept, table by table. Paths are bytes; everything with a list inside is JSON. */
import { ArrivalEntity, ArrivalFolderEntity } from './arrival.ts'
import { BackupEntity, BackupFileEntity } from './backup.ts'
import { ChangeEntity } from './change.ts'
import { ListenedEntity, PrintsEntity, LookEntity, ClipEntity } from './clip.ts'
import { CopyEntity } from './copy.ts'
import { CutEntity, DecisionEntity, PullEntity, MasterEntity } from './cut.ts'
import { ProjectEntity, ViewingEntity } from './project.ts'
import { SettingEntity } from './setting.ts'
import { SpecEntity } from './spec.ts'
import { TaskEntity } from './task.ts'
import { VolumeEntity, VolumePathEntity, PlaceEntity, TargetEntity, TreeEntity } from './volume.ts'

export { type ArrivalFolderRecord, ArrivalFolderEntity, type ArrivalRecord, ArrivalEntity } from './arrival.ts'
export { type BackupRecord, BackupEntity, type BackupFileRecord, BackupFileEntity } from './backup.ts'
export { type DescribedChange, type Located, type Inverse, type ChangeRecord, ChangeEntity } from './change.ts'
export {
  type Gone,
  type ReelSource,
  type ClipRecord,
  untouched,
  ClipEntity,
  clipDocuments,
  type ListenedRecord,
  ListenedEntity,
  type PrintsRecord,
  PrintsEntity,
  type LookRecord,
  LookEntity,
} from './clip.ts'
export { type CopyFacts, type CopyRecord, CopyEntity } from './copy.ts'
export {
  type CutRecord,
  type CutSummary,
  CutEntity,
  type DecisionRecord,
  DecisionEntity,
  type PullRecord,
  PullEntity,
  type MasterRecord,
  MasterEntity,
} from './cut.ts'
export { type ProjectRecord, ProjectEntity, type ViewingRecord, ViewingEntity } from './project.ts'
export { type Setting, type SettingRecord, SettingEntity, settingName, settings } from './setting.ts'
export { type Document, DocumentError, documents, readKept } from './document.ts'
export { type SpecRecord, SpecEntity } from './spec.ts'
export { type TaskRecord, TaskEntity, type Payload, payloadOf, productsOf, type Result, resultOf } from './task.ts'
export {
  type VolumeKind,
  type VolumeRecord,
  VolumeEntity,
  type VolumePathRecord,
  VolumePathEntity,
  type PlaceRecord,
  PlaceEntity,
  type TargetRecord,
  TargetEntity,
  type TreeRecord,
  TreeEntity,
} from './volume.ts'

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
