/** What changes, and how far work is, told to every page as it happens (server-sent events). */
import { PassThrough, type Readable } from 'node:stream'
import { LiveEvent } from '@naranja/contract'
import { Redis } from 'ioredis'
import { type Context, liveChannel, redisOptions } from '../platform/index.ts'
import { progressNow } from '../tasks/index.ts'

/** Milliseconds after which a page is told that the server is still there. */
const aliveEvery = 15_000

export class Live {
  private readonly open = new Set<PassThrough>()
  private readonly alive = setInterval(() => this.tell(': alive'), aliveEvery)
  private readonly sub: Redis

  constructor(ctx: Context) {
    this.sub = new Redis(redisOptions(ctx.config))
    void this.sub.subscribe(liveChannel)
    this.sub.on('message', (_channel, text) => {
      const event = LiveEvent.parse(JSON.parse(text))
      if (event.type === 'progress') {
        const { taskId, type: _type, ...now } = event
        progressNow.set(taskId, now)
      } else if (event.type === 'changed' && event.topics.includes('tasks') && progressNow.size > 5000) progressNow.clear()
      this.tell(`data: ${text}`)
    })
  }

  /** All that is told from now on, until whoever listens has gone. */
  listen(): Readable {
    const to = new PassThrough()
    this.open.add(to)
    to.on('close', () => this.open.delete(to))
    to.write(': open\n\n')
    return to
  }

  private tell(line: string): void {
    for (const to of this.open) to.write(`${line}\n\n`)
  }

  /** Ends what pages listen to. */
  silence(): void {
    clearInterval(this.alive)
    for (const to of this.open) to.end()
  }

  close(): void {
    this.sub.disconnect()
  }
}
