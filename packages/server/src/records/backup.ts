/** Verified backups, file by file. */
import { z } from 'zod'
import { documentOf, kept } from './document.ts'
import { texts } from './shapes.ts'
import type { BackupRow, BackupState } from '@naranja/contract'
import { EntitySchema } from 'typeorm'
import { big, bytes, flag, id, int, ref, text, when } from './columns.ts'

const checked = z.object({ when: z.string(), right: z.number(), changed: z.number(), missing: z.number(), added: z.number(), problems: texts })
const documents = {
  problems: documentOf<string[]>()('backup.problems', 1, texts),
  checked: documentOf<NonNullable<BackupRow['checked']>>()('backup.checked', 1, checked),
}

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
    problems: kept(documents.problems),
    checked: { ...kept(documents.checked), nullable: true },
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
