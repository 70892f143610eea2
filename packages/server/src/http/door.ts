/**
 * The door for workers on other machines: one TLS port, open only when asked for. Who shows the token of a worker, and runs the same version, is
 * led to the queue or the database, which themselves stay on loopback, with the rights of a worker; nobody else is led anywhere. Who says
 * nothing is not waited for, and who guesses is not listened to.
 */
import { randomBytes } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { connect, type Socket } from 'node:net'
import { createServer, type TLSSocket } from 'node:tls'
import { join as pathOf } from 'node:path'
import { writeWhole } from '@naranja/media'
import { z } from 'zod'
import type { Config } from '../config/index.ts'
import { type Context, digest, Refusal } from '../platform/index.ts'
import { schemaVersion } from '../database/index.ts'
import { VolumeEntity } from '../records/index.ts'

/** What a worker that joins is told once: among it, passwords of users that may do what a worker does. */
export interface Joined {
  readonly instance: string
  readonly user: string
  readonly database: { readonly user: string; readonly password: string }
  readonly redis: { readonly user: string; readonly password: string }
  readonly volumes: readonly { readonly id: string; readonly label: string }[]
}

/** What both sides must agree in: what is said at the door, and the tables that both work on. */
export const doorVersion = `2-${schemaVersion}`

/** The first line of a connection: what it is, whose, where it wants to go, and which version it is of. */
export const greeting = (token: string, to: 'config' | 'database' | 'queue', version = doorVersion): string => `naranja ${token} ${to} ${version}\n`

/** Bytes of the longest greeting. */
const longest = 300
/** Milliseconds for the handshake, and from the beginning of a connection to the end of its greeting, however it comes. */
const patience = 5000
/** Connections at once: those that were let in, and those that have not greeted yet. A worker has about a dozen. */
const [most, mostWaiting] = [400, 40]
/** Wrong tries of one machine after which it is not listened to for a while (milliseconds). */
const [tries, forgotten] = [10, 600_000]

/** A worker that may join. Its token is known to itself alone. */
const WorkerToken = z.object({ name: z.string(), digest: z.string(), made: z.string(), used: z.string().nullable() })
type WorkerToken = z.infer<typeof WorkerToken>

export interface Door {
  /** A token for a worker of this name, in place of the one it had. */
  make(name: string): Promise<string>
  list(): { name: string; made: string; used: string | null }[]
  /** Lets a worker in no more, and ends what it has open. False where there is none of that name. */
  takeBack(name: string): Promise<boolean>
  close(): void
}

