/** Work on the database that is given up for another's sake, and done again. */
import type { DataSource, EntityManager } from 'typeorm'

/** What MariaDB says where two transactions waited for one another, or one waited too long: nothing of the statement was written. */
const givenUp = new Set([1213, 1205])

/** Runs `work` again, a few times and a little later, where the database gave it up in favour of another. `work` must be whole: a statement, or a transaction. */
export async function patiently<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await work()
    } catch (e) {
      const { errno } = e as { errno?: number }
      if (errno === undefined || !givenUp.has(errno) || tries >= 8) throw e
      await new Promise((r) => setTimeout(r, 20 * tries + Math.random() * 50))
    }
  }
}

/** Every statement of a database that stands alone is done patiently; a transaction is done again as a whole, by whoever began it. */
export function makePatient(db: DataSource): void {
  const plain = db.createQueryRunner.bind(db)
  db.createQueryRunner = (mode) => {
    const runner = plain(mode)
    const query = runner.query.bind(runner)
    runner.query = (...args: Parameters<typeof query>) => (runner.isTransactionActive ? query(...args) : patiently(() => query(...args)))
    return runner
  }
}

/** Runs `work` in the transaction that is under way, or in one of its own, which is done again as a whole where it was given up. */
export function whole<T>(db: EntityManager, work: (t: EntityManager) => Promise<T>): Promise<T> {
  return db.queryRunner?.isTransactionActive ? work(db) : patiently(() => db.transaction('READ COMMITTED', work))
}
