/** Background work: put in the queue, listed, held, cancelled, tried again. MariaDB knows the truth; the queue only hands it out. */
import { join } from 'node:path'
import type { Account, BatchRow, Queue, Started, TaskKind, TaskRow } from '@naranja/contract'
import { shareDone, workLeft } from '@naranja/core/estimate'
import { clearAwayAt, pathText } from '@naranja/media'
import { type EntityManager, In, IsNull, MoreThan, Not } from 'typeorm'
import { placeBetween } from '@naranja/core/turns'
import { type Context, found, newId, Refusal } from '../platform/index.ts'
import {
  productsOf,
  type Result,
  resultOf,
  type Payload,
  settings,
  BackupEntity,
  CopyEntity,
  MasterEntity,
  PullEntity,
  TaskEntity,
  type TaskRecord,
} from '../records/index.ts'
import { writeSetting, readSetting, type BatchSum, batchSums, inHand, inPortions, insertTasks, listedTasks, waitingTask } from '../store/index.ts'
import { resolvePlace } from '../volumes/index.ts'
import { addTurns, topUpTurns } from './turns.ts'

export interface NewTask<K extends TaskKind = TaskKind> {
  readonly label: string
  readonly payload: Payload<K>
  readonly total: number
  readonly unit: string
  readonly cost: number
  /** Volumes that it reads and writes; without, it is done where the API runs. */
  readonly needs?: readonly string[]
}

const priorities = { first: 1, normal: 0, later: -1 } as const
export type PriorityName = keyof typeof priorities
const priorityName = (p: number): PriorityName => (p > 0 ? 'first' : p < 0 ? 'later' : 'normal')

/** What a folder held, and what became of each file, as a task that took it in wrote it down. */
export async function accountOf(ctx: Context, taskId: string): Promise<Account> {
  const task = found(await ctx.repo(TaskEntity).findOneBy({ id: taskId }), 'The task')
  return found((task.kind === 'take-in' && resultOf('take-in', task)?.account) || null, 'An account of this task')
}

/** Puts a batch of tasks into the queue, in this order; `products` writes down what they are to make, with them or not at all. */
export async function startBatch<K extends TaskKind>(
  ctx: Context,
  projectId: string,
  kind: K,
  label: string,
  tasks: readonly NewTask<K>[],
  message: string,
  products?: (db: EntityManager) => Promise<void>,
): Promise<Started> {
  const batchId = newId()
  const begin = Date.now()
  const records = tasks.map((t, i) =>
    waitingTask({
      ...{ projectId, batchId, batchLabel: label, kind, label: t.label.slice(0, 500), payload: t.payload },
      needs: t.needs ? [...new Set(t.needs)].sort().join(',') : null,
      ...{ total: t.total, unit: t.unit, cost: t.cost, place: begin + i, who: ctx.config.user },
      // What can wait until nothing else does; and what takes seconds, and decides which file is used.
      priority: kind === 'listen' || kind === 'print' || kind === 'compare' ? -1 : kind === 'prove' ? 1 : 0,
    }),
  )
  await insertTasks(ctx.db, records, products)
  await addTurns(ctx, records.length)
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
  spent: number
  beside: number
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
    damaged: t.kind === 'copy' && t.state === 'failed' && t.fault === 'damaged',
    command: t.command,
    message: t.message,
    attempts: t.attempts,
    machine: t.machine,
    heldAlone: Boolean(t.heldAlone),
    created: t.created.toISOString(),
    ended: t.ended?.toISOString() ?? null,
  }
}

/** How far a batch is: what has ended, and what its tasks in hand have done of their share. */
function batchOf(b: BatchSum, inHand: readonly TaskRecord[]): BatchRow {
  const rows = inHand.filter((t) => t.batchId === b.id).map((t) => ({ ...rowOf(t), cost: t.cost, spent: progressNow.get(t.id)?.spent ?? t.spent }))
  const running = rows.filter((r) => r.state === 'running')
  const active = b.finished < b.tasks
  const work = {
    ...{ cost: b.cost, ended: b.costEnded, made: b.costDone, spent: b.spentDone, handled: b.kind === 'copy' || b.kind === 'pull' },
    inHand: rows.map((r) => ({
      ...{ cost: r.cost, share: r.total > 0 ? r.done / r.total : 0, spent: r.spent },
      beside: r.state === 'running' ? (progressNow.get(r.id)?.beside ?? running.length) : null,
    })),
  }
  return {
    id: b.id,
    label: b.label,
    kind: b.kind,
    who: b.who,
    priority: priorityName(b.priority),
    waiting: b.waiting,
    tasks: b.tasks,
    finished: b.finished,
    failed: b.failed,
    cancelled: b.cancelled,
    running: running.length,
    active,
    share: active ? shareDone(work) : 1,
    fps: running.reduce((n, r) => n + r.fps, 0),
    speed: running.reduce((n, r) => n + r.speed, 0),
    left: active ? workLeft(work) : null,
  }
}

