/** Questions about tasks: batches are summed by the database, however many tasks they have. */
import { type DataSource, In } from 'typeorm'
import { TaskEntity, type TaskRecord } from './entities.ts'

export interface BatchSum {
  readonly id: string
  readonly label: string
  readonly kind: TaskRecord['kind']
  readonly tasks: number
  readonly finished: number
  readonly failed: number
  readonly cancelled: number
  /** Of all its tasks, and of those that have ended. */
  readonly cost: number
  readonly costEnded: number
  /** When its first task began; null while none has. */
  readonly began: Date | null
}

const over = "t.state IN ('done', 'failed', 'cancelled')"

/** The newest batches, of a project or of all, or one batch; those that are active come first. */
export async function batchSums(db: DataSource, by: { projectId?: string | undefined; batchId?: string }, most = 60): Promise<BatchSum[]> {
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
    .addSelect('MIN(t.started)', 'began')
    .groupBy('t.batchId')
    .orderBy(`SUM(${over}) < COUNT(*)`, 'DESC')
    .addOrderBy('MAX(t.ord)', 'DESC')
    .limit(most)
  if (by.batchId) q.where('t.batchId = :b', { b: by.batchId })
  else if (by.projectId) q.where('t.projectId = :p', { p: by.projectId })
  const rows = await q.getRawMany<Record<keyof BatchSum, string> & { kind: TaskRecord['kind']; began: Date | null }>()
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
    began: r.began,
  }))
}

/** Tasks of these batches as a person looks for them: what runs, what failed, what comes next, what ended last. */
export async function listedTasks(db: DataSource, batchIds: readonly string[], most = 1000): Promise<TaskRecord[]> {
  if (batchIds.length === 0) return []
  return db
    .getRepository(TaskEntity)
    .createQueryBuilder('t')
    .where({ batchId: In([...batchIds]) })
    .orderBy("FIELD(t.state, 'running', 'held', 'failed', 'waiting', 'cancelled', 'done')")
    .addOrderBy("IF(t.state = 'waiting', t.ord, -t.ord)")
    .limit(most)
    .getMany()
}

/** Tasks of these batches that are in hand. */
export const inHand = (db: DataSource, batchIds: readonly string[]): Promise<TaskRecord[]> =>
  batchIds.length === 0 ? Promise.resolve([]) : db.getRepository(TaskEntity).findBy({ batchId: In([...batchIds]), state: In(['running', 'held']) })
