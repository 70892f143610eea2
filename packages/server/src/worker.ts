/** A worker: takes turns from the queue, one process of one or many. */
import { worksThrough } from '@naranja/media/process'
import { Worker } from 'bullmq'
import { Redis } from 'ioredis'
import { pino } from 'pino'
import { readConfig } from './config/index.ts'
import { type Control, controlChannel, endWhenAsked, logStream, openContext, queueName, redisOptions } from './platform/index.ts'
import { AtWork, turns } from './running/index.ts'
import { openStore } from './store/index.ts'
import { isPaused, limitOf } from './tasks/index.ts'
import { stayInside } from './volumes/index.ts'

export async function startWorker(folder: string): Promise<() => Promise<void>> {
  worksThrough()
  const config = readConfig(folder)
  const log = pino({ name: 'worker' }, logStream())
  const ctx = openContext(config, await openStore(config))
  stayInside(ctx)
  let stopping = false
  /** How many tasks at once; those that are held by themselves take no place. */
  let limit = (await limitOf(ctx, config.machine)) ?? config.concurrency
  const me = `${config.machine}:${process.pid}`
  const beat = () => {
    void ctx.redis.zadd('workers', Date.now(), me)
    void ctx.redis.hset('worker:limits', me, limit)
  }
  const taking = (concurrency: number): Worker<object> => {
    const timing = { lockDuration: 10_000, stalledInterval: 5_000, maxStalledCount: 50 }
    const w = new Worker<object>(queueName, turn, { connection: redisOptions(config), concurrency, ...timing })
    w.on('error', (e) => log.error(e.message))
    w.on('lockRenewalFailed', (jobs: string[]) => atWork.loseTurns(jobs))
    return w
  }
  const control = new Redis(redisOptions(config))
  await control.subscribe(controlChannel)
  const atWork = new AtWork(taking, await isPaused(ctx))
  const turn = turns({ ctx, atWork, log, limit: () => limit, stopping: () => stopping })
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
    } else if ('taskId' in message) atWork[message.kind](message.taskId)
    else atWork.pause(message.kind === 'pause')
  })
  beat()
  const beating = setInterval(beat, 4000)
  const worker = taking(limit)
  await worker.waitUntilReady()
  settle()
  log.info('ready')
  return async () => {
    stopping = true
    clearInterval(beating)
    atWork.endAll()
    await new Promise((r) => setTimeout(r, atWork.size ? 400 : 0))
    await Promise.all([worker.close(true), atWork.close()])
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
