/** Columns of the usual kinds. */
import type { EntitySchemaColumnOptions } from 'typeorm'

export const json: EntitySchemaColumnOptions = {
  type: 'longtext',
  transformer: { to: (v: unknown) => JSON.stringify(v ?? null), from: (v: string | null) => (v === null ? null : JSON.parse(v)) },
}
export const id: EntitySchemaColumnOptions = { type: 'char', length: 36, primary: true }
export const ref: EntitySchemaColumnOptions = { type: 'char', length: 36 }
export const text: EntitySchemaColumnOptions = { type: 'varchar', length: 500 }
export const int: EntitySchemaColumnOptions = { type: 'int' }
export const big: EntitySchemaColumnOptions = { type: 'double' }
export const flag: EntitySchemaColumnOptions = { type: 'boolean' }
export const when: EntitySchemaColumnOptions = { type: 'datetime', precision: 3 }
export const bytes: EntitySchemaColumnOptions = { type: 'varbinary', length: 4000 }
