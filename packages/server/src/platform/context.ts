/** What every service is given: store, queue, live events, config. */
import { randomUUID } from 'node:crypto'
import { join } from 'node:path'
import { type LiveEvent, Topic } from '@naranja/contract'
import { linksIn } from '@naranja/media/temporary'
import { Queue } from 'bullmq'
import { Redis } from 'ioredis'
import type { DataSource, EntityManager, EntitySchema, ObjectLiteral, Repository } from 'typeorm'
import type { Config } from '../config/index.ts'

export const queueName = 'work'
export const liveChannel = 'live'
export const controlChannel = 'control'

/** What the API tells workers about a task that runs. */
export type Control =
  | { readonly kind: 'cancel' | 'hold' | 'release'; readonly taskId: string }
  | { readonly kind: 'pause' | 'resume' }
  | { readonly kind: 'limit'; readonly machine: string; readonly limit: number }

export interface Context {
  readonly config: Config
  /** The database; within a change (`history/exclusive.ts`) the transaction that is under way. */
  readonly db: EntityManager
  /** The project (or `all`) that is being changed, and by nobody else meanwhile. */
  readonly changing?: string
  readonly redis: Redis
  readonly queue: Queue<object>
  repo<T extends ObjectLiteral>(entity: EntitySchema<T>): Repository<T>
  publish(event: LiveEvent): void
  /** Tells everybody that something changed, after the project's version has moved on. */
  changed(projectId: string | null, ...topics: Topic[]): Promise<void>
  /** Moves on with every change of these topics; what is derived from the data is kept by it. */
  version(projectId: string, topics?: readonly Topic[]): Promise<string>
  control(message: Control): void
  close(): Promise<void>
}

const versionKey = (projectId: string | null, topic: Topic): string => `version:${projectId ?? 'all'}:${topic}`
/** All that there is. */
export const everyTopic: readonly Topic[] = Topic.options
/** All that answers are made of; not what is only under way. */
const dataTopics: readonly Topic[] = ['volumes', 'projects', 'clips', 'copies', 'cuts', 'links', 'pulls', 'masters', 'viewing', 'specs']
/** What originals are made of as reconnection and plans know them. */
export const originalTopics: readonly Topic[] = ['volumes', 'projects', 'clips', 'copies', 'specs']

export const newId = (): string => randomUUID()

export const redisOptions = (config: Config) => ({
  host: '127.0.0.1',
  port: config.redis.port,
  username: config.redis.user,
  password: config.redis.password,
  maxRetriesPerRequest: null,
})

/** What a process gives its services; `store`: its database, which is closed with it. */
export function openContext(config: Config, store: DataSource): Context {
  linksIn(join(config.folder, 'work', 'links'))
  const redis = new Redis(redisOptions(config))
  const queue = new Queue<object>(queueName, { connection: redisOptions(config) })
  const publish = (event: LiveEvent) => {
    // What cannot be told now, for the queue's disk is full, is looked at anew when there is room.
    redis.publish(liveChannel, JSON.stringify(event)).catch(() => undefined)
  }
  return {
    config,
    db: store.manager,
    redis,
    queue,
    repo: (entity) => store.getRepository(entity),
    publish,
    async changed(projectId, ...topics) {
      const moving = redis.pipeline()
      for (const t of topics) moving.incr(versionKey(projectId, t))
      await moving.exec()
      publish({ type: 'changed', projectId, topics })
    },
    async version(projectId, topics = dataTopics) {
      const keys = topics.flatMap((t) => [versionKey(projectId, t), versionKey(null, t)])
      return (await redis.mget(keys)).join('/')
    },
    control: (message) => {
      redis.publish(controlChannel, JSON.stringify(message)).catch(() => undefined)
    },
    async close() {
      await queue.close()
      redis.disconnect()
      await store.destroy()
    },
  }
}
