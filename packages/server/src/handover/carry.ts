/** Edit copies, pulls and masters carried elsewhere: moved for good, or collected into one folder as a hand-over. */
import { readdir, rm, stat } from 'node:fs/promises'
import { basename, dirname, join, posix } from 'node:path'
import type { CarryAsk, CarryPlan, LogLayoutShape, Started } from '@naranja/contract'
import { plainLayout } from '@naranja/core/cliplog'
import type { ListedFile } from '@naranja/xml/mhl'
import { safeFileName } from '@naranja/core/naming'
import type { Spec } from '@naranja/core/specs'
import {
  addGeneration,
  carryFile,
  type CarriedFile,
  deviceOf,
  exists,
  makeFolder,
  pathText,
  putInPlace,
  removeEmpty,
  type Root,
  rootAt,
  sideFilePath,
  writeWhole,
} from '@naranja/media'
import { In } from 'typeorm'
import { clipsOfCut, Numbers } from '../copies/index.ts'
import { usedClips } from '../cuts/index.ts'
import { alone } from '../history/index.ts'
import { logFiles, nowhere } from '../originals/index.ts'
import { type Context, plural, Refusal } from '../platform/index.ts'
import { isElsewhere, specVersion } from '../specs/index.ts'
import { payloadOf, type Payload, ClipEntity, type ClipRecord, CopyEntity, type CopyRecord, MasterEntity, ProjectEntity, PullEntity } from '../records/index.ts'
import { isLight } from '../store/index.ts'
import { type RunTask, startBatch } from '../tasks/index.ts'
import { refuseTooLarge, rememberTarget, resolvePlace, resolveTarget, roomAt, rootsHere, tidyFolder, writableTarget } from '../volumes/index.ts'
import { filesOfClip, isCollected, seatOfClip, seatOfCopy, writeCollectedLists } from './collect.ts'

type Thing = Payload<'carry'>['list'][number]

/** Files of a copy, on its volume. */
async function filesOfCopy(root: string, c: CopyRecord): Promise<string[]> {
  const numbered = c.facts?.sequence != null
  const folder = dirname(c.path)
  const own = numbered
    ? (await readdir(join(root, folder))).sort().map((f) => join(folder, f))
    : [c.path, ...(c.facts?.soundFiles ?? []).map((s) => join(folder, s))]
  const beside = sideFilePath(c.path, numbered)
  return (await exists(join(root, beside))) ? [...own, beside] : own
}

/** The folders that all of these have in common, from the first on. */
function commonFolder(paths: readonly string[]): string {
  const parts = paths.map((p) => dirname(p).split('/'))
  const first = parts[0] ?? []
  let n = 0
  while (n < first.length && parts.every((p) => p[n] === first[n])) n++
  return first.slice(0, n).join('/')
}

