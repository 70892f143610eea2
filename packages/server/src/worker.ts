/** A worker: takes tasks from the queue, one process of one or many. Running a task twice does no harm. */
import { availableParallelism } from 'node:os'
import { DelayedError, type Processor, Worker } from 'bullmq'
import { Redis } from 'ioredis'
import { secondsLeft } from '@naranja/core/estimate'
import { CheckFailed, MediaError } from '@naranja/media'
import { worksThrough } from '@naranja/media/process'
import { pino } from 'pino'
import type { TaskKind } from '@naranja/contract'
import { noteFailedCopy } from './arrivals/index.ts'
import { runBackup, runVerify } from './backups/index.ts'
import { runPull } from './conform/index.ts'
import { runCopy, runTrial, writeLogs } from './copies/index.ts'
import { runCarry } from './handover/index.ts'
import { runLookFor, runProve, takeIn } from './intake/index.ts'
import { runMaster } from './masters/index.ts'
import { runListen } from './originals/index.ts'
import { runPair } from './pairing/index.ts'
import { readConfig } from './config/index.ts'
import { type Control, controlChannel, endWhenAsked, logStream, openContext, queueName, redisOptions } from './platform/index.ts'
import { printsWanted, runCompare, runMeasure, runPrints } from './reconnect/index.ts'
import { TaskEntity, type TaskRecord } from './records/index.ts'
import { openStore } from './store/index.ts'
import { addTurns, isPaused, limitOf, markProducts, type RunTask, SpentClock, taskForTurn, Told, topicsOf } from './tasks/index.ts'
import { stayInside } from './volumes/index.ts'
import { endedForRoom, ownRoom } from './working/index.ts'

/** Why a run is ended that stood still for so long (a machine asleep, or at its limit) that the queue gave its turn to another. */
const lost = new Error('The queue has given this turn to another.')

const runners: Record<TaskKind, RunTask> = {
  backup: runBackup,
  verify: runVerify,
  'take-in': takeIn,
  listen: runListen,
  copy: runCopy,
  pair: runPair,
  carry: runCarry,
  trial: runTrial,
  pull: runPull,
  master: runMaster,
  measure: runMeasure,
  print: runPrints,
  compare: runCompare,
  prove: runProve,
  'look-for': runLookFor,
}

