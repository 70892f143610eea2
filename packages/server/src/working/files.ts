/** Files that are made again when they are wanted: pictures that were looked at, pieces of masters that are half rendered, logs. Each kind has a limit. */
import { open, readdir, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { WorkingFiles, WorkingKind } from '@naranja/contract'
import { In } from 'typeorm'
import type { Context } from '../platform/index.ts'
import { savesFolder } from '../database/index.ts'
import { productsOf, CutEntity, MasterEntity, TaskEntity } from '../records/index.ts'
import { lastSave } from './saves.ts'

/** Below the instance's folder, and bytes. The viewer keeps its own within 2 GB each. */
const kinds: Record<WorkingKind, { readonly folders: readonly string[]; readonly limit: number }> = {
  pictures: { folders: ['cache/stills', 'cache/pieces', 'cache/strips'], limit: 4.2e9 },
  trials: { folders: ['cache/trials'], limit: 0.5e9 },
  segments: { folders: ['work/segments', 'work/masters'], limit: 20e9 },
  logs: { folders: ['logs'], limit: 0.2e9 },
}
const longestLog = 20e6
/** Of a log that has become too long, so much of its end is kept. */
const logEnd = 1e6

interface FileEntry {
  readonly path: string
  readonly size: number
  readonly at: number
}

async function filesBelow(folder: string): Promise<FileEntry[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => [])
  const out: FileEntry[] = []
  for (const e of entries) {
    if (!e.isFile()) continue
    const path = join(e.parentPath, e.name)
    const s = await stat(path).catch(() => null)
    if (s) out.push({ path, size: s.size, at: s.mtimeMs })
  }
  return out
}

const sizeOf = (files: readonly FileEntry[]): number => files.reduce((n, f) => n + f.size, 0)

const ofKind = async (ctx: Context, kind: WorkingKind): Promise<FileEntry[]> =>
  (await Promise.all(kinds[kind].folders.map((f) => filesBelow(join(ctx.config.folder, f))))).flat()

export async function workingFiles(ctx: Context): Promise<WorkingFiles> {
  const rows = await Promise.all(
    (Object.keys(kinds) as WorkingKind[]).map(async (kind) => ({ kind, bytes: sizeOf(await ofKind(ctx, kind)), limit: kinds[kind].limit })),
  )
  const saves = await filesBelow(savesFolder(ctx.config))
  const last = await lastSave(ctx)
  return {
    folder: ctx.config.folder,
    kinds: rows,
    saves: { count: saves.length, bytes: sizeOf(saves), folder: savesFolder(ctx.config), last: last?.at.toISOString() ?? null, problem: last?.problem ?? '' },
  }
}

/** What must not be cleared now: pieces of masters that are being made, by their folders, and pictures of the last trial of each project. */
async function inUse(ctx: Context): Promise<{ folders: Set<string>; trials: readonly string[] }> {
  const tasks = await ctx
    .repo(TaskEntity)
    .find({ where: { kind: 'master', state: In(['waiting', 'held', 'running']) }, select: { id: true, kind: true, payload: true } })
  const ids = tasks.flatMap((t) => productsOf(t).masters)
  const masters = ids.length ? await ctx.repo(MasterEntity).find({ where: { id: In(ids) }, select: { id: true, cutId: true } }) : []
  const trials = await ctx.repo(TaskEntity).find({ where: { kind: 'trial' }, select: { id: true, projectId: true, ord: true }, order: { ord: 'ASC' } })
  const work = join(ctx.config.folder, 'work')
  return {
    folders: new Set(masters.flatMap((m) => [join(work, 'segments', m.cutId), join(work, 'masters', m.id)])),
    trials: [...new Map(trials.map((t) => [t.projectId, t.id])).values()],
  }
}

type InUse = Awaited<ReturnType<typeof inUse>>
const mayGo = (f: FileEntry, used: InUse): boolean =>
  ![...used.folders].some((d) => f.path.startsWith(`${d}/`)) && !used.trials.some((t) => f.path.includes(`/trials/${t}-`))

/** Cuts a log down to its end; its process goes on writing behind it. The end stands at the beginning before the rest goes: at no moment is it nowhere. */
async function shorten(path: string): Promise<void> {
  const file = await open(path, 'r+')
  try {
    const { size } = await file.stat()
    const end = Buffer.alloc(Math.min(size, logEnd))
    await file.read(end, 0, end.length, size - end.length)
    const lines = end.subarray(end.indexOf(10) + 1)
    // Where even that finds no room, the rest goes all the same.
    await file.write(lines, 0, lines.length, 0).catch(() => undefined)
    await file.truncate(lines.length)
  } finally {
    await file.close()
  }
}

const isOldLog = (f: FileEntry): boolean => f.path.endsWith('.1')

/** Removes everything that can be made again and is not in use. Gives the bytes. */
export async function clearWorking(ctx: Context): Promise<number> {
  const used = await inUse(ctx)
  let freed = 0
  for (const kind of Object.keys(kinds) as WorkingKind[])
    for (const f of await ofKind(ctx, kind)) {
      if (kind === 'logs' && !isOldLog(f)) {
        // It is being written to.
        if (f.size <= 2 * logEnd) continue
        await shorten(f.path)
        freed += f.size - logEnd
      } else if (mayGo(f, used)) {
        await rm(f.path, { force: true })
        freed += f.size
      }
    }
  return freed
}

/** Keeps each kind within its limit, the oldest going first; what belongs to a cut that is gone, and what was left half written, goes at once. */
export async function keepWithin(ctx: Context): Promise<void> {
  const used = await inUse(ctx)
  const segments = join(ctx.config.folder, 'work', 'segments')
  const cuts = await readdir(segments).catch(() => [])
  const known = cuts.length
    ? new Set((await ctx.repo(CutEntity).find({ where: { id: In(cuts), removed: false }, select: { id: true } })).map((c) => c.id))
    : new Set()
  for (const cut of cuts) if (!known.has(cut) && !used.folders.has(join(segments, cut))) await rm(join(segments, cut), { recursive: true, force: true })
  for (const kind of ['pictures', 'trials', 'segments'] as const) {
    const files = await ofKind(ctx, kind)
    let total = sizeOf(files)
    for (const f of files.sort((a, b) => a.at - b.at)) {
      const half = /\/[0-9a-f]{40}\.\d+\.\d+$/.test(f.path) && Date.now() - f.at > 3600_000
      if (!half && (total <= kinds[kind].limit || !mayGo(f, used))) continue
      await rm(f.path, { force: true })
      total -= f.size
    }
  }
  for (const f of await ofKind(ctx, 'logs')) if (f.size > longestLog) await shorten(f.path)
}
