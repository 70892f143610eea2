/** Changes of a project happen one after another, each whole or not at all, whichever process makes them. */
import type { Topic } from '@naranja/contract'
import pLimit, { type LimitFunction } from 'p-limit'
import { type Context, found } from '../platform/index.ts'
import { patiently } from '../database/index.ts'
import { ProjectEntity } from '../records/index.ts'

/** What is changed that belongs to no project: specs, layouts of clip logs. */
const everything = 'all'

/** Within a process they wait here, so that waiting takes no connection to the database; projects that nobody changes are dropped. */
const lines = new Map<string, LimitFunction>()
function inLine<T>(name: string, work: () => Promise<T>): Promise<T> {
  const line = lines.get(name) ?? pLimit(1)
  lines.set(name, line)
  return line(work).finally(() => {
    if (line.activeCount + line.pendingCount === 0 && lines.get(name) === line) lines.delete(name)
  })
}

/** Rows of `writer` that are known to be there. */
const rows = new Set<string>()

/** Holds the project's row of `writer` to the end of a transaction. */
async function hold(ctx: Context, name: string): Promise<void> {
  await ctx.db.query(`SELECT name FROM writer WHERE name = ? FOR UPDATE`, [name])
}

async function prepare(ctx: Context, name: string): Promise<void> {
  if (rows.has(name)) return
  await ctx.db.query(`INSERT IGNORE INTO writer (name) VALUES (?)`, [name])
  rows.add(name)
  if (rows.size > 10_000) rows.clear()
}

/** A project that is gone is changed by nobody any more. */
export async function forgetWriter(ctx: Context, projectId: string): Promise<void> {
  rows.delete(projectId)
  await ctx.db.query(`DELETE FROM writer WHERE name = ?`, [projectId])
}

/** What is told to others is told once it stands. */
function quiet(): { told: Pick<Context, 'changed' | 'publish'>; tell(ctx: Context): Promise<void> } {
  const changes: [string | null, Topic[]][] = []
  const events: Parameters<Context['publish']>[0][] = []
  return {
    told: {
      changed: async (projectId, ...topics) => void changes.push([projectId, topics]),
      publish: (event) => void events.push(event),
    },
    async tell(ctx) {
      for (const [projectId, topics] of changes) await ctx.changed(projectId, ...topics)
      for (const e of events) ctx.publish(e)
    },
  }
}

/**
 * Runs a change of a project (or, by null, of what belongs to none) in one transaction, in which nobody else changes the project:
 * what it reads there is what it writes on. Where the database gives the transaction up it runs again as a whole, so `work` does
 * nothing that outlasts it: no files, no tasks handed out. Within a change it is part of that. Refused where the project is gone.
 */
export async function exclusively<T>(ctx: Context, projectId: string | null, work: (ctx: Context) => Promise<T>): Promise<T> {
  const name = projectId ?? everything
  if (ctx.changing === name && ctx.db.queryRunner?.isTransactionActive) return work(ctx)
  const run = async (): Promise<T> => {
    if (ctx.changing !== name) await prepare(ctx, name)
    const { value, tell } = await patiently(() => {
      const { told, tell } = quiet()
      return ctx.db.transaction('READ COMMITTED', async (db) => {
        const inside: Context = { ...ctx, ...told, db, repo: (entity) => db.getRepository(entity), changing: name }
        if (ctx.changing !== name) await hold(inside, name)
        if (projectId) found((await inside.repo(ProjectEntity).existsBy({ id: projectId })) || null, 'The project')
        return { value: await work(inside), tell }
      })
    })
    await tell(ctx)
    return value
  }
  return ctx.changing === name ? run() : inLine(name, run)
}

/**
 * The same for work that does more than write rows, such as moving files or handing out tasks: nobody else changes the project
 * meanwhile, but what was done stays done.
 */
export async function aloneWith<T>(ctx: Context, projectId: string | null, work: (ctx: Context) => Promise<T>): Promise<T> {
  const name = projectId ?? everything
  if (ctx.changing === name) return work(ctx)
  return inLine(name, async () => {
    await prepare(ctx, name)
    return ctx.db.transaction('READ COMMITTED', async (db) => {
      await hold({ ...ctx, db }, name)
      return work({ ...ctx, changing: name })
    })
  })
}

/** A service whose every call is one change of the project it is given. */
export const change =
  <A extends unknown[], T>(work: (ctx: Context, projectId: string, ...rest: A) => Promise<T>) =>
  (ctx: Context, projectId: string, ...rest: A): Promise<T> =>
    exclusively(ctx, projectId, (inside) => work(inside, projectId, ...rest))

/** A service that nobody else changes the project beside. */
export const alone =
  <A extends unknown[], T>(work: (ctx: Context, projectId: string, ...rest: A) => Promise<T>) =>
  (ctx: Context, projectId: string, ...rest: A): Promise<T> =>
    aloneWith(ctx, projectId, (inside) => work(inside, projectId, ...rest))