export async function startWorker(folder: string): Promise<() => Promise<void>> {
  worksThrough()
  const config = readConfig(folder)
  const log = pino({ name: 'worker' }, logStream())
  const ctx = openContext(config, await openStore(config))
  stayInside(ctx)
  let stopping = false
  const running = new Map<string, { abort: AbortController; children: Set<{ kill(s: NodeJS.Signals): boolean }>; job: string }>()
  const clock = new SpentClock()

  const control = new Redis(redisOptions(config))
  await control.subscribe(controlChannel)
  /** How many tasks at once; those that are held by themselves take no place. */
  let limit = (await limitOf(ctx, config.machine)) ?? config.concurrency
  /** A worker more for each task that is held: a place that is taken by one that stands still would be lost to the others. */
  const held = new Map<string, Worker<object>>()
  const me = `${config.machine}:${process.pid}`
  const beat = () => {
    void ctx.redis.zadd('workers', Date.now(), me)
    void ctx.redis.hset('worker:limits', me, limit)
  }
  /** The whole queue is held. */
  let paused = await isPaused(ctx)
  const still = (taskId: string): boolean => paused || held.has(taskId)
  /** Lets what a task has started stand still, or go on. */
  const stand = (taskId: string) => {
    for (const c of running.get(taskId)?.children ?? []) c.kill(still(taskId) ? 'SIGSTOP' : 'SIGCONT')
    clock.set(taskId, !still(taskId))
  }
  const settle = () => {
    worker.concurrency = limit
    beat()
  }
  control.on('message', (_channel, text) => {
    const message = JSON.parse(text) as Control
    if (message.kind === 'limit') {
      if (message.machine !== config.machine) return
      limit = message.limit
      settle()
    } else if (message.kind === 'cancel') running.get(message.taskId)?.abort.abort()
    else if (message.kind === 'hold' || message.kind === 'release') {
      if (!running.has(message.taskId)) return
      if (message.kind === 'release') letGo(message.taskId)
      else if (!held.has(message.taskId)) held.set(message.taskId, taking(1))
      stand(message.taskId)
    } else {
      paused = message.kind === 'pause'
      for (const id of running.keys()) stand(id)
    }
  })
  beat()
  const beating = setInterval(beat, 4000)

  const work: Processor<object> = async (job, token) => {
    const tasks = ctx.repo(TaskEntity)
    const later = async (milliseconds: number): Promise<never> => {
      await job.moveToDelayed(Date.now() + milliseconds, token)
      throw new DelayedError()
    }
    // A queue that is held hands out nothing; a turn in hand at that moment goes back.
    if (await isPaused(ctx)) return later(1000)
    // Nothing is begun where there is no room for what it writes down.
    if ((await ownRoom(config.folder)).low) return later(3000)
    // A turn is not lost for a database that is away for a moment.
    const task = await taskForTurn(ctx, job.id ?? '').catch((e: Error) => {
      log.error(e.message)
      return later(2000)
    })
    if (!task) {
      // A turn that is of no use here may be for another machine.
      if (config.joined && (await tasks.existsBy({ state: 'waiting' }))) return later(2000)
      return
    }
    // One that was cancelled and is tried again waits until its former run has cleared up behind itself.
    if (running.has(task.id)) {
      await tasks.update({ id: task.id, state: 'running' }, { state: 'waiting', job: null })
      return later(300)
    }
    // While others wait each task has its share of the cores; the last ones have all of them.
    const threads = (await tasks.existsBy({ state: 'waiting' })) ? Math.max(1, Math.floor(availableParallelism() / limit)) : undefined
    const abort = new AbortController()
    const children = new Set<{ kill(s: NodeJS.Signals): boolean }>()
    running.set(task.id, { abort, children, job: job.id ?? '' })
    clock.begin(task.id)
    const spent = () => clock.of(task.id).whole
    const began = Date.now()
    await ctx.changed(task.projectId, 'tasks')
    let told = 0
    let kept = began
    const progress = (done: number, total = task.total, fps = 0, speed = 0) => {
      const now = Date.now()
      if (now - told < 250 && done < total) return
      told = now
      const { whole, active, beside } = clock.of(task.id)
      ctx.publish({ type: 'progress', taskId: task.id, done, total, fps, speed, left: secondsLeft(done, total, active), spent: whole, beside })
      if (now - kept > 2000) {
        kept = now
        void tasks.update({ id: task.id }, { done, total, spent: whole })
      }
    }
    // One that starts while its task or the queue is held stands still from the beginning.
    const started = (c: { kill(s: NodeJS.Signals): boolean }) => {
      children.add(c)
      if (still(task.id)) c.kill('SIGSTOP')
    }
    // What an earlier try had told counts no more.
    progress(0)
    told = 0
    try {
      const end = await runners[task.kind](ctx, task, { signal: abort.signal, threads, progress, spent, started })
      await tasks.update(
        { id: task.id },
        {
          state: 'done',
          done: task.total || 1,
          total: task.total || 1,
          spent: spent(),
          message: end.message.slice(0, 2000),
          result: end.result ?? null,
          command: end.command ?? '',
          ended: new Date(),
        },
      )
      log.info({ task: task.id, kind: task.kind, seconds: (Date.now() - began) / 1000 }, end.message)
    } catch (e) {
      const now = await tasks.findOneBy({ id: task.id })
      // A worker that is asked to stop leaves its tasks to the next one.
      if (stopping && now?.state !== 'cancelled') {
        await tasks.update({ id: task.id }, { state: 'waiting', job: null })
        await addTurns(ctx, 1)
        await markProducts(ctx, [task], 'waiting')
      } else if (abort.signal.reason === lost && now?.state !== 'cancelled') {
        // Whoever has taken it over goes on with it; where nobody has, it waits for a turn again.
        const mine = await tasks.update({ id: task.id, state: 'running', job: job.id ?? '' }, { state: 'waiting', job: null })
        if (mine.affected) await addTurns(ctx, 1)
      } else if (abort.signal.aborted || now?.state === 'cancelled') {
        // Not if somebody has asked for it again meanwhile.
        await tasks.update({ id: task.id, attempts: task.attempts }, { state: 'cancelled', ended: new Date() })
      } else {
        const said = e instanceof Error ? e.message : String(e)
        const error = (await endedForRoom(ctx, said)) ?? said
        await tasks.update(
          { id: task.id },
          { state: 'failed', error: error.slice(0, 2000), command: e instanceof MediaError ? e.command : '', ended: new Date() },
        )
        if (!(e instanceof Told || e instanceof CheckFailed)) await markProducts(ctx, [task], 'failed')
        if (task.kind === 'copy') await noteFailedCopy(ctx, task, error)
        log.error(
          { task: task.id, kind: task.kind, detail: e instanceof MediaError ? e.detail : undefined, stack: e instanceof Error ? e.stack : undefined },
          error,
        )
      }
    } finally {
      running.delete(task.id)
      clock.end(task.id)
      letGo(task.id)
      await ctx.changed(task.projectId, 'tasks', topicsOf(task.kind))
      if (task.kind === 'copy' && !stopping) await logsOf(task)
      if (task.kind === 'take-in' && !stopping) await printsWanted(ctx, task.projectId).catch((e: Error) => log.error(e.message))
    }
  }
  /** Logs that were wanted of a batch, once it has ended; what came of them stands with the task that ended last. */
  const logsOf = async (task: TaskRecord) => {
    const said = await writeLogs(ctx, task).catch((e: Error) => `Its log could not be written: ${e.message}`)
    if (!said) return
    const now = await ctx.repo(TaskEntity).findOneBy({ id: task.id })
    await ctx.repo(TaskEntity).update({ id: task.id }, { message: `${now?.message ?? ''} ${said}`.trim().slice(0, 2000) })
    await ctx.changed(task.projectId, 'tasks')
  }
  const taking = (concurrency: number): Worker<object> => {
    const w = new Worker<object>(queueName, work, {
      connection: redisOptions(config),
      concurrency,
      lockDuration: 10_000,
      stalledInterval: 5_000,
      maxStalledCount: 50,
    })
    w.on('error', (e) => log.error(e.message))
    // Cut off from the queue, another worker takes its tasks over: two would write the same file.
    w.on('lockRenewalFailed', (jobs: string[]) => {
      for (const r of running.values()) if (jobs.includes(r.job)) r.abort.abort(lost)
    })
    return w
  }
  /** A task that goes on or has ended takes its place again: the worker that stood in for it takes nothing more. */
  const letGo = (taskId: string) => {
    void held.get(taskId)?.close()
    held.delete(taskId)
  }
  const worker = taking(limit)
  await worker.waitUntilReady()
  settle()
  log.info('ready')
  return async () => {
    stopping = true
    clearInterval(beating)
    for (const r of running.values()) r.abort.abort()
    await new Promise((r) => setTimeout(r, running.size ? 400 : 0))
    await Promise.all([worker, ...held.values()].map((w) => w.close(true)))
    await ctx.redis.zrem('workers', me)
    await ctx.redis.hdel('worker:limits', me)
    control.disconnect()
    await ctx.close()
  }
}

const folder = process.argv[2]
if (folder && /\bworker\.[jt]s$/.test(process.argv[1] ?? '')) {
  const starting = startWorker(folder)
  const log = pino({ name: 'worker' }, logStream())
  endWhenAsked(
    async () => (await starting)(),
    (e) => log.error(e),
  )
  await starting
}
