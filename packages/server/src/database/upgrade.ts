/** The tables of an instance are brought up to date by one process, before any other of the instance uses them, and never without a save. */
import type { DataSource, QueryRunner } from 'typeorm'
import type { Config } from '../config/index.ts'
import { connected, stepsGone } from './connect.ts'
import { steps } from './steps.ts'
import { keepSave } from './save.ts'

/** The last step of the tables that this version knows. */
export const schemaVersion = steps.at(-1)?.name ?? ''

/** Tables that cannot be used as they are, in a sentence. */
export class SchemaError extends Error {}

/** Throws a SchemaError unless the tables have gone all steps that this version knows, and no other. */
export async function expectSchema(db: Pick<DataSource, 'query'>): Promise<void> {
  const gone = new Set(await stepsGone(db))
  if (steps.some((s) => !gone.has(s.name)))
    throw new SchemaError('The tables of this instance are older than this program. Stop Naranja and start it again: the start brings them up to date.')
  refuseNewer(gone)
}

function refuseNewer(gone: ReadonlySet<string>): void {
  const known = new Set(steps.map((s) => s.name))
  const unknown = [...gone].filter((n) => !known.has(n))
  if (unknown.length > 0)
    throw new SchemaError(
      `A newer version of Naranja has changed the tables of this instance (${unknown.join(', ')}). Start that version or a newer one, or restore a save that this one has made.`,
    )
}

/** Goes the steps that are left, one after another; each is noted once it is done whole. */
export async function goSteps(q: QueryRunner, gone: readonly string[], upTo = schemaVersion): Promise<void> {
  await q.query('CREATE TABLE IF NOT EXISTS migrations (id int NOT NULL AUTO_INCREMENT PRIMARY KEY, timestamp bigint NOT NULL, name varchar(255) NOT NULL)')
  for (const step of steps) {
    if (!gone.includes(step.name)) {
      try {
        await step.up(q)
        await q.query('INSERT INTO migrations (timestamp, name) VALUES (?, ?)', [Number(/\d+$/.exec(step.name)?.[0]), step.name])
      } catch (e) {
        throw new SchemaError(`The tables could not be brought up to date (${step.name}): ${e instanceof Error ? e.message : e}`)
      }
    }
    if (step.name === upTo) return
  }
}

/**
 * Brings the tables of an instance up to date, after a save of how they stand where they hold anything. Called again after it failed, it goes on
 * where it was. Throws a SchemaError where a newer version has used them, where another process is at it, or where a step fails.
 */
export async function upgrade(c: Config): Promise<void> {
  await connected(c, async (db) => {
    const q = db.createQueryRunner()
    try {
      const [lock] = (await q.query("SELECT GET_LOCK('naranja upgrade', 0) AS mine")) as { mine: unknown }[]
      if (Number(lock?.mine) !== 1)
        throw new SchemaError('Another process brings the tables of this instance up to date. Wait until it is done, and start again.')
      const gone = await stepsGone(db)
      refuseNewer(new Set(gone))
      if (steps.every((s) => gone.includes(s.name))) return
      const before = gone.length > 0 ? await keepSave(c, 'before an upgrade') : null
      try {
        await goSteps(q, gone)
      } catch (e) {
        if (!(e instanceof SchemaError) || !before) throw e
        throw new SchemaError(
          `${e.message}\nNothing is lost: start again to go on from there, or put back what stood there before with the version that you had: ./naranja restore "${before}"`,
        )
      }
    } finally {
      await q.release()
    }
  })
}
