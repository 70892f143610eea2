/** The connection to an instance's database. */
import { DataSource, type EntitySchema } from 'typeorm'
import type { Config } from '../config/index.ts'

/** Not yet connected; with the tables that are spoken of by name, or with none. */
export const databaseOf = (c: Config, entities: EntitySchema[] = []): DataSource =>
  new DataSource({
    type: 'mariadb',
    host: '127.0.0.1',
    port: c.database.port,
    username: c.database.user,
    password: c.database.password,
    database: 'naranja',
    entities,
    timezone: 'Z',
    charset: 'utf8mb4',
    synchronize: false,
    logging: false,
    extra: { connectionLimit: 8 },
  })

/** Connected for as long as `work` takes. */
export async function connected<T>(c: Config, work: (db: DataSource) => Promise<T>): Promise<T> {
  const db = databaseOf(c)
  await db.initialize()
  try {
    return await work(db)
  } finally {
    await db.destroy()
  }
}

/** The steps that the tables of a database have gone, in their order; none where it has no tables yet. */
export async function stepsGone(db: Pick<DataSource, 'query'>, database = 'naranja'): Promise<string[]> {
  const has = (await db.query("SELECT 1 FROM information_schema.tables WHERE table_schema = ? AND table_name = 'migrations'", [database])) as unknown[]
  return has.length ? ((await db.query(`SELECT name FROM \`${database}\`.migrations ORDER BY id`)) as { name: string }[]).map((m) => m.name) : []
}