export const isPaused = async (ctx: Context): Promise<boolean> => (await readSetting(ctx.db, settings.paused, '')).value

/** Batches that run or ended last, and their tasks. */
export async function listQueue(ctx: Context, projectId?: string): Promise<Queue> {
  const sums = await batchSums(ctx.db, { projectId })
  const ids = sums.map((b) => b.id)
  const [tasks, machines, paused] = await Promise.all([listedTasks(ctx.db, ids), machinesNow(ctx), isPaused(ctx)])
  // What is in hand is listed first, so all of it is here.
  const hand = tasks.filter((t) => t.state === 'running' || t.state === 'held')
  return { paused, workers: machines.reduce((n, m) => n + m.workers, 0), machines, batches: sums.map((b) => batchOf(b, hand)), tasks: tasks.map(rowOf) }
}

/** How far one batch is. */
export async function batchRow(ctx: Context, batchId: string): Promise<BatchRow> {
  const [sum] = await batchSums(ctx.db, { batchId })
  return batchOf(found(sum, 'The batch'), await inHand(ctx.db, [batchId]))
}

/** Every task of a batch, in the order they were set going. */
export const batchTasks = async (ctx: Context, batchId: string): Promise<TaskRow[]> =>
  (await ctx.repo(TaskEntity).find({ where: { batchId }, order: { ord: 'ASC' } })).map(rowOf)

/** What copies, pulls, masters and backups are said to be in while their tasks stand so. */
export async function markProducts(ctx: Context, tasks: readonly TaskRecord[], state: 'waiting' | 'being-made' | 'failed' | 'cancelled'): Promise<void> {
  const products = tasks.map(productsOf)
  for (const [entity, list] of [
    [CopyEntity, products.flatMap((p) => p.copies)],
    [PullEntity, products.flatMap((p) => p.pulls)],
    [MasterEntity, products.flatMap((p) => p.masters)],
  ] as const)
    for (const some of inPortions(list)) await ctx.repo<{ id: string; state: string }>(entity as never).update({ id: In(some) }, { state })
  // A backup that ends early keeps what is verified, and is not complete.
  const backups = products.flatMap((p) => p.backups)
  const under = state === 'waiting' || state === 'being-made'
  if (backups.length > 0) await ctx.repo(BackupEntity).update({ id: In(backups) }, { state: under ? 'being-made' : 'incomplete' })
}

/** Where the products of a task are to stand; those of volumes that are away are left out. */
async function targetsOf(ctx: Context, task: TaskRecord): Promise<string[]> {
  const { copies, pulls, masters } = productsOf(task)
  const out: string[] = []
  for (const [entity, list] of [
    [CopyEntity, copies],
    [PullEntity, pulls],
    [MasterEntity, masters],
  ] as const)
    for (const product of list.length ? await ctx.repo<{ id: string; volumeId: string; path: string }>(entity as never).findBy({ id: In(list) }) : []) {
      const place = await resolvePlace(ctx, product.volumeId, Buffer.alloc(0)).catch(() => null)
      if (place) out.push(join(pathText(place.path), product.path))
    }
  return out
}

/** Removes what a task left half made: its worker does so itself, unless it was killed. */
async function clearBehind(ctx: Context, task: TaskRecord): Promise<void> {
  for (const target of await targetsOf(ctx, task)) await clearAwayAt(target, task.id)
}

/** Milliseconds for which tasks that were cancelled are cleared up behind again: what ran under a worker that was killed may end later than it. */
const stillEnding = 60_000

/** What the end of a task changes. */
export const topicsOf = (kind: TaskKind) =>
  ({
    backup: 'backups',
    verify: 'backups',
    'take-in': 'clips',
    listen: 'clips',
    copy: 'copies',
    pair: 'copies',
    carry: 'copies',
    trial: 'copies',
    pull: 'pulls',
    master: 'masters',
    measure: 'cuts',
    print: 'cuts',
    compare: 'cuts',
    prove: 'clips',
    'look-for': 'clips',
  })[kind] as 'backups' | 'clips' | 'copies' | 'pulls' | 'masters' | 'cuts'

/** What a task of a kind found out. Refuses one that has not, or not yet; `what` names it in the refusal. */
export async function foundBy<K extends 'pair' | 'trial'>(ctx: Context, id: string, kind: K, what: string): Promise<Result<K>> {
  const task = found(await ctx.repo(TaskEntity).findOneBy({ id, kind }), 'The task')
  return found(resultOf(kind, task), what)
}

