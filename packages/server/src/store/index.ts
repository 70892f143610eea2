/** The database: MariaDB through TypeORM. SQL stays in this folder. */
import type { Config } from '../config.ts'
import { DataSource } from 'typeorm'
import { entities } from './entities.ts'
import { makePatient } from './patience.ts'
import {
  Backups1764090000000,
  Describe1764200000000,
  Described1764100000000,
  Loud1764300000000,
  Specs1764400000000,
  Start1764000000000,
  Turns1764500000000,
  Copies1764600000000,
  Finishing1764700000000,
  Gone1765400000000,
  CutCopies1765000000000,
  LightProof1765100000000,
  Prints1764900000000,
  Targets1765200000000,
  Writers1765300000000,
  Turnovers1764800000000,
  Volumes1764080000000,
} from './migrations.ts'

export * from './backups.ts'
export * from './clips.ts'
export * from './entities.ts'
export * from './files.ts'
export * from './patience.ts'
export * from './portions.ts'
export * from './settings.ts'
export * from './tasks.ts'

/** Opens the database of an instance and brings its tables up to date. */
export async function openStore(config: Config): Promise<DataSource> {
  const db = new DataSource({
    type: 'mariadb',
    host: '127.0.0.1',
    port: config.database.port,
    username: 'naranja',
    password: config.database.password,
    database: 'naranja',
    entities,
    migrations: [
      Start1764000000000,
      Volumes1764080000000,
      Backups1764090000000,
      Described1764100000000,
      Describe1764200000000,
      Loud1764300000000,
      Specs1764400000000,
      Turns1764500000000,
      Copies1764600000000,
      Finishing1764700000000,
      Turnovers1764800000000,
      Prints1764900000000,
      CutCopies1765000000000,
      LightProof1765100000000,
      Targets1765200000000,
      Writers1765300000000,
      Gone1765400000000,
    ],
    timezone: 'Z',
    charset: 'utf8mb4',
    synchronize: false,
    logging: false,
    extra: { connectionLimit: 8 },
  })
  makePatient(db)
  await db.initialize()
  await db.runMigrations({ transaction: 'none' })
  return db
}