async function things(ctx: Context, projectId: string, ask: CarryAsk): Promise<{ list: Thing[]; left: CarryPlan['left']; name: string }> {
  const roots = await rootsHere(ctx)
  const left: CarryPlan['left'] = []
  const list: Thing[] = []
  const { things: what } = ask
  const add = async (t: Omit<Thing, 'files'>, files: readonly string[], to: (file: string) => string) => {
    const root = pathText(roots.get(t.volumeId) ?? Buffer.alloc(0))
    const sized = await Promise.all(files.map(async (from) => ({ from, to: to(from), size: (await stat(join(root, from)).catch(() => null))?.size ?? -1 })))
    const gone = sized.find((f) => f.size < 0)
    if (gone) left.push({ name: t.name, reason: `${basename(gone.from)} is not there any more` })
    else list.push({ ...t, files: sized })
  }
  if (what.what === 'copies') {
    const [used, of] = await Promise.all([usedClips(ctx, projectId), what.cutId ? clipsOfCut(ctx, what.cutId) : null])
    const copies = (await ctx.repo(CopyEntity).findBy({ projectId, spec: what.spec, state: 'checked' }))
      .filter((c) => (!of || of.has(c.clipId)) && !(what.unusedOnly && used.clips.has(c.clipId)))
      .sort((a, b) => (a.path < b.path ? -1 : 1))
    const clips = new Map((copies.length ? await ctx.repo(ClipEntity).findBy({ id: In([...new Set(copies.map((c) => c.clipId))]) }) : []).map((c) => [c.id, c]))
    const here = copies.filter((c) => roots.has(c.volumeId))
    for (const c of copies) if (!roots.has(c.volumeId)) left.push({ name: clips.get(c.clipId)?.name ?? c.path, reason: 'its volume is away' })
    // A copy's own folder of pictures goes with it.
    const seat = (c: CopyRecord) => (c.facts?.sequence ? dirname(c.path) : c.path)
    const common = commonFolder(here.map(seat))
    const [first] = here
    const spec: Spec | null = first && !isElsewhere(what.spec) ? await specVersion(ctx, first.spec, first.specVersion) : null
    const numbers = new Numbers()
    for (const c of here) {
      const below = posix.relative(common, dirname(seat(c)))
      // Folders by numbers only, where the receiving program wants them so.
      const folder = spec?.receiver.digitFolders && ask.how === 'hand-over' ? numbers.of(below) : below
      const strip = dirname(seat(c))
      const to = (file: string) => posix.join(folder, posix.relative(strip, file))
      const name = clips.get(c.clipId)?.name ?? c.path
      await add(
        { id: c.id, kind: 'copies', name, clipId: c.clipId, volumeId: c.volumeId, path: c.path, to: to(c.path) },
        await filesOfCopy(pathText(roots.get(c.volumeId) ?? Buffer.alloc(0)), c),
        to,
      )
    }
    return { list, left, name: first?.specName ?? 'copies' }
  }
  if (what.what === 'project') {
    const of = what.cutId ? await clipsOfCut(ctx, what.cutId) : null
    const clips = (await ctx.repo(ClipEntity).findBy({ projectId, removed: false })).filter(
      (c) => c.volumeId !== nowhere && !isLight(c) && (!of || of.has(c.id)),
    )
    const byId = new Map(clips.map((c) => [c.id, c]))
    const away = (volumeId: string, name: string): boolean => {
      if (!roots.has(volumeId)) left.push({ name, reason: 'its volume is away' })
      return !roots.has(volumeId)
    }
    for (const c of what.kinds.includes('originals') ? clips : []) {
      if (away(c.volumeId, c.name)) continue
      const path = pathText(c.path)
      const to = (file: string) => posix.join(seatOfClip(c), posix.relative(dirname(path), file))
      await add({ id: c.id, kind: 'project', name: c.name, clipId: c.id, volumeId: c.volumeId, path, to: to(path) }, filesOfClip(c), to)
    }
    const copies = await ctx.repo(CopyEntity).findBy({ projectId, state: 'checked' })
    for (const c of copies.sort((a, b) => (a.path < b.path ? -1 : 1))) {
      const clip = byId.get(c.clipId)
      if (!clip || !isCollected(c, what.kinds) || away(c.volumeId, clip.name)) continue
      const above = dirname(c.facts?.sequence ? dirname(c.path) : c.path)
      const to = (file: string) => posix.join(seatOfCopy(c, clip), posix.relative(above, file))
      await add(
        { id: c.id, kind: 'project', name: clip.name, clipId: clip.id, volumeId: c.volumeId, path: c.path, to: to(c.path) },
        await filesOfCopy(pathText(roots.get(c.volumeId) ?? Buffer.alloc(0)), c),
        to,
      )
    }
    const project = await ctx.repo(ProjectEntity).findOneBy({ id: projectId })
    return { list, left, name: project?.name ?? 'project' }
  }
  const records =
    what.what === 'pulls'
      ? await ctx.repo(PullEntity).findBy({ projectId, state: 'checked' })
      : await ctx.repo(MasterEntity).findBy({ projectId, state: 'verified' })
  const here = records.filter((r) => roots.has(r.volumeId))
  for (const r of records) if (!roots.has(r.volumeId)) left.push({ name: basename(r.path), reason: 'its volume is away' })
  const common = commonFolder(here.map((r) => r.path))
  for (const r of here) {
    const to = (file: string) => posix.relative(common, file)
    await add(
      { id: r.id, kind: what.what, name: basename(r.path), clipId: 'clipId' in r ? r.clipId : null, volumeId: r.volumeId, path: r.path, to: to(r.path) },
      [r.path],
      to,
    )
  }
  return { list, left, name: what.what }
}

