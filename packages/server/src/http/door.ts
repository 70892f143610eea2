/**
 * The door for workers on other machines: one TLS port, open only when asked for. Who shows the token of a worker, and runs the same version, is
 * led to the queue or the database, which themselves stay on loopback, with the rights of a worker; nobody else is led anywhere. Who says
 * nothing is not waited for, and who guesses is not listened to.
 */
import { randomBytes } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { connect, type Socket } from 'node:net'
import { createServer, type Server, type TLSSocket } from 'node:tls'
import { join as pathOf } from 'node:path'
import { writeWhole } from '@naranja/media'
import { z } from 'zod'
import type { Config } from '../config/index.ts'
import { type Context, digest } from '../platform/index.ts'
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

/** Machines that showed no known token, and how often. */
class Guesses {
  private readonly wrong = new Map<string, { tries: number; last: number }>()

  add(from: string): void {
    const before = this.wrong.get(from)
    if (this.wrong.size > 10_000) this.wrong.clear()
    this.wrong.set(from, { tries: (before?.tries ?? 0) + 1, last: Date.now() })
  }

  /** Whether a machine has guessed too often lately to be listened to. */
  tooMany(from: string): boolean {
    const guess = this.wrong.get(from)
    if (guess && Date.now() - guess.last > forgotten) this.wrong.delete(from)
    else if (guess && guess.tries >= tries) return true
    return false
  }
}

/** Calls `heard` with the first line of a connection, and leaves the rest of it unread; one that takes too long, or says too much, is ended. */
function firstLine(socket: TLSSocket, heard: (line: string) => void): void {
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
    socket.off('data', hear)
    socket.pause()
    const rest = said.subarray(end + 1)
    if (rest.length) socket.unshift(rest)
    heard(said.toString('latin1', 0, end))
  }
  socket.on('data', hear)
}

const whoOf = (s: Socket): string => `${s.remoteAddress} ${s.remotePort}`

/** Tokens of workers, kept as digests. */
function readTokens(path: string): WorkerToken[] {
  try {
    return z.array(WorkerToken).parse(JSON.parse(readFileSync(path, 'utf8')))
  } catch {
    // None was made yet.
    return []
  }
}

export class Door {
  private readonly path: string
  private workers: WorkerToken[]
  /** What each worker has open. */
  private readonly open = new Map<string, Set<Socket>>()
  private readonly guesses = new Guesses()
  /** Connections that have not greeted yet. */
  private readonly waiting = new Set<string>()
  private readonly server: Server

  constructor(
    private readonly ctx: Context,
    listen: NonNullable<Config['listen']>,
    report: (e: Error) => void,
  ) {
    // Beside the database, which workers may write in.
    this.path = pathOf(ctx.config.folder, 'workers.json')
    this.workers = readTokens(this.path)
    const secured = { cert: readFileSync(listen.cert), key: readFileSync(listen.key), minVersion: 'TLSv1.3', handshakeTimeout: patience } as const
    this.server = createServer(secured, (socket) => {
      socket.on('error', () => socket.destroy())
      firstLine(socket, (line) => {
        this.waiting.delete(whoOf(socket))
        void this.lead(socket, line).catch((e: Error) => {
          report(e)
          socket.destroy()
        })
      })
    })
    this.server.maxConnections = most
    this.server.on('connection', (raw: Socket) => this.comes(raw))
    this.server.on('tlsClientError', (_e, socket) => socket.destroy())
    this.server.on('error', report)
    this.server.listen(listen.port, listen.host)
  }

  /** A token for a worker of this name, in place of the one it had. */
  async make(name: string): Promise<string> {
    const token = randomBytes(24).toString('base64url')
    this.end(name)
    this.workers = [...this.workers.filter((w) => w.name !== name), { name, digest: digest(token), made: new Date().toISOString(), used: null }]
    await this.keep()
    return token
  }

  list(): { name: string; made: string; used: string | null }[] {
    return this.workers.map(({ name, made, used }) => ({ name, made, used }))
  }

  /** Lets a worker in no more, and ends what it has open. False where there is none of that name. */
  async takeBack(name: string): Promise<boolean> {
    if (!this.workers.some((w) => w.name === name)) return false
    this.workers = this.workers.filter((w) => w.name !== name)
    await this.keep()
    this.end(name)
    return true
  }

  close(): void {
    this.server.close()
  }

  /** Those that have not greeted yet are few at once, and a machine that guessed wrong too often is not listened to. */
  private comes(raw: Socket): void {
    if (this.guesses.tooMany(raw.remoteAddress ?? '') || this.waiting.size >= mostWaiting) {
      raw.destroy()
      return
    }
    const who = whoOf(raw)
    this.waiting.add(who)
    raw.once('close', () => this.waiting.delete(who))
  }

  /** Leads who has greeted to where it wants to go. */
  private async lead(socket: TLSSocket, line: string): Promise<void> {
    const { config } = this.ctx
    const [name, token = '', to, version] = line.split(' ')
    const worker = name === 'naranja' ? this.workers.find((w) => w.digest === digest(token)) : undefined
    if (!worker) {
      this.guesses.add(socket.remoteAddress ?? '')
      socket.end('no\n')
      return
    }
    if (version !== doorVersion) {
      socket.end(`version ${doorVersion}\n`)
      return
    }
    await this.noteUse(worker)
    const mine = this.open.get(worker.name) ?? new Set()
    this.open.set(worker.name, mine.add(socket))
    socket.once('close', () => mine.delete(socket))
    if (to === 'config') {
      const volumes = (await this.ctx.repo(VolumeEntity).find()).map((v) => ({ id: v.id, label: v.label }))
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

  /** When a worker was here last, to the minute. */
  private async noteUse(worker: WorkerToken): Promise<void> {
    const now = new Date()
    if (worker.used && now.getTime() - Date.parse(worker.used) <= 60_000) return
    worker.used = now.toISOString()
    await this.keep()
  }

  private keep(): Promise<void> {
    return writeWhole(this.path, JSON.stringify(this.workers), 0o600)
  }

  private end(name: string): void {
    for (const s of this.open.get(name) ?? []) s.destroy()
    this.open.delete(name)
  }
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