export async function cancelTasks(ctx: Context, by: { taskId?: string; batchId?: string }): Promise<void> {
  const tasks = await ctx.repo(TaskEntity).findBy({ ...(by.taskId ? { id: by.taskId } : { batchId: by.batchId }), state: In(['waiting', 'held', 'running']) })
  for (const some of inPortions(tasks)) {
    await ctx.repo(TaskEntity).update({ id: In(some.map((t) => t.id)) }, { state: 'cancelled', ended: new Date(), heldAlone: false })
    await markProducts(ctx, some, 'cancelled')
    for (const t of some) ctx.control({ kind: 'cancel', taskId: t.id })
    for (const t of some.filter((t) => t.state !== 'waiting')) await clearBehind(ctx, t)
  }
  // Turns for which nothing is left are taken back; should a task come in this moment, its turn is made up for within seconds.
  if ((await ctx.repo(TaskEntity).countBy({ state: 'waiting' })) === 0) await ctx.queue.drain()
  const one = tasks[0]
  if (one) await ctx.changed(one.projectId, 'tasks', topicsOf(one.kind))
}

/** Tries again what failed or was cancelled: one task, or all such of a batch. `asFar`: a copy of a damaged original is made as far as that goes. */
export async function retryTasks(ctx: Context, by: { taskId?: string; batchId?: string }, asFar = false): Promise<void> {
  const tasks = await ctx.repo(TaskEntity).findBy({ ...(by.taskId ? { id: by.taskId } : { batchId: by.batchId }), state: In(['failed', 'cancelled']) })
  const one = tasks[0]
  if (!one) throw new Refusal('bad-request', 'Only what failed or was cancelled can be tried again.')
  for (const some of inPortions(tasks)) {
    const fresh = {
      state: 'waiting' as const,
      attempts: () => 'attempts + 1',
      fault: '' as const,
      error: '',
      ended: null,
      done: 0,
      job: null,
      heldAlone: false,
    }
    await ctx.repo(TaskEntity).update({ id: In(some.map((t) => t.id)) }, fresh)
    if (asFar) for (const t of some) await ctx.repo(TaskEntity).update({ id: t.id }, { payload: { ...t.payload, asFar } } as never)
    await markProducts(ctx, some, 'waiting')
    await addTurns(ctx, some.length)
  }
  await ctx.changed(one.projectId, 'tasks', topicsOf(one.kind))
}

/** Holds everything, what runs included, or lets it go on. */
export async function pauseQueue(ctx: Context, paused: boolean): Promise<void> {
  await writeSetting(ctx.db, settings.paused, '', paused, null)
  if (paused) await ctx.queue.pause()
  else await ctx.queue.resume()
  await ctx.repo(TaskEntity).update({ state: paused ? 'running' : 'held', heldAlone: false }, { state: paused ? 'held' : 'running' })
  ctx.control({ kind: paused ? 'pause' : 'resume' })
  await ctx.changed(null, 'tasks')
}

/** Holds one task, running or waiting, or lets it go on. */
export async function holdTask(ctx: Context, taskId: string, held: boolean): Promise<void> {
  const tasks = ctx.repo(TaskEntity)
  const task = found(await tasks.findOneBy({ id: taskId }), 'The task')
  if (held) {
    if (task.state !== 'waiting' && task.state !== 'running') throw new Refusal('bad-request', `${task.label} is not waiting or running any more.`)
    await tasks.update({ id: taskId, state: task.state }, { state: 'held', heldAlone: true })
    ctx.control({ kind: 'hold', taskId })
  } else {
    if (!task.heldAlone) throw new Refusal('bad-request', `${task.label} is not held by itself.`)
    // The turn that it had may be given back at this very moment (`taskForTurn`): whichever comes first decides.
    const { job } = task
    const taken =
      job !== null &&
      (await ctx.queue.getJob(job)) !== undefined &&
      Boolean((await tasks.update({ id: taskId, state: 'held', job }, { state: 'running', heldAlone: false })).affected)
    if (taken) ctx.control({ kind: 'release', taskId })
    else {
      await tasks.update({ id: taskId, state: 'held' }, { state: 'waiting', heldAlone: false, job: null })
      await addTurns(ctx, 1)
    }
  }
  await ctx.changed(task.projectId, 'tasks')
}

/** Puts a waiting task before another of its batch, or (null) at the end of it. */
export async function moveTask(ctx: Context, taskId: string, beforeId: string | null): Promise<void> {
  const tasks = ctx.repo(TaskEntity)
  const task = found(await tasks.findOneBy({ id: taskId }), 'The task')
  const line = (
    await tasks.find({ where: { batchId: task.batchId, state: 'waiting' }, order: { place: 'ASC', ord: 'ASC' }, select: { id: true, place: true } })
  ).filter((t) => t.id !== taskId)
  const at = beforeId === null ? line.length : line.findIndex((t) => t.id === beforeId)
  if (task.state !== 'waiting' || at < 0) throw new Refusal('stale', `${task.label} or the task it was put before is not waiting any more.`)
  await tasks.update({ id: taskId }, { place: placeBetween(line[at - 1]?.place ?? null, line[at]?.place ?? null) })
  await ctx.changed(task.projectId, 'tasks')
}