/** The folder that a hand-over stands in. */
const targetFolder = (ask: CarryAsk, name: string): string =>
  [tidyFolder(ask.folder), ...(ask.how === 'hand-over' ? [safeFileName(`Hand-over ${name}`)] : [])].filter(Boolean).join('/')

export async function planCarry(ctx: Context, projectId: string, ask: CarryAsk): Promise<CarryPlan> {
  const { list, left, name } = await things(ctx, projectId, ask)
  const folder = targetFolder(ask, name)
  const { path } = await resolveTarget(ctx, ask.volumeId, folder)
  const files = list.flatMap((t) => t.files)
  return {
    things: list.length,
    files: files.length,
    bytes: files.reduce((n, f) => n + f.size, 0),
    ...(await roomAt(path)),
    folder: path,
    left: left.slice(0, 50),
    paths: files.slice(0, 12).map((f) => f.to),
  }
}

export const startCarry = alone(async (ctx: Context, projectId: string, ask: CarryAsk): Promise<Started> => {
  if (ask.things.what === 'project' && ask.how === 'move')
    throw new Refusal('bad-request', 'Originals can be collected, but are never moved. Copies can be moved spec by spec.')
  const { list, left, name } = await things(ctx, projectId, ask)
  if (list.length === 0)
    throw new Refusal(
      'bad-request',
      left[0] ? `Nothing can be moved or collected: ${left[0].name}: ${left[0].reason}.` : 'There is nothing to move or collect.',
    )
  const folder = targetFolder(ask, name)
  const { path } = await writableTarget(ctx, { volumeId: ask.volumeId, folder })
  const bytes = list.reduce((n, t) => n + t.files.reduce((m, f) => m + f.size, 0), 0)
  const roots = await rootsHere(ctx)
  const [there, ...from] = await Promise.all(
    [path, ...[...new Set(list.map((t) => t.volumeId))].map((id) => pathText(roots.get(id) ?? Buffer.alloc(0)))].map((p) => deviceOf(p)),
  )
  const within = ask.how === 'move' && from.every((d) => d === there)
  if (!within) refuseTooLarge(bytes, await roomAt(path), 'Choose another place.')
  if (ask.how === 'move' && list.every((t) => t.volumeId === ask.volumeId && t.path === join(folder, t.to)))
    throw new Refusal('bad-request', 'They stand there already.')
  const doing = ask.how === 'move' ? `Move ${name}` : `Hand over ${name}`
  const payload: Payload<'carry'> = { ask, folder, list }
  await rememberTarget(ctx, projectId, ask.how === 'move' ? 'moves' : 'hand-overs', ask)
  return startBatch(
    ctx,
    projectId,
    'carry',
    `${doing}: ${plural(list.length, 'file')}`,
    [{ label: doing, payload, total: bytes, unit: 'bytes', cost: 1 }],
    `${doing} to ${path}.`,
  )
})

const entities = { copies: CopyEntity, pulls: PullEntity, masters: MasterEntity } as const
type Moved = keyof typeof entities

export const runCarry: RunTask = async (ctx, task, { signal, progress }) => {
  const { ask, folder, list } = payloadOf('carry', task)
  const { root: at } = await resolvePlace(ctx, ask.volumeId, Buffer.alloc(0))
  const root = await rootAt(at)
  const base = join(pathText(at), folder)
  const roots = await rootsHere(ctx)
  const total = list.reduce((n, t) => n + t.files.reduce((m, f) => m + f.size, 0), 0)
  let done = 0
  const carried = new Map<string, CarriedFile>()
  for (const t of list) {
    signal.throwIfAborted()
    const from = roots.get(t.volumeId)
    if (!from) throw new Error(`The volume of ${t.name} is away. Connect it and try again; what was copied already is not copied again.`)
    const source = (f: string) => join(pathText(from), f)
    const repo = ctx.repo<{ id: string; volumeId: string; path: string; gone?: boolean }>(entities[t.kind as Moved] as never)
    if (ask.how === 'move') {
      const now = await repo.findOneBy({ id: t.id })
      const home = join(folder, t.to)
      // Deleted or moved by somebody meanwhile: it is left where it is.
      if (!now || (now.path !== t.path && now.path !== home)) continue
      if (now.path === home && now.volumeId === ask.volumeId) await removeOld(t, source, base)
      else {
        for (const f of t.files) await moveFile(source(f.from), join(base, f.to), root, task.id, signal)
        await repo.update({ id: t.id }, { volumeId: ask.volumeId, path: home, ...(t.kind === 'copies' ? { gone: false } : {}) })
        await removeOld(t, source, base)
      }
    } else for (const f of t.files) carried.set(f.to, await carryFile(source(f.from), join(base, f.to), root, task.id, { signal }))
    done += t.files.reduce((n, f) => n + f.size, 0)
    progress(done, total)
  }
  await ctx.changed(task.projectId, 'copies', 'clips', 'pulls', 'masters')
  if (ask.how === 'move') return { message: `${plural(list.length, 'thing')} moved to ${base}.` }
  const { things: what } = ask
  const lists =
    what.what === 'project' ? await writeCollectedLists(ctx, task.projectId, { kinds: what.kinds, cutId: what.cutId, volumeId: ask.volumeId, folder, base }) : 0
  await writeContents(ctx, task.projectId, ask, list, carried, base)
  const listed = lists ? `, ${plural(lists, 'list')} of the cut` : ''
  return {
    message: `${plural(list.length, what.what === 'project' ? 'clip or copy' : 'copy', what.what === 'project' ? 'clips and copies' : 'copies')} collected in ${base}, with log${listed} and checksums.`,
  }
}

