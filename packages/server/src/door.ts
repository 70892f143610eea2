/**
 * The door for workers on other machines: one TLS port, open only when asked for. Who shows the token is led to the queue or the database,
 * which themselves stay on loopback; nobody else is led anywhere.
 */
import { timingSafeEqual } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { connect, type Socket } from 'node:net'
import { createServer, type Server, type TLSSocket } from 'node:tls'
import type { Config } from './config.ts'
import type { Context } from './context.ts'
import { VolumeEntity } from './store/index.ts'

/** What a worker that joins is told once. */
export interface Joined {
  readonly instance: string
  readonly user: string
  readonly database: string
  readonly redis: string
  readonly volumes: readonly { readonly id: string; readonly label: string }[]
}

/** The first line of a connection: what it is, whose, and where it wants to go. */
export const greeting = (token: string, to: 'config' | 'database' | 'queue'): string => `naranja 1 ${token} ${to}\n`
const longest = 200

export function openDoor(ctx: Context, listen: NonNullable<Config['listen']>, report: (e: Error) => void): Server {
  const { config } = ctx
  const token = Buffer.from(listen.token)
  const lead = async (socket: TLSSocket, line: string): Promise<void> => {
    const [name, version, given = '', to] = line.split(' ')
    const shown = Buffer.from(given)
    if (name !== 'naranja' || version !== '1' || shown.length !== token.length || !timingSafeEqual(shown, token)) {
      socket.end('no\n')
      return
    }
    if (to === 'config') {
      const volumes = (await ctx.repo(VolumeEntity).find()).map((v) => ({ id: v.id, label: v.label }))
      const told: Joined = { instance: config.instance, user: config.user, database: config.database.password, redis: config.redis.password, volumes }
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
  const server = createServer({ cert: readFileSync(listen.cert), key: readFileSync(listen.key), minVersion: 'TLSv1.3' }, (socket) => {
    socket.on('error', () => socket.destroy())
    // Who says nothing is not waited for.
    socket.setTimeout(10_000, () => socket.destroy())
    let said = Buffer.alloc(0)
    const hear = (chunk: Buffer) => {
      said = Buffer.concat([said, chunk])
      const end = said.indexOf(10)
      if (end < 0) {
        if (said.length > longest) socket.destroy()
        return
      }
      socket.off('data', hear)
      socket.pause()
      socket.setTimeout(0)
      const rest = said.subarray(end + 1)
      if (rest.length) socket.unshift(rest)
      void lead(socket, said.toString('latin1', 0, end)).catch((e: Error) => {
        report(e)
        socket.destroy()
      })
    }
    socket.on('data', hear)
  })
  server.on('error', report)
  server.listen(listen.port, listen.host)
  return server
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
