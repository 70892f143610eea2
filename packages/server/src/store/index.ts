/** The database: MariaDB through TypeORM. SQL stays in this folder. */
import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { DataSource } from 'typeorm'
import type { Config } from '../platform/index.ts'
import { entities } from './entities.ts'
import { migrations } from './migrations.ts'
import { makePatient } from './patience.ts'
import { saveName, savesFolder, saveTo } from './save.ts'

export * from './backups.ts'
export * from './clips.ts'
export * from './entities.ts'
export * from './files.ts'
export * from './patience.ts'
export * from './portions.ts'
export * from './save.ts'
export * from './settings.ts'
export * from './tasks.ts'

/** The last step of the tables that this version knows. */
export const schemaVersion = migrations.at(-1)?.name ?? ''

/** Opens the database of an instance and brings its tables up to date. */
export async function openStore(config: Config): Promise<DataSource> {
  const db = new DataSource({
    type: 'mariadb',
    host: '127.0.0.1',
    port: config.database.port,
    username: config.database.user,
    password: config.database.password,
    database: 'naranja',
    entities,
    migrations,
    timezone: 'Z',
    charset: 'utf8mb4',
    synchronize: false,
    logging: false,
    extra: { connectionLimit: 8 },
  })
  makePatient(db)
  await db.initialize()
  // A worker on another machine has come through a door that asks for the same tables, and may not change them.
  if (config.joined) return db
  // Tables that are about to change are saved as they are; those of a first start hold nothing yet.
  const [{ done = 0 } = {}] = (await db.query("SELECT COUNT(*) AS done FROM information_schema.tables WHERE table_schema = 'naranja'")) as { done: number }[]
  if (Number(done) > 0 && (await db.showMigrations())) {
    await mkdir(savesFolder(config), { recursive: true, mode: 0o700 })
    await saveTo(config, join(savesFolder(config), saveName('before an upgrade')))
  }
  await db.runMigrations({ transaction: 'none' })
  return db
}