/** Moves one file: by its name where both places are on one file system, else carried. What was moved before is left as it is. */
async function moveFile(from: string, to: string, root: Root, who: string, signal: AbortSignal): Promise<void> {
  if (from === to || (!(await exists(from)) && (await exists(to)))) return
  if ((await deviceOf(from)) === (await deviceOf(dirname(to))) && !(await exists(to))) {
    await makeFolder(dirname(to), root)
    await putInPlace(from, to)
  } else await carryFile(from, to, root, who, { signal })
}

/** Takes away what was moved, and the folders below the volume that are empty then; a file that stands there and is not in the new place stays. */
async function removeOld(t: Thing, source: (f: string) => string, base: string): Promise<void> {
  for (const f of t.files) {
    const [old, next] = [source(f.from), join(base, f.to)]
    if (old !== next && (await exists(next))) await rm(old, { force: true })
  }
  await removeEmpty(source(dirname(t.path)), source('.'), 6)
}

/** The table of contents, the clip log and the checksums of a hand-over. */
async function writeContents(
  ctx: Context,
  projectId: string,
  ask: CarryAsk,
  list: readonly Thing[],
  carried: ReadonlyMap<string, CarriedFile>,
  base: string,
): Promise<void> {
  const ids = [...new Set(list.flatMap((t) => t.clipId ?? []))]
  const clips = ids.length ? await ctx.repo(ClipEntity).findBy({ id: In(ids) }) : []
  const byId = new Map(clips.map((c) => [c.id, c]))
  const rows = list.flatMap((t) => {
    const clip = t.clipId ? byId.get(t.clipId) : undefined
    return clip ? [{ clip, t }] : []
  })
  const more = (_: ClipRecord, i: number) => {
    const t = rows[i]?.t
    return { copy: t?.to, checksum: t && carried.get(t.to)?.digest }
  }
  const contents: LogLayoutShape = {
    ...plainLayout,
    name: 'Contents',
    headings: [],
    columns: (['copy', 'checksum', 'file', 'reel', 'start', 'end', 'frames', 'rate'] as const).map((field) => ({ field, head: heads[field] })),
  }
  const layouts = [contents, ...(ask.log ? [ask.log] : [])]
  for (const layout of layouts)
    for (const f of await logFiles(
      ctx,
      projectId,
      layout,
      rows.map((r) => r.clip),
      more,
    ))
      await writeWhole(join(base, f.name), f.text)
  const now = new Date().toISOString()
  const files: ListedFile[] = []
  for (const t of list)
    for (const f of t.files) {
      const c = carried.get(f.to)
      const modified = (await stat(join(base, f.to))).mtime.toISOString()
      if (c) files.push({ path: f.to, size: c.size, modified, digests: [{ format: 'xxh64', value: c.digest, action: 'original', date: now }] })
    }
  await addGeneration(Buffer.from(base), ask.how === 'hand-over' ? 'transfer' : 'in-place', files, [])
}
const heads = { copy: 'Copy', checksum: 'xxh64', file: 'Original', reel: 'Reel', start: 'Start', end: 'End', frames: 'Frames', rate: 'Rate' } as const
