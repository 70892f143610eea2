/** Background work: put in the queue, listed, held, cancelled, tried again. MariaDB knows the truth; the queue only hands it out. */
import type { BatchRow, Queue, Started, TaskKind, TaskRow } from '@naranja/contract'
import { secondsLeft } from '@naranja/core/estimate'
import { In } from 'typeorm'
import { type Context, newId } from '../context.ts'
import { found, Refusal } from '../errors.ts'
import { CopyEntity, MasterEntity, PullEntity, SettingEntity, TaskEntity, type TaskRecord } from '../store/index.ts'

export interface NewTask {
  readonly label: string
  readonly payload: object
  readonly total: number
  readonly unit: string
  readonly cost: number
}

const enqueue = (ctx: Context, task: Pick<TaskRecord, 'id' | 'kind' | 'attempts'>) =>
  ctx.queue.add(task.kind, { taskId: task.id }, { jobId: `${task.id}-${task.attempts}`, removeOnComplete: true, removeOnFail: true })

/** Puts a batch of tasks into the queue, in this order. */
export async function startBatch(ctx: Context, projectId: string, kind: TaskKind, label: string, tasks: readonly NewTask[], message: string): Promise<Started> {
  const batchId = newId()
  const records = tasks.map(
    (t): TaskRecord => ({
      id: newId(),
      projectId,
      batchId,
      batchLabel: label,
      kind,
      label: t.label.slice(0, 500),
      state: 'waiting',
      payload: t.payload,
      done: 0,
      total: t.total,
      unit: t.unit,
      cost: t.cost,
      error: '',
      command: '',
      message: '',
      result: null,
      attempts: 0,
      created: new Date(),
      started: null,
      ended: null,
    }),
  )
  for (let i = 0; i < records.length; i += 200) await ctx.repo(TaskEntity).insert(records.slice(i, i + 200))
  for (const r of records) await enqueue(ctx, r)
  await ctx.changed(projectId, 'tasks')
  return { batchId, taskIds: records.map((r) => r.id), message }
}

/** The last progress of tasks that run, as workers told it. */
export interface ProgressNow {
  done: number
  total: number
  fps: number
  speed: number
  left: number | null
}
export const progressNow = new Map<string, ProgressNow>()

function rowOf(t: TaskRecord): TaskRow {
  const p = t.state === 'running' || t.state === 'held' ? progressNow.get(t.id) : undefined
  return {
    id: t.id,
    projectId: t.projectId,
    batchId: t.batchId,
    kind: t.kind,
    label: t.label,
    state: t.state,
    done: p?.done ?? t.done,
    total: p?.total ?? t.total,
    unit: t.unit,
    fps: p?.fps ?? 0,
    speed: p?.speed ?? 0,
    left: p?.left ?? null,
    error: t.error,
    command: t.command,
    message: t.message,
    attempts: t.attempts,
    created: t.created.toISOString(),
    ended: t.ended?.toISOString() ?? null,
  }
}

function batchOf(tasks: TaskRecord[]): BatchRow {
  const rows = tasks.map(rowOf)
  const [first] = tasks as [TaskRecord]
  const cost = tasks.reduce((n, t) => n + t.cost, 0) || 1
  const over = (s: string) => s === 'done' || s === 'failed' || s === 'cancelled'
  const finished = rows.filter((r) => over(r.state))
  const share =
    tasks.reduce((n, t, i) => n + t.cost * (over(t.state) ? 1 : (rows[i]?.total ?? 0) > 0 ? Math.min(1, (rows[i]?.done ?? 0) / (rows[i]?.total ?? 1)) : 0), 0) /
    cost
  const running = rows.filter((r) => r.state === 'running')
  const began = tasks.map((t) => t.started?.getTime() ?? Number.POSITIVE_INFINITY).reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY)
  const active = finished.length < rows.length
  return {
    id: first.batchId,
    label: first.batchLabel,
    kind: first.kind,
    tasks: rows.length,
    finished: finished.length,
    failed: rows.filter((r) => r.state === 'failed').length,
    active,
    share,
    fps: running.reduce((n, r) => n + r.fps, 0),
    speed: running.reduce((n, r) => n + r.speed, 0),
    left: active && running.length && Number.isFinite(began) ? secondsLeft(share, 1, (Date.now() - began) / 1000) : null,
  }
}

export const isPaused = async (ctx: Context): Promise<boolean> => (await ctx.repo(SettingEntity).findOneBy({ name: 'queue-paused' }))?.value === true

