/** Folders that are looked after. */
import { documentOf, kept } from './document.ts'
import { CopiesThen } from '@naranja/contract'
import { EntitySchema } from 'typeorm'
import { bytes, flag, id, int, ref, text, when } from './columns.ts'

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
    copies: { ...kept(documentOf<CopiesThen>()('arrival_folder.copies', 1, CopiesThen)), nullable: true },
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
