/** Projects, and what each person views them as. */
import type { Viewing } from '@naranja/contract'
import { EntitySchema } from 'typeorm'
import { flag, id, int, ref, text, when } from './columns.ts'

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

export interface ViewingRecord {
  projectId: string
  who: string
  viewing: Viewing
}

export const ViewingEntity = new EntitySchema<ViewingRecord>({
  name: 'viewing',
  columns: { projectId: { ...ref, primary: true }, who: { type: 'varchar', length: 100, primary: true }, viewing: { type: 'varchar', length: 20 } },
})