/** Batches that run or ended last, and their tasks. */
export async function listQueue(ctx: Context, projectId?: string): Promise<Queue> {
  const where = projectId ? { projectId } : {}
  const recent = await ctx.repo(TaskEntity).find({ where, order: { ord: 'DESC' }, take: 400 })
  const active = await ctx.repo(TaskEntity).find({ where: { ...where, state: In(['waiting', 'held', 'running']) }, order: { ord: 'DESC' }, take: 20_000 })
  const tasks = [...new Map([...active, ...recent].map((t) => [t.id, t])).values()].sort((a, b) => (b.ord ?? 0) - (a.ord ?? 0))
  const batches = new Map<string, TaskRecord[]>()
  for (const t of tasks) batches.set(t.batchId, [...(batches.get(t.batchId) ?? []), t])
  const workers = Number(await ctx.redis.zcount('workers', Date.now() - 15_000, '+inf'))
  return { paused: await isPaused(ctx), workers, batches: [...batches.values()].map(batchOf), tasks: tasks.slice(0, 1000).map(rowOf) }
}

/** What copies, pulls and masters are said to be in while their task stands so. */
export async function markProduct(ctx: Context, task: TaskRecord, state: 'waiting' | 'being-made' | 'failed' | 'cancelled'): Promise<void> {
  const p = task.payload as { copyId?: string; pullId?: string; masterId?: string }
  if (p.copyId) await ctx.repo(CopyEntity).update({ id: p.copyId }, { state })
  if (p.pullId) await ctx.repo(PullEntity).update({ id: p.pullId }, { state })
  if (p.masterId) await ctx.repo(MasterEntity).update({ id: p.masterId }, { state })
}

const topicsOf = (kind: TaskKind) =>
  ({ 'take-in': 'clips', copy: 'copies', pull: 'pulls', master: 'masters' })[kind] as 'clips' | 'copies' | 'pulls' | 'masters'

export async function cancelTasks(ctx: Context, by: { taskId?: string; batchId?: string }): Promise<void> {
  const tasks = await ctx.repo(TaskEntity).findBy({ ...(by.taskId ? { id: by.taskId } : { batchId: by.batchId }), state: In(['waiting', 'held', 'running']) })
  for (const t of tasks) {
    await ctx.repo(TaskEntity).update({ id: t.id }, { state: 'cancelled', ended: new Date() })
    await markProduct(ctx, t, 'cancelled')
    ctx.control({ kind: 'cancel', taskId: t.id })
    const job = await ctx.queue.getJob(`${t.id}-${t.attempts}`)
    await job?.remove().catch(() => undefined)
  }
  const one = tasks[0]
  if (one) await ctx.changed(one.projectId, 'tasks', topicsOf(one.kind))
}

export async function retryTask(ctx: Context, id: string): Promise<void> {
  const task = found(await ctx.repo(TaskEntity).findOneBy({ id }), 'The task')
  if (task.state !== 'failed' && task.state !== 'cancelled') throw new Refusal('bad-request', 'Only a failed or cancelled task can be tried again.')
  const next = { ...task, attempts: task.attempts + 1, state: 'waiting' as const }
  await ctx.repo(TaskEntity).update({ id }, { state: 'waiting', attempts: next.attempts, error: '', ended: null, done: 0 })
  await markProduct(ctx, task, 'waiting')
  await enqueue(ctx, next)
  await ctx.changed(task.projectId, 'tasks', topicsOf(task.kind))
}

/** Holds everything, what runs included, or lets it go on. */
export async function pauseQueue(ctx: Context, paused: boolean): Promise<void> {
  await ctx.repo(SettingEntity).upsert({ name: 'queue-paused', value: paused }, ['name'])
  if (paused) await ctx.queue.pause()
  else await ctx.queue.resume()
  await ctx.repo(TaskEntity).update({ state: paused ? 'running' : 'held' }, { state: paused ? 'held' : 'running' })
  ctx.control({ kind: paused ? 'pause' : 'resume' })
  await ctx.changed(null, 'tasks')
}

/** After a start: what the database knows as unfinished and the queue has lost is handed out again. */
export async function reconcile(ctx: Context): Promise<void> {
  for (const t of await ctx.repo(TaskEntity).findBy({ state: In(['waiting', 'held', 'running']) })) {
    const job = await ctx.queue.getJob(`${t.id}-${t.attempts}`)
    if (!job) await enqueue(ctx, t)
    if (t.state !== 'waiting') await ctx.repo(TaskEntity).update({ id: t.id, state: t.state }, { state: 'waiting' })
  }
  if (await isPaused(ctx)) await ctx.queue.pause()
  else await ctx.queue.resume()
}
