/** Specs, in every version. */
import { SpecShape } from '@naranja/contract'
import { documentOf, kept } from './document.ts'
import type { Spec } from '@naranja/core/specs'
import { EntitySchema } from 'typeorm'
import { flag, int, text, when } from './columns.ts'

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
    spec: kept(documentOf<Spec>()('spec.spec', 1, SpecShape)),
    made: when,
    who: text,
  },
})
