/** What is kept: tables and the questions asked of them. SQL stays in this folder. */
import type { DataSource } from 'typeorm'
import { databaseOf, expectSchema, makePatient } from '../database/index.ts'
import type { Config } from '../config/index.ts'
import { entities } from '../records/index.ts'

export * from './backups.ts'
export * from './clips.ts'
export * from './files.ts'
export * from './portions.ts'
export * from './settings.ts'
export * from './tasks.ts'
export * from './texts.ts'

/** Opens the database of an instance. Throws a SchemaError where its tables are of another version than this program. */
export async function openStore(config: Config): Promise<DataSource> {
  const db = databaseOf(config, entities)
  makePatient(db)
  await db.initialize()
  try {
    await expectSchema(db)
  } catch (e) {
    await db.destroy()
    throw e
  }
  return db
}