/** Makes what waits of a batch go before everything else, as everything else, or last. */
export async function setPriority(ctx: Context, batchId: string, name: PriorityName): Promise<void> {
  await ctx.repo(TaskEntity).update({ batchId, state: In(['waiting', 'held', 'running', 'failed', 'cancelled']) }, { priority: priorities[name] })
  await ctx.changed(null, 'tasks')
}

/** How many tasks a machine does at once. */
export const limitOf = async (ctx: Context, machine: string): Promise<number | null> => (await readSetting(ctx.db, settings.limit, machine)).value
export async function setLimit(ctx: Context, machine: string, limit: number): Promise<void> {
  if (!(await machinesNow(ctx)).some((m) => m.name === machine))
    throw new Refusal('not-found', `No worker of a machine called ${machine.slice(0, 80)} is there now.`)
  await writeSetting(ctx.db, settings.limit, machine, limit, null)
  ctx.control({ kind: 'limit', machine, limit })
  await ctx.changed(null, 'tasks')
}

/** Workers that told nothing for so long (milliseconds) are gone. */
const silent = 15_000

/** The workers that are there, as they tell themselves every few seconds. */
export async function machinesNow(ctx: Context): Promise<{ name: string; workers: number; limit: number }[]> {
  const here = await ctx.redis.zrangebyscore('workers', Date.now() - silent, '+inf')
  const limits = await ctx.redis.hgetall('worker:limits')
  const out = new Map<string, { name: string; workers: number; limit: number }>()
  for (const w of here) {
    const name = w.slice(0, w.lastIndexOf(':'))
    const m = out.get(name) ?? { name, workers: 0, limit: 0 }
    out.set(name, { name, workers: m.workers + 1, limit: m.limit + Number(limits[w] ?? 0) })
  }
  return [...out.values()].sort((a, b) => a.name.localeCompare(b.name))
}

/** Nothing waits for a turn that was lost, nothing half made stays, and workers that were killed are forgotten. */
export async function keepTidy(ctx: Context): Promise<void> {
  const gone = await ctx.redis.zrangebyscore('workers', '-inf', Date.now() - 10 * silent)
  if (gone.length > 0) await Promise.all([ctx.redis.zrem('workers', ...gone), ctx.redis.hdel('worker:limits', ...gone)])
  const lately = { state: 'cancelled' as const, machine: Not(IsNull()), ended: MoreThan(new Date(Date.now() - stillEnding)) }
  for (const t of await ctx.repo(TaskEntity).findBy(lately)) await clearBehind(ctx, t)
  if (!(await isPaused(ctx))) await topUpTurns(ctx)
}

/** What is said to wait or to be made, and no task makes: its task was cancelled in the moment of a kill. It can be asked for again. */
async function forgetForlorn(ctx: Context): Promise<void> {
  const under = { state: In(['waiting', 'being-made']) }
  for (const entity of [CopyEntity, PullEntity, MasterEntity]) {
    const repo = ctx.repo<{ id: string; state: string }>(entity as never)
    // These first: what comes while tasks are read has its task with it.
    const said = await repo.find({ where: under, select: { id: true } })
    if (said.length === 0) continue
    const tasks = await ctx.repo(TaskEntity).find({ where: { state: In(['waiting', 'held', 'running']) }, select: { id: true, kind: true, payload: true } })
    const coming = new Set(tasks.map(productsOf).flatMap((p) => [...p.copies, ...p.pulls, ...p.masters]))
    for (const some of inPortions(said.filter((p) => !coming.has(p.id)))) await repo.update({ id: In(some.map((p) => p.id)), ...under }, { state: 'cancelled' })
  }
}

/** After a start: what the database knows as unfinished and the queue has lost is handed out again. */
export async function reconcile(ctx: Context): Promise<void> {
  for (const t of await ctx.repo(TaskEntity).findBy({ state: In(['held', 'running']) })) {
    // A turn that is still there finds its task again by itself.
    if (t.job && (await ctx.queue.getJob(t.job))) continue
    await ctx.repo(TaskEntity).update({ id: t.id, state: t.state }, t.heldAlone ? { job: null, state: 'held' } : { job: null, state: 'waiting' })
  }
  await forgetForlorn(ctx)
  await topUpTurns(ctx)
  if (await isPaused(ctx)) await ctx.queue.pause()
  else await ctx.queue.resume()
}
