/** Volumes, where machines see them, and the folders of them that people use. */
import type { Purpose } from '@naranja/contract'
import { EntitySchema } from 'typeorm'
import { bytes, flag, id, ref, text, when } from './columns.ts'

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
