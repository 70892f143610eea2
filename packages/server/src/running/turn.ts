/** A turn of the queue: the task it is for, run to whatever end it comes to. Running a task twice does no harm. */
import { availableParallelism } from 'node:os'
import { secondsLeft } from '@naranja/core/estimate'
import { CheckFailed, MediaError } from '@naranja/media'
import { DelayedError, type Job, type Processor } from 'bullmq'
import type { Logger } from 'pino'
import { noteFailedCopy } from '../arrivals/index.ts'
import type { Context } from '../platform/index.ts'
import { TaskEntity, type TaskRecord } from '../records/index.ts'
import { addTurns, isPaused, markProducts, type RunTools, taskForTurn, ReportedFailure, topicsOf } from '../tasks/index.ts'
import { endedForRoom, ownRoom } from '../working/index.ts'
import { type AtWork, lost } from './atWork.ts'
import { afterwards, runners } from './runners.ts'

/** What a worker gives to each turn that it takes. */
export interface Worked {
  readonly ctx: Context
  readonly atWork: AtWork
  readonly log: Logger
  /** How many tasks run at once. */
  limit(): number
  /** Whether the worker was asked to stop, and leaves its tasks to the next one. */
  stopping(): boolean
}

/** Takes turns for a worker. */
export const turns =
  (w: Worked): Processor<object> =>
  async (job, token) => {
    const task = await taskOf(w, job, async (milliseconds) => {
      await job.moveToDelayed(Date.now() + milliseconds, token)
      throw new DelayedError()
    })
    if (task) await run(w, task, job.id ?? '')
  }

/** The task of a turn; null where there is none. `later`: gives the turn back for so many milliseconds. */
async function taskOf({ ctx, atWork, log }: Worked, job: Job<object>, later: (milliseconds: number) => Promise<never>): Promise<TaskRecord | null> {
  const tasks = ctx.repo(TaskEntity)
  // A queue that is held hands out nothing; a turn in hand at that moment goes back.
  if (await isPaused(ctx)) return later(1000)
  // Nothing is begun where there is no room for what it writes down.
  if ((await ownRoom(ctx.config.folder)).low) return later(3000)
  // A turn is not lost for a database that is away for a moment.
  const task = await taskForTurn(ctx, job.id ?? '').catch((e: Error) => {
    log.error(e.message)
    return later(2000)
  })
  // A turn that is of no use here may be for another machine.
  if (!task) return ctx.config.joined && (await tasks.existsBy({ state: 'waiting' })) ? later(2000) : null
  // One that was cancelled and is tried again waits until its former run has cleared up behind itself.
  if (atWork.has(task.id)) {
    await tasks.update({ id: task.id, state: 'running' }, { state: 'waiting', job: null })
    return later(300)
  }
  return task
}

async function run(w: Worked, task: TaskRecord, job: string): Promise<void> {
  const { ctx, atWork, log } = w
  const tasks = ctx.repo(TaskEntity)
  // While others wait each task has its share of the cores; the last ones have all of them.
  const threads = (await tasks.existsBy({ state: 'waiting' })) ? Math.max(1, Math.floor(availableParallelism() / w.limit())) : undefined
  const signal = atWork.begin(task.id, job)
  const began = Date.now()
  await ctx.changed(task.projectId, 'tasks')
  const tools: RunTools = {
    ...{ signal, threads, progress: telling(w, task, began) },
    spent: () => atWork.clock.of(task.id).whole,
    started: (child) => atWork.started(task.id, child),
  }
  try {
    const end = await runners[task.kind](ctx, task, tools)
    await tasks.update(
      { id: task.id },
      {
        ...{ state: 'done', done: task.total || 1, total: task.total || 1, spent: tools.spent(), ended: new Date() },
        ...{ message: end.message.slice(0, 2000), result: end.result ?? null, command: end.command ?? '' },
      },
    )
    log.info({ task: task.id, kind: task.kind, seconds: (Date.now() - began) / 1000 }, end.message)
  } catch (e) {
    await endedBadly(w, task, job, signal, e)
  } finally {
    atWork.end(task.id)
    await ctx.changed(task.projectId, 'tasks', topicsOf(task.kind))
    if (!w.stopping()) await afterwards(ctx, task, log)
  }
}

/** Tells everybody how far a task is, four times a second at most, and writes it down now and then. */
function telling({ ctx, atWork }: Worked, task: TaskRecord, began: number): RunTools['progress'] {
  let told = 0
  let kept = began
  const progress: RunTools['progress'] = (done, total = task.total, fps = 0, speed = 0) => {
    const now = Date.now()
    if (now - told < 250 && done < total) return
    told = now
    const { whole, active, beside } = atWork.clock.of(task.id)
    ctx.publish({ type: 'progress', taskId: task.id, done, total, fps, speed, left: secondsLeft(done, total, active), spent: whole, beside })
    if (now - kept > 2000) {
      kept = now
      void ctx.repo(TaskEntity).update({ id: task.id }, { done, total, spent: whole })
    }
  }
  // What an earlier try had told counts no more.
  progress(0)
  told = 0
  return progress
}

/** Writes down why a task did not come to its end: it is left to the next worker, was taken over, was cancelled, or failed. */
async function endedBadly({ ctx, log, stopping }: Worked, task: TaskRecord, job: string, signal: AbortSignal, e: unknown): Promise<void> {
  const tasks = ctx.repo(TaskEntity)
  const now = await tasks.findOneBy({ id: task.id })
  const cancelled = now?.state === 'cancelled'
  if (stopping() && !cancelled) {
    await tasks.update({ id: task.id }, { state: 'waiting', job: null })
    await addTurns(ctx, 1)
    await markProducts(ctx, [task], 'waiting')
  } else if (signal.reason === lost && !cancelled) {
    // Whoever has taken it over goes on with it; where nobody has, it waits for a turn again.
    const mine = await tasks.update({ id: task.id, state: 'running', job }, { state: 'waiting', job: null })
    if (mine.affected) await addTurns(ctx, 1)
  } else if (signal.aborted || cancelled) {
    // Not if somebody has asked for it again meanwhile.
    await tasks.update({ id: task.id, attempts: task.attempts }, { state: 'cancelled', ended: new Date() })
  } else {
    const said = e instanceof Error ? e.message : String(e)
    const ownRoom = await endedForRoom(ctx, e)
    const error = ownRoom ?? said
    const fault = ownRoom !== null ? 'own-room' : e instanceof MediaError && e.fault === 'damaged' ? 'damaged' : ''
    await tasks.update(
      { id: task.id },
      { state: 'failed', fault, error: error.slice(0, 2000), command: e instanceof MediaError ? e.command : '', ended: new Date() },
    )
    if (!(e instanceof ReportedFailure || e instanceof CheckFailed)) await markProducts(ctx, [task], 'failed')
    if (task.kind === 'copy') await noteFailedCopy(ctx, task, error)
    const detail = e instanceof MediaError ? e.detail : undefined
    log.error({ task: task.id, kind: task.kind, detail, stack: e instanceof Error ? e.stack : undefined }, error)
  }
}
