/** Questions about tasks: batches are summed by the database, however many tasks they have. */
import { randomUUID } from 'node:crypto'
import { type EntityManager, In } from 'typeorm'
import { TaskEntity, type TaskRecord } from '../records/index.ts'
import { whole } from '../database/index.ts'
import { inPortions, portion } from './portions.ts'

export interface BatchSum {
  readonly id: string
  readonly label: string
  readonly kind: TaskRecord['kind']
  readonly tasks: number
  readonly finished: number
  readonly failed: number
  readonly cancelled: number
  /** Of all its tasks, of those that have ended, and of those that came to what was wanted. */
  readonly cost: number
  readonly costEnded: number
  readonly costDone: number
  /** Seconds of a whole worker that the latter took. */
  readonly spentDone: number
  readonly who: string
  /** Of what still waits. */
  readonly priority: number
  readonly waiting: number
}

const over = "t.state IN ('done', 'failed', 'cancelled')"

type NewTaskField = 'projectId' | 'batchId' | 'batchLabel' | 'kind' | 'label' | 'payload' | 'needs' | 'total' | 'unit' | 'cost' | 'place' | 'priority' | 'who'
/** A task that waits and has never run. */
export const waitingTask = (given: Pick<TaskRecord, NewTaskField>): TaskRecord => ({
  ...given,
  ...{ id: randomUUID(), state: 'waiting', created: new Date(), started: null, ended: null, done: 0, spent: 0, attempts: 0 },
  ...{ fault: '', error: '', command: '', message: '', result: null, job: null, machine: null, heldAlone: false },
})

/**
 * Writes new tasks down, and in the same transaction what they are to make: one without the other would wait for ever. After many tasks the
 * database looks at its indexes anew, or it would read all of them for each that is handed out.
 */
export async function insertTasks(
  db: EntityManager,
  tasks: readonly TaskRecord[],
  products: (db: EntityManager) => Promise<void> = async () => undefined,
): Promise<void> {
  await whole(db, async (inside) => {
    await products(inside)
    for (const some of inPortions(tasks)) await inside.getRepository(TaskEntity).insert(some)
  })
  if (tasks.length > portion) await db.query('ANALYZE TABLE task')
}

/** The newest batches, of a project or of all, or one batch; those that are active come first. */
export async function batchSums(db: EntityManager, by: { projectId?: string | undefined; batchId?: string }, most = 60): Promise<BatchSum[]> {
  const q = db
    .getRepository(TaskEntity)
    .createQueryBuilder('t')
    .select('t.batchId', 'id')
    .addSelect('MAX(t.batchLabel)', 'label')
    .addSelect('MAX(t.kind)', 'kind')
    .addSelect('COUNT(*)', 'tasks')
    .addSelect(`SUM(${over})`, 'finished')
    .addSelect("SUM(t.state = 'failed')", 'failed')
    .addSelect("SUM(t.state = 'cancelled')", 'cancelled')
    .addSelect('SUM(t.cost)', 'cost')
    .addSelect(`SUM(IF(${over}, t.cost, 0))`, 'costEnded')
    .addSelect("SUM(IF(t.state = 'done', t.cost, 0))", 'costDone')
    .addSelect("SUM(IF(t.state = 'done', t.spent, 0))", 'spentDone')
    .addSelect('MAX(t.who)', 'who')
    .addSelect("COALESCE(MAX(IF(t.state = 'waiting', t.priority, NULL)), 0)", 'priority')
    .addSelect("SUM(t.state = 'waiting')", 'waiting')
    .groupBy('t.batchId')
    .orderBy(`SUM(${over}) < COUNT(*)`, 'DESC')
    .addOrderBy('MAX(t.ord)', 'DESC')
    .limit(most)
  if (by.batchId) q.where('t.batchId = :b', { b: by.batchId })
  else if (by.projectId) q.where('t.projectId = :p', { p: by.projectId })
  const rows = await q.getRawMany<Record<keyof BatchSum, string> & { kind: TaskRecord['kind'] }>()
  return rows.map((r) => ({
    id: r.id,
    label: r.label,
    kind: r.kind,
    tasks: Number(r.tasks),
    finished: Number(r.finished),
    failed: Number(r.failed),
    cancelled: Number(r.cancelled),
    cost: Number(r.cost),
    costEnded: Number(r.costEnded),
    costDone: Number(r.costDone),
    spentDone: Number(r.spentDone),
    who: r.who,
    priority: Number(r.priority),
    waiting: Number(r.waiting),
  }))
}

