/** Saves that are made by themselves: one a day, of which seven are kept. */
import { readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { Context } from '../platform/index.ts'
import { keepSave, savesFolder } from '../database/index.ts'
import { ProjectEntity } from '../records/index.ts'

const day = 24 * 3600_000
const kept = 7

/** Why the last try failed, by the instance's folder; empty where it did not. */
const problems = new Map<string, string>()

interface SaveFile {
  readonly path: string
  readonly at: Date
  readonly daily: boolean
}

async function made(ctx: Context): Promise<SaveFile[]> {
  const folder = savesFolder(ctx.config)
  const names = (await readdir(folder).catch(() => [])).filter((n) => n.endsWith('.naranja-save.gz')).sort()
  const out: SaveFile[] = []
  for (const n of names) {
    const path = join(folder, n)
    const s = await stat(path).catch(() => null)
    if (s) out.push({ path, at: s.mtime, daily: n.includes(' daily.') })
  }
  return out
}

/** The newest, and what went wrong with the last try to make one. */
export async function lastSave(ctx: Context): Promise<{ at: Date; problem: string } | null> {
  const last = (await made(ctx)).at(-1)
  return last ? { at: last.at, problem: problems.get(ctx.config.folder) ?? '' } : null
}

/** What people are told while saves fail. */
export const saveProblem = (ctx: Context): string => problems.get(ctx.config.folder) ?? ''

/** Makes today's, where there is none of the last 24 hours; keeps the last seven, and as many of those made before an upgrade or a restore. */
export async function keepSaved(ctx: Context): Promise<void> {
  const before = await made(ctx)
  for (const some of [before.filter((m) => m.daily), before.filter((m) => !m.daily)])
    for (const m of some.slice(0, Math.max(0, some.length - kept))) await rm(m.path, { force: true })
  const last = before.filter((m) => m.daily).at(-1)
  if (last && Date.now() - last.at.getTime() < day) return
  // Nothing is in it yet.
  if ((await ctx.repo(ProjectEntity).count()) === 0) return
  const folder = savesFolder(ctx.config)
  try {
    for (const n of await readdir(folder).catch(() => [])) if (n.endsWith('.part')) await rm(join(folder, n), { force: true })
    await keepSave(ctx.config, 'daily')
    problems.delete(ctx.config.folder)
    const daily = (await made(ctx)).filter((m) => m.daily)
    for (const m of daily.slice(0, Math.max(0, daily.length - kept))) await rm(m.path, { force: true })
  } catch (e) {
    problems.set(ctx.config.folder, e instanceof Error ? e.message : String(e))
    throw e
  }
}