export function openDoor(ctx: Context, listen: NonNullable<Config['listen']>, report: (e: Error) => void): Door {
  const { config } = ctx
  // Beside the database, which workers may write in.
  const path = pathOf(config.folder, 'workers.json')
  let workers: WorkerToken[] = []
  try {
    workers = z.array(WorkerToken).parse(JSON.parse(readFileSync(path, 'utf8')))
  } catch {
    // None was made yet.
  }
  const keep = () => writeWhole(path, JSON.stringify(workers), 0o600)
  const open = new Map<string, Set<Socket>>()
  const wrong = new Map<string, { tries: number; last: number }>()
  const waiting = new Set<string>()
  const whoOf = (s: Socket): string => `${s.remoteAddress} ${s.remotePort}`

  const lead = async (socket: TLSSocket, line: string): Promise<void> => {
    const [name, token = '', to, version] = line.split(' ')
    const worker = name === 'naranja' ? workers.find((w) => w.digest === digest(token)) : undefined
    const from = socket.remoteAddress ?? ''
    if (!worker) {
      const before = wrong.get(from)
      if (wrong.size > 10_000) wrong.clear()
      wrong.set(from, { tries: (before?.tries ?? 0) + 1, last: Date.now() })
      socket.end('no\n')
      return
    }
    if (version !== doorVersion) {
      socket.end(`version ${doorVersion}\n`)
      return
    }
    const now = new Date()
    if (!worker.used || now.getTime() - Date.parse(worker.used) > 60_000) {
      worker.used = now.toISOString()
      await keep()
    }
    const mine = open.get(worker.name) ?? new Set()
    open.set(worker.name, mine.add(socket))
    socket.once('close', () => mine.delete(socket))
    if (to === 'config') {
      const volumes = (await ctx.repo(VolumeEntity).find()).map((v) => ({ id: v.id, label: v.label }))
      const told: Joined = { instance: config.instance, user: config.user, database: config.workers.database, redis: config.workers.redis, volumes }
      socket.end(`ok\n${JSON.stringify(told)}\n`)
      return
    }
    const port = to === 'database' ? config.database.port : to === 'queue' ? config.redis.port : null
    if (port === null) {
      socket.end('no\n')
      return
    }
    const inside = connect(port, '127.0.0.1')
    inside.once('connect', () => {
      socket.write('ok\n')
      join(socket, inside)
    })
    inside.once('error', () => socket.destroy())
  }

  const server = createServer(
    { cert: readFileSync(listen.cert), key: readFileSync(listen.key), minVersion: 'TLSv1.3', handshakeTimeout: patience },
    (socket) => {
      socket.on('error', () => socket.destroy())
      let said = Buffer.alloc(0)
      const deadline = setTimeout(() => socket.destroy(), patience)
      socket.once('close', () => clearTimeout(deadline))
      const hear = (chunk: Buffer) => {
        said = Buffer.concat([said, chunk])
        const end = said.indexOf(10)
        if (end < 0) {
          if (said.length > longest) socket.destroy()
          return
        }
        clearTimeout(deadline)
        waiting.delete(whoOf(socket))
        socket.off('data', hear)
        socket.pause()
        const rest = said.subarray(end + 1)
        if (rest.length) socket.unshift(rest)
        void lead(socket, said.toString('latin1', 0, end)).catch((e: Error) => {
          report(e)
          socket.destroy()
        })
      }
      socket.on('data', hear)
    },
  )
  server.maxConnections = most
  // Those that have not greeted yet are few at once, and a machine that guessed wrong too often is not listened to.
  server.on('connection', (raw: Socket) => {
    const guess = wrong.get(raw.remoteAddress ?? '')
    if (guess && Date.now() - guess.last > forgotten) wrong.delete(raw.remoteAddress ?? '')
    else if (guess && guess.tries >= tries) return raw.destroy()
    if (waiting.size >= mostWaiting) return raw.destroy()
    const who = whoOf(raw)
    waiting.add(who)
    raw.once('close', () => waiting.delete(who))
    return undefined
  })
  server.on('tlsClientError', (_e, socket) => socket.destroy())
  server.on('error', report)
  server.listen(listen.port, listen.host)

  const end = (name: string) => {
    for (const s of open.get(name) ?? []) s.destroy()
    open.delete(name)
  }
  return {
    async make(name) {
      const token = randomBytes(24).toString('base64url')
      end(name)
      workers = [...workers.filter((w) => w.name !== name), { name, digest: digest(token), made: new Date().toISOString(), used: null }]
      await keep()
      return token
    },
    list: () => workers.map(({ name, made, used }) => ({ name, made, used })),
    async takeBack(name) {
      if (!workers.some((w) => w.name === name)) return false
      workers = workers.filter((w) => w.name !== name)
      await keep()
      end(name)
      return true
    },
    close: () => void server.close(),
  }
}

/** What a command asks where the door is closed. */
export const openDoorOf = (door: Door | null): Door => {
  if (!door) throw new Refusal('blocked', 'The door for workers is closed. Start Naranja with --listen to open it.')
  return door
}

/** Lets everything through both ways until one of them ends. */
export function join(a: Socket, b: Socket): void {
  a.pipe(b)
  b.pipe(a)
  for (const [one, other] of [
    [a, b],
    [b, a],
  ] as const) {
    one.once('error', () => other.destroy())
    one.once('close', () => other.destroy())
  }
  a.resume()
}