/** Tasks of these batches as a person looks for them: what runs, what failed, what comes next, what ended last. */
export async function listedTasks(db: EntityManager, batchIds: readonly string[], most = 1000): Promise<TaskRecord[]> {
  if (batchIds.length === 0) return []
  return db
    .getRepository(TaskEntity)
    .createQueryBuilder('t')
    .where({ batchId: In([...batchIds]) })
    .orderBy("FIELD(t.state, 'running', 'held', 'failed', 'waiting', 'cancelled', 'done')")
    .addOrderBy("IF(t.state = 'waiting', t.place, -t.ord)")
    .limit(most)
    .getMany()
}

/** Tasks of these batches that are in hand. */
export const inHand = (db: EntityManager, batchIds: readonly string[]): Promise<TaskRecord[]> =>
  batchIds.length === 0 ? Promise.resolve([]) : db.getRepository(TaskEntity).findBy({ batchId: In([...batchIds]), state: In(['running', 'held']) })

/** What waiting tasks need, each once. */
export const waitingNeeds = async (db: EntityManager): Promise<string[]> =>
  ((await db.query(`SELECT DISTINCT needs FROM task WHERE state = 'waiting' AND needs IS NOT NULL`)) as { needs: string }[]).map((r) => r.needs)

/** Batches of which something waits, apart by urgency, and how many of their tasks run. `needs`: only of tasks that need one of these. */
export async function linesOf(
  db: EntityManager,
  needs: readonly string[] | null = null,
): Promise<{ batchId: string; who: string; priority: number; running: number; began: number }[]> {
  const [waiting, running] = (await Promise.all([
    // Of each line its first task alone is looked at (a loose scan of an index), so that it costs the same however many wait.
    db.query(
      `SELECT t.batchId, t.priority, MAX(t.who) AS who, MIN(t.created) AS began FROM task t JOIN (
        SELECT ${needs ? 'needs, ' : ''}batchId, priority, MIN(place) AS place FROM task
        WHERE state = 'waiting'${needs ? ' AND needs IN (?)' : ''} GROUP BY state, ${needs ? 'needs, ' : ''}batchId, priority
      ) f ON t.state = 'waiting' AND t.batchId = f.batchId AND t.priority = f.priority AND t.place = f.place GROUP BY t.batchId, t.priority`,
      needs ? [needs] : [],
    ),
    db.query(`SELECT batchId, COUNT(*) AS n FROM task WHERE state = 'running' GROUP BY batchId`),
  ])) as [{ batchId: string; priority: number; who: string; began: Date }[], { batchId: string; n: string }[]]
  const now = new Map(running.map((r) => [r.batchId, Number(r.n)]))
  return waiting.map((w) => ({ batchId: w.batchId, who: w.who, priority: Number(w.priority), running: now.get(w.batchId) ?? 0, began: w.began.getTime() }))
}

/** Takes the first waiting task of a batch (that needs one of `needs`) into hand; null where another was quicker. */
export async function takeFirst(
  db: EntityManager,
  line: { batchId: string; priority: number },
  job: string,
  machine: string,
  needs: readonly string[] | null = null,
): Promise<TaskRecord | null> {
  const tasks = db.getRepository(TaskEntity)
  const first = await tasks.findOne({
    where: { state: 'waiting', batchId: line.batchId, priority: line.priority, ...(needs ? { needs: In([...needs]) } : {}) },
    // As the index has it: a batch of ten thousand is not sorted for each of them.
    order: { place: 'ASC' },
  })
  if (!first) return null
  const now = { state: 'running' as const, job, machine, started: first.started ?? new Date(), fault: '' as const, error: '' }
  const { affected } = await tasks.update({ id: first.id, state: 'waiting' }, now)
  return affected === 1 ? { ...first, ...now } : null
}
