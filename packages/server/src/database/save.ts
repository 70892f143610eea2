/** The application's own data as one file, and back: everything that the database holds. Media, passwords and keys are not in it. */
import { type ChildProcess, spawn } from 'node:child_process'
import { createHash, randomBytes } from 'node:crypto'
import { createReadStream, createWriteStream } from 'node:fs'
import { mkdir, open, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { Readable, Transform, Writable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { createGunzip, createGzip } from 'node:zlib'
import { processStart, tiedTo } from '@naranja/media/process'
import { Redis } from 'ioredis'
import type { DataSource } from 'typeorm'
import { z } from 'zod'
import type { Config } from '../config/index.ts'
import { connected, stepsGone } from './connect.ts'
import { steps } from './steps.ts'

/** Where an instance keeps the saves that it makes by itself. */
export const savesFolder = (c: Pick<Config, 'folder'>): string => join(c.folder, 'saves')
/** The name of a save made now, which sorts by time (UTC). */
const saveName = (why: 'daily' | 'before an upgrade' | 'before a restore'): string =>
  `${new Date().toISOString().slice(0, 19).replace('T', ' ').replace(/:/g, '.')} ${why}.naranja-save.gz`

/** What the first line of a save says of it. */
export const SaveHead = z.object({
  format: z.literal(1),
  instance: z.string(),
  /** When it was begun; everything in it stood so at that moment. */
  made: z.iso.datetime(),
  /** Steps by which its tables were made. */
  migrations: z.array(z.string()),
})
export type SaveHead = z.infer<typeof SaveHead>

const SaveEnd = z.object({ sha256: z.string(), bytes: z.number() })
const headMark = '-- naranja save '
const endMark = '-- naranja end '
const [longestHead, longestEnd] = [100_000, 400]

/** A save that cannot be made or used, in a sentence. */
export class SaveError extends Error {}

const clientArgs = (c: Config): string[] => [
  '--no-defaults',
  '--host=127.0.0.1',
  `--port=${c.database.port}`,
  '--user=naranja',
  '--default-character-set=utf8mb4',
  '--max-allowed-packet=256M',
]

function client(c: Config, program: 'mariadb' | 'mariadb-dump', args: readonly string[]): { child: ChildProcess; ended: Promise<void> } {
  const [file, ...words] = tiedTo(process.pid, [program, ...clientArgs(c), ...args])
  const child = spawn(file, words, { stdio: ['pipe', 'pipe', 'pipe'], env: { ...process.env, MYSQL_PWD: c.database.password } })
  let said = ''
  child.stderr?.on('data', (d: Buffer) => {
    said = (said + d.toString()).slice(-4000)
  })
  const ended = new Promise<void>((resolve, reject) => {
    child.on('error', reject)
    child.on('close', (code) => (code === 0 ? resolve() : reject(new SaveError(`The database could not be read or written (${said.trim() || program}).`))))
  })
  ended.catch(() => undefined)
  return { child, ended }
}

/** The text of a database as it stands at one moment, while others go on writing; the same for the same content. */
function textOf(c: Config, database: string): { stream: Readable; ended: Promise<void> } {
  const args = ['--single-transaction', '--quick', '--hex-blob', '--skip-comments', '--skip-add-locks', '--skip-lock-tables', '--no-tablespaces']
  const { child, ended } = client(c, 'mariadb-dump', [...args, '--order-by-primary', database])
  return { stream: child.stdout as Readable, ended }
}

/** Counts what goes through it. */
class Counted {
  private readonly hash = createHash('sha256')
  private bytes = 0
  add(d: Buffer): Buffer {
    this.hash.update(d)
    this.bytes += d.length
    return d
  }
  told(): z.infer<typeof SaveEnd> {
    return { sha256: this.hash.digest('hex'), bytes: this.bytes }
  }
}

const bin = (): Writable => new Writable({ write: (_chunk, _encoding, done) => done() })

async function digestOf(c: Config, database: string): Promise<string> {
  const { stream, ended } = textOf(c, database)
  const counted = new Counted()
  for await (const d of stream) counted.add(d as Buffer)
  await ended
  return counted.told().sha256
}

/** The text of a save between its two lines, as it is read. `heard` is told the head before the first piece; whether all of it is right is known at its end. */
async function* between(pieces: AsyncIterable<Buffer>, path: string, heard: (head: SaveHead) => void): AsyncGenerator<Buffer> {
  let held: Buffer = Buffer.alloc(0)
  let headless = true
  const counted = new Counted()
  for await (const piece of pieces) {
    held = held.length ? Buffer.concat([held, piece]) : piece
    if (headless) {
      const end = held.indexOf(10)
      const line = held.toString('utf8', 0, Math.min(end < 0 ? held.length : end, longestHead))
      if (!line.startsWith(headMark.slice(0, line.length)) || (end < 0 && held.length > longestHead)) throw new SaveError(`${path} is not a save of Naranja.`)
      if (end < 0) continue
      heard(parsed(SaveHead, line.slice(headMark.length), `${path} is a save of another form, which this version cannot read.`))
      headless = false
      held = held.subarray(end + 1)
    }
    // The last line may come in two pieces.
    if (held.length <= longestEnd) continue
    yield counted.add(held.subarray(0, held.length - longestEnd))
    held = held.subarray(held.length - longestEnd)
  }
  const at = held.lastIndexOf(endMark)
  if (headless || at < 0) throw new SaveError(`${path} is cut short: its end is missing. Take another save.`)
  const damaged = `${path} is damaged: it does not hold what was written into it. Take another save.`
  const end = parsed(SaveEnd, held.toString('utf8', at + endMark.length), damaged)
  if (at > 0) yield counted.add(held.subarray(0, at))
  const { sha256, bytes } = counted.told()
  if (end.sha256 !== sha256 || end.bytes !== bytes) throw new SaveError(damaged)
}

function parsed<T>(schema: z.ZodType<T>, text: string, otherwise: string): T {
  try {
    return schema.parse(JSON.parse(text))
  } catch {
    throw new SaveError(otherwise)
  }
}

/** Reads the whole of a file, for `to`. Throws a SaveError if it is not a whole save of a version that is known here. */
async function through(path: string, to: Writable): Promise<SaveHead> {
  let head: SaveHead | null = null
  const hear = (h: SaveHead) => {
    head = h
  }
  try {
    await pipeline(createReadStream(path), createGunzip(), (pieces: AsyncIterable<Buffer>) => between(pieces, path, hear), to)
  } catch (e) {
    const code = (e as NodeJS.ErrnoException).code ?? ''
    if (code === 'ENOENT') throw new SaveError(`${path} is not there.`)
    if (code.startsWith('Z_')) throw new SaveError(head ? `${path} is damaged or cut short. Take another save.` : `${path} is not a save of Naranja.`)
    throw e
  }
  const known = new Set(steps.map((s) => s.name))
  if ((head as SaveHead | null)?.migrations.some((m) => !known.has(m)) !== false)
    throw new SaveError(`${path} was made by a newer version of Naranja. Restore it with that version or a newer one.`)
  return head as unknown as SaveHead
}

/** Reads a save from end to end and tells what it is. Throws a SaveError if it is damaged, cut short, or of a newer version. */
export const readSave = (path: string): Promise<SaveHead> => through(path, bin())

/** A database of its own for the moment, beside the one that is used. */
async function beside<T>(c: Config, work: (database: string) => Promise<T>): Promise<T> {
  const database = `naranja_beside_${process.pid}_${randomBytes(3).toString('hex')}`
  return connected(c, async (db) => {
    await db.query(`CREATE DATABASE ${database} CHARACTER SET utf8mb4 COLLATE utf8mb4_bin`)
    try {
      return await work(database)
    } finally {
      await db.query(`DROP DATABASE IF EXISTS ${database}`)
    }
  })
}

/** Loads a save into an empty database, and looks whether what stands there then is what was saved. */
async function load(c: Config, path: string, database: string): Promise<SaveHead> {
  // A save is read by the client of the database: in its sandbox, no line of it reaches beyond the database.
  const { child, ended } = client(c, 'mariadb', ['--sandbox', '--batch', '--init-command=SET SESSION foreign_key_checks=0', database])
  child.stdout?.resume()
  const to = child.stdin as Writable
  const counted = new Counted()
  const counting = new Transform({ transform: (d: Buffer, _encoding, done) => done(null, counted.add(d)) })
  const into = pipeline(counting, to)
  const [read, loaded, over] = await Promise.allSettled([through(path, counting), into, ended])
  // What is wrong with the file says more than that the client ended before it was through.
  for (const r of [read, over, loaded]) if (r.status === 'rejected' && r.reason instanceof SaveError) throw r.reason
  for (const r of [read, over, loaded]) if (r.status === 'rejected') throw r.reason
  if ((await digestOf(c, database)) !== counted.told().sha256)
    throw new SaveError(`${path} was loaded, and what stands in the database then is not what it holds. It is not used.`)
  return (read as PromiseFulfilledResult<SaveHead>).value
}

/**
 * Writes everything the application knows into a file, as it stands at one moment, and checks it by loading it into an empty database:
 * what stands there must be, to the letter, what was written. Under a temporary name until then.
 */
export async function saveTo(c: Config, path: string): Promise<SaveHead & { bytes: number }> {
  const part = `${path}.${process.pid}.part`
  try {
    const head: SaveHead = { format: 1, instance: c.instance, made: new Date().toISOString(), migrations: await connected(c, (db) => stepsGone(db)) }
    const { stream, ended } = textOf(c, 'naranja')
    const counted = new Counted()
    const whole = async function* () {
      yield Buffer.from(`${headMark}${JSON.stringify(head)}\n`)
      for await (const d of stream) yield counted.add(d as Buffer)
      await ended
      yield Buffer.from(`${endMark}${JSON.stringify(counted.told())}\n`)
    }
    await pipeline(Readable.from(whole()), createGzip(), createWriteStream(part, { mode: 0o600, flags: 'wx' }))
    await beside(c, (database) => load(c, part, database))
    const file = await open(part, 'r+')
    const { size } = await file.stat()
    await file.sync()
    await file.close()
    await rename(part, path)
    return { ...head, bytes: size }
  } finally {
    await rm(part, { force: true })
  }
}

/** A save that an instance makes by itself, among its others; its path. */
export async function keepSave(c: Config, why: Parameters<typeof saveName>[0]): Promise<string> {
  await mkdir(savesFolder(c), { recursive: true, mode: 0o700 })
  const path = join(savesFolder(c), saveName(why))
  await saveTo(c, path)
  return path
}

/**
 * Puts what a save holds in place of what stands there: loaded beside it and checked first, then changed over in one statement. The
 * application must not run.
 */
export async function restoreFrom(c: Config, path: string): Promise<SaveHead> {
  return beside(c, async (database) => {
    const head = await load(c, path, database)
    await connected(c, async (db) => {
      const tables = async (of: string): Promise<string[]> =>
        ((await db.query('SELECT table_name AS name FROM information_schema.tables WHERE table_schema = ?', [of])) as { name: string }[]).map((t) => t.name)
      const old = `${database}_old`
      await db.query(`CREATE DATABASE ${old}`)
      try {
        const moves = [
          ...(await tables('naranja')).map((t) => `naranja.\`${t}\` TO ${old}.\`${t}\``),
          ...(await tables(database)).map((t) => `${database}.\`${t}\` TO naranja.\`${t}\``),
        ]
        await db.query(`RENAME TABLE ${moves.join(', ')}`)
      } finally {
        await db.query(`DROP DATABASE ${old}`)
      }
    })
    // Turns of the queue are for tasks of before; they are handed out anew at the next start.
    const redis = new Redis({ host: '127.0.0.1', port: c.redis.port, password: c.redis.password })
    await redis.flushall()
    redis.disconnect()
    return head
  })
}

/** Removes what a save or a restoring that was killed has left beside the database. */
export async function clearBeside(db: Pick<DataSource, 'query'>): Promise<void> {
  const left = (await db.query("SELECT schema_name AS name FROM information_schema.schemata WHERE schema_name LIKE 'naranja\\\\_beside\\\\_%'")) as {
    name: string
  }[]
  for (const { name } of left) {
    const pid = /^naranja_beside_(\d+)_/.exec(name)?.[1]
    if (pid && !processStart(Number(pid))) await db.query(`DROP DATABASE \`${name}\``)
  }
}
