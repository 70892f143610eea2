/** A worker: takes tasks from the queue, one process of one or many. Running a task twice does no harm. */
import { availableParallelism, hostname } from 'node:os'
import { DelayedError, Worker } from 'bullmq'
import { Redis } from 'ioredis'
import { secondsLeft } from '@naranja/core/estimate'
import { MediaError } from '@naranja/media'
import { pino } from 'pino'
import { readConfig } from './config.ts'
import { runBackup, runVerify } from './backups/service.ts'
import { runPull } from './conform/service.ts'
import { type Control, controlChannel, openContext, queueName, redisOptions } from './context.ts'
import { runCopy } from './copies/make.ts'
import { runMaster } from './masters/service.ts'
import { runListen } from './originals/listen.ts'
import { takeIn } from './originals/takeIn.ts'
import { TaskEntity } from './store/index.ts'
import type { RunTask } from './tasks/runner.ts'
import { isPaused, markProducts } from './tasks/service.ts'
import type { TaskKind } from '@naranja/contract'

const runners: Record<TaskKind, RunTask> = {
  backup: runBackup,
  verify: runVerify,
  'take-in': takeIn,
  listen: runListen,
  copy: runCopy,
  pull: runPull,
  master: runMaster,
}

export async function startWorker(folder: string): Promise<() => Promise<void>> {
  const config = readConfig(folder)
  const log = pino({ name: 'worker' })
  const ctx = await openContext(config)
  let stopping = false
  const running = new Map<string, { abort: AbortController; children: Set<{ kill(s: NodeJS.Signals): boolean }> }>()

  const control = new Redis(redisOptions(config))
  await control.subscribe(controlChannel)
  control.on('message', (_channel, text) => {
    const message = JSON.parse(text) as Control
    if (message.kind === 'cancel') running.get(message.taskId)?.abort.abort()
    else for (const r of running.values()) for (const c of r.children) c.kill(message.kind === 'pause' ? 'SIGSTOP' : 'SIGCONT')
  })
  const beat = () => void ctx.redis.zadd('workers', Date.now(), `${hostname()}:${process.pid}`)
  beat()
  const beating = setInterval(beat, 4000)

  const worker = new Worker<{ taskId: string }>(
    queueName,
    async (job, token) => {
      const tasks = ctx.repo(TaskEntity)
      const task = await tasks.findOneBy({ id: job.data.taskId })
      if (!task || task.state === 'cancelled' || task.state === 'done') return
      // A queue that is held hands out nothing; a task in hand at that moment goes back.
      if (await isPaused(ctx)) {
        await job.moveToDelayed(Date.now() + 1000, token)
        throw new DelayedError()
      }
      // One that was cancelled and is tried again waits until its former run has cleared up behind itself.
      if (running.has(task.id)) {
        await job.moveToDelayed(Date.now() + 300, token)
        throw new DelayedError()
      }
      // While others wait each task has its share of the cores; the last ones have all of them.
      const threads = (await ctx.queue.getWaitingCount()) > 0 ? Math.max(1, Math.floor(availableParallelism() / config.concurrency)) : undefined
      const abort = new AbortController()
      const children = new Set<{ kill(s: NodeJS.Signals): boolean }>()
      running.set(task.id, { abort, children })
      const began = Date.now()
      await tasks.update({ id: task.id }, { state: 'running', started: task.started ?? new Date(), error: '' })
      await ctx.changed(task.projectId, 'tasks')
      let told = 0
      let kept = 0
      const progress = (done: number, total = task.total, fps = 0, speed = 0) => {
        const now = Date.now()
        if (now - told < 250 && done < total) return
        told = now
        ctx.publish({ type: 'progress', taskId: task.id, done, total, fps, speed, left: secondsLeft(done, total, (now - began) / 1000) })
        if (now - kept > 2000) {
          kept = now
          void tasks.update({ id: task.id }, { done, total })
        }
      }
      try {
        const end = await runners[task.kind](ctx, task, { signal: abort.signal, threads, progress, started: (c) => void children.add(c) })
        await tasks.update(
          { id: task.id },
          {
            state: 'done',
            done: task.total || 1,
            total: task.total || 1,
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
          await tasks.update({ id: task.id }, { state: 'waiting' })
          await markProducts(ctx, [task], 'waiting')
        } else if (abort.signal.aborted || now?.state === 'cancelled') {
          // Not if somebody has asked for it again meanwhile.
          await tasks.update({ id: task.id, attempts: task.attempts }, { state: 'cancelled', ended: new Date() })
        } else {
          const error = e instanceof Error ? e.message : String(e)
          await tasks.update(
            { id: task.id },
            { state: 'failed', error: error.slice(0, 2000), command: e instanceof MediaError ? e.command : '', ended: new Date() },
          )
          const failed = e instanceof Error && e.constructor.name === 'CheckFailed'
          if (!failed) await markProducts(ctx, [task], 'failed')
          log.error(
            { task: task.id, kind: task.kind, detail: e instanceof MediaError ? e.detail : undefined, stack: e instanceof Error ? e.stack : undefined },
            error,
          )
        }
      } finally {
        running.delete(task.id)
        await ctx.changed(task.projectId, 'tasks', 'copies', 'pulls', 'masters')
      }
    },
    { connection: redisOptions(config), concurrency: config.concurrency, lockDuration: 10_000, stalledInterval: 5_000, maxStalledCount: 50 },
  )
  worker.on('error', (e) => log.error(e.message))
  await worker.waitUntilReady()
  log.info('ready')
  return async () => {
    stopping = true
    clearInterval(beating)
    for (const r of running.values()) r.abort.abort()
    await new Promise((r) => setTimeout(r, running.size ? 400 : 0))
    await worker.close(true)
    await ctx.redis.zrem('workers', `${hostname()}:${process.pid}`)
    control.disconnect()
    await ctx.close()
  }
}

const folder = process.argv[2]
if (folder && process.argv[1]?.endsWith('worker.ts')) {
  const stop = await startWorker(folder)
  let ending = false
  for (const s of ['SIGTERM', 'SIGINT'] as const)
    process.on(s, () => {
      if (ending) return
      ending = true
      void stop().finally(() => process.exit(0))
    })
}
