/** Places that hold media: which there are, whether they are here, and what is in them. */
import { readdir, realpath, stat, statfs } from 'node:fs/promises'
import { basename, join, resolve, sep } from 'node:path'
import type { Volume } from '@naranja/contract'
import { below, insideOnly, joinBytes, pathText, realNearest, writeWhole } from '@naranja/media'
import { type Context, found, newId, Refusal } from '../platform/index.ts'
import {
  ClipEntity,
  CopyEntity,
  type Gone,
  MasterEntity,
  PlaceEntity,
  PullEntity,
  VolumeEntity,
  VolumePathEntity,
  type VolumeRecord,
} from '../records/index.ts'
import { volumesUsed } from '../store/index.ts'
import { fileWatch } from './files.ts'
import { folderHere, identify, identityHash, locate, markerName, sourcesHere } from './identity.ts'

/** A volume as this machine sees it. */
export interface VolumeStatus {
  readonly volume: VolumeRecord
  /** Where it stands, or last stood. */
  readonly path: Buffer
  /** Why it is away; empty while it is here. */
  readonly cause: string
}

/** A look at every volume holds for so many milliseconds: one request asks several times, and many come at once. */
const lookHolds = 60

const looks = new WeakMap<Context, { at: number; seen: Promise<VolumeStatus[]> }>()

/** Every volume, and where this machine finds it. */
export function seen(ctx: Context): Promise<VolumeStatus[]> {
  const last = looks.get(ctx)
  if (last && Date.now() - last.at < lookHolds) return last.seen
  return lookAgain(ctx)
}

/** The same, looked at now. */
function lookAgain(ctx: Context): Promise<VolumeStatus[]> {
  const now = look(ctx)
  looks.set(ctx, { at: Date.now(), seen: now })
  now.catch(() => looks.delete(ctx))
  return now
}

async function look(ctx: Context): Promise<VolumeStatus[]> {
  const [volumes, paths, here] = await Promise.all([
    ctx.repo(VolumeEntity).find({ order: { label: 'ASC' } }),
    ctx.repo(VolumePathEntity).find(),
    sourcesHere(ctx),
  ])
  // A path of another machine is better than none to name what is away.
  const last = new Map([...paths].sort((a) => (a.machine === ctx.config.machine ? 1 : -1)).map((p) => [p.volumeId, p.path]))
  const all = await Promise.all(volumes.map(async (volume) => ({ volume, ...(await standing(ctx, volume, last.get(volume.id), here)) })))
  const found = JSON.stringify(all.map((s) => [s.volume.id, s.path.toString('latin1'), s.cause]))
  if (found !== lastFound.as) lastFound = { as: found, moves: lastFound.moves + 1 }
  return all
}

/** What the latest look of this process has found, and how often it was another than the one before. */
let lastFound = { as: '', moves: 0 }

/** Moves on whenever a volume has come, gone or moved since it was looked at before; what is derived from where things stand is kept by it. */
export async function placesVersion(ctx: Context): Promise<string> {
  await seen(ctx)
  return String(lastFound.moves)
}

/** Where this machine finds a volume: where a person has said that it stands here, else where it is by what it is known by. */
async function standing(
  ctx: Context,
  volume: VolumeRecord,
  last: Buffer | undefined,
  here: Awaited<ReturnType<typeof sourcesHere>>,
): Promise<{ path: Buffer; cause: string }> {
  const said = ctx.config.mapped[volume.id]
  if (said === undefined) return locate(volume, last, here)
  const path = Buffer.from(said)
  return { path, cause: await folderHere(path) }
}

/** Remembers where this machine sees a volume. */
async function remember(ctx: Context, volumeId: string, path: Buffer): Promise<void> {
  await ctx.repo(VolumePathEntity).upsert({ volumeId, machine: ctx.config.machine, path }, ['volumeId', 'machine'])
  looks.delete(ctx)
}

/** Registers a folder as a volume, or returns the one it is. */
export async function registerVolume(ctx: Context, path: string | Buffer, label?: string): Promise<VolumeRecord> {
  const bytes = Buffer.from(typeof path === 'string' ? resolve(path) : path)
  const repo = ctx.repo(VolumeEntity)
  const is = await identify(ctx, bytes, await sourcesHere(ctx))
  const identity = identityHash(is)
  const known = await repo.findOneBy({ identity })
  if (known) {
    await remember(ctx, known.id, bytes)
    return known
  }
  // A volume known by its path alone until now: from here on by what it has got.
  const byPath = is.kind === 'path' ? null : await repo.findOneBy({ identity: identityHash({ kind: 'path', key: ctx.config.machine, sub: bytes }) })
  if (byPath) {
    await repo.update({ id: byPath.id }, { kind: is.kind, key: is.key, sub: is.sub, identity, removable: is.removable })
    return found(await repo.findOneBy({ id: byPath.id }), 'The volume')
  }
  const taken = new Set((await repo.find()).map((v) => v.label))
  const base = label ?? is.label ?? (basename(pathText(bytes)) || 'Disk')
  let name = base
  for (let n = 2; taken.has(name); n++) name = `${base} ${n}`
  const record: VolumeRecord = { id: newId(), label: name, kind: is.kind, key: is.key, sub: is.sub, identity, removable: is.removable, created: new Date() }
  await repo.insert(record).catch(async (e: { code?: string }) => {
    if (e.code !== 'ER_DUP_ENTRY') throw e
  })
  const volume = (await repo.findOneBy({ identity })) ?? record
  await remember(ctx, volume.id, bytes)
  await ctx.changed(null, 'volumes')
  return volume
}

/** Refuses a card as a place to write to. `instead`: what to do, as a sentence. */
export function refuseCard(volume: Pick<VolumeRecord, 'label' | 'removable'>, instead = 'Choose a place on a drive.'): void {
  if (volume.removable) throw new Refusal('not-allowed', `${volume.label} is a card: nothing is written to cards. ${instead}`)
}

/** Writes a marker by which a volume without an id is known from now on; only when a person asks for it, never on a card. */
export async function markVolume(ctx: Context, id: string): Promise<void> {
  const { volume, path } = await resolvePlace(ctx, id, Buffer.alloc(0))
  if (volume.removable) throw new Refusal('not-allowed', `${volume.label} is a card; nothing is written to cards.`)
  if (volume.kind !== 'path') throw new Refusal('bad-request', `${volume.label} is known by an id already; it needs no marker.`)
  const key = newId()
  const text = { id: key, label: volume.label, note: 'Naranja recognises the folder by this file when it is mounted elsewhere. The file can be deleted.' }
  await writeWhole(joinBytes(path, Buffer.from(markerName)), `${JSON.stringify(text, null, 2)}\n`)
  const is = { kind: 'marker', key, sub: Buffer.alloc(0) } as const
  await ctx.repo(VolumeEntity).update({ id }, { ...is, identity: identityHash(is) })
  looks.delete(ctx)
  await ctx.changed(null, 'volumes')
}

/** Forgets a volume that nothing refers to any more; nothing on it is touched. */
export async function forgetVolume(ctx: Context, id: string): Promise<void> {
  const volume = await volumeOf(ctx, id)
  for (const entity of [ClipEntity, CopyEntity, PullEntity, MasterEntity]) {
    if ((await ctx.repo<{ volumeId: string }>(entity as never).countBy({ volumeId: id })) > 0)
      throw new Refusal('bad-request', `${volume.label} holds media that a project knows; it stays in the list.`)
  }
  await ctx.repo(VolumeEntity).delete({ id })
  await ctx.repo(VolumePathEntity).delete({ volumeId: id })
  await ctx.repo(PlaceEntity).delete({ volumeId: id })
  looks.delete(ctx)
  await ctx.changed(null, 'volumes')
}

export const isWithin = (path: string, folder: string): boolean => path === folder || path.startsWith(folder.endsWith(sep) ? folder : folder + sep)

/** A folder given as text, in full and without links; refused where it is none. */
export async function realFolder(path: string): Promise<string> {
  const real = await realpath(path).catch(() => null)
  if (!real) throw new Refusal('unreadable', `The folder ${path} is not there. Check the path.`)
  const cause = await folderHere(Buffer.from(real))
  if (cause) throw new Refusal('unreadable', `The folder ${path} ${cause}.`)
  return real
}

export const mayUse = (ctx: Context, path: string): boolean =>
  [...ctx.config.roots.map((r) => r.path), ...ctx.config.parents, ...ctx.config.mounts].some((r) => isWithin(path, r))

/** Folders that can be volumes now: the roots, and what stands in the folders in which media are mounted. */
async function candidates(ctx: Context): Promise<{ path: string; label?: string }[]> {
  const { roots, parents, mounts } = ctx.config
  const device = (path: string) =>
    stat(path).then(
      (s) => s.dev,
      () => null,
    )
  const inside = async (parent: string): Promise<{ path: string; label?: string }[]> => {
    const own = mounts.includes(parent) ? await device(parent) : null
    const entries = (await readdir(parent, { withFileTypes: true }).catch(() => [])).filter((e) => e.isDirectory() && !e.name.startsWith('.'))
    const all = await Promise.all(
      entries.map(async (e) => ({ path: join(parent, e.name), apart: own === null || (await device(join(parent, e.name))) !== own })),
    )
    return all.filter((e) => e.apart).map(({ path }) => ({ path }))
  }
  return [...roots, ...(await Promise.all([...parents, ...mounts].map(inside))).flat()]
}

/** Registers what is here now and not known yet, and remembers where what is known stands. Returns what is seen. */
async function discover(ctx: Context): Promise<VolumeStatus[]> {
  let now = await lookAgain(ctx)
  const standing = new Map(now.filter((s) => !s.cause).map((s) => [s.path.toString('latin1'), s.volume]))
  let fresh = false
  const here = await sourcesHere(ctx)
  for (const { path, label } of await candidates(ctx)) {
    const bytes = Buffer.from(resolve(path))
    const known = standing.get(bytes.toString('latin1'))
    // One that is known by its path alone may have been given an id since.
    if ((known && known.kind !== 'path') || (await folderHere(bytes))) continue
    if (known && (await identify(ctx, bytes, here)).kind === 'path') continue
    await registerVolume(ctx, bytes, label)
    fresh = true
  }
  if (fresh) now = await lookAgain(ctx)
  const last = new Map((await ctx.repo(VolumePathEntity).findBy({ machine: ctx.config.machine })).map((p) => [p.volumeId, p.path]))
  for (const s of now) if (!s.cause && !last.get(s.volume.id)?.equals(s.path)) await remember(ctx, s.volume.id, s.path)
  return now
}

/** Which volumes are away, with the cause. */
export async function awayVolumes(ctx: Context): Promise<Map<string, string>> {
  return new Map((await seen(ctx)).flatMap(({ volume: v, path, cause }) => (cause ? [[v.id, `${pathText(path)} ${cause}`] as const] : [])))
}

/** Roots of the volumes that are here, by id. */
export const rootsHere = async (ctx: Context): Promise<Map<string, Buffer>> => rootsOf(await seen(ctx))
const rootsOf = (all: readonly VolumeStatus[]): Map<string, Buffer> =>
  new Map(all.flatMap(({ volume: v, path, cause }) => (cause ? [] : [[v.id, path] as const])))

/** From now on this process opens as media only what stands on a volume that is here, or in the instance's folder. */
export const stayInside = (ctx: Context): void =>
  insideOnly(async (fresh) => {
    if (fresh) await lookAgain(ctx)
    return [Buffer.from(ctx.config.folder), ...(await rootsHere(ctx)).values()]
  })

/** What every volume is called, and where it stands or last stood. */
export async function volumeNames(ctx: Context): Promise<{ labels: Map<string, string>; roots: Map<string, Buffer> }> {
  const all = await seen(ctx)
  return { labels: new Map(all.map((s) => [s.volume.id, s.volume.label])), roots: new Map(all.map((s) => [s.volume.id, s.path])) }
}

/**
 * Every volume; with `projectId` those that concern it: its own, what is mounted or configured here, and what no project has used yet, but not
 * those that only others have used.
 */
export async function listVolumes(ctx: Context, projectId?: string): Promise<Volume[]> {
  const found = await discover(ctx)
  const [used, standing] = await Promise.all([volumesUsed(ctx.db), candidates(ctx)])
  const offered = new Set(standing.map((c) => resolve(c.path)))
  const ofOthers = (id: string): boolean => used.some((u) => u.volumeId === id) && !used.some((u) => u.volumeId === id && u.projectId === projectId)
  const all = projectId ? found.filter((s) => !ofOthers(s.volume.id) || (!s.cause && offered.has(pathText(s.path)))) : found
  const byId = new Map<string, number>()
  for (const u of used) if (!projectId || u.projectId === projectId) byId.set(u.volumeId, (byId.get(u.volumeId) ?? 0) + u.clips)
  return Promise.all(
    all.map(async ({ volume: v, path: at, cause }): Promise<Volume> => {
      const space = cause ? null : await statfs(at).catch(() => null)
      const path = pathText(at)
      return {
        id: v.id,
        label: v.label,
        path,
        here: !cause,
        cause: cause ? `${path} ${cause}` : '',
        knownBy: v.kind,
        removable: v.removable,
        free: space ? space.bavail * space.bsize : null,
        size: space ? space.blocks * space.bsize : null,
        clips: byId.get(v.id) ?? 0,
      }
    }),
  )
}

/** Milliseconds from one look at volumes and files to the next, at least and at most. */
const pause = { least: 1000, most: 8000 }
/** The share of the time that looking may take. */
const share = 0.05

/** By what a card that was put in is told from itself as it was in before: it may have been out between two looks (stat(2)). */
async function putIn(path: Buffer): Promise<string> {
  const is = await stat(path, { bigint: true }).catch(() => null)
  return is ? `${is.dev} ${is.ino} ${is.birthtimeNs}` : ''
}

/** Watches volumes, and files of projects on them, come and go, a look a second, or fewer where a look takes long; the API pushes the change. */
export function watchVolumes(
  ctx: Context,
  told: {
    arrived(volumeId: string): Promise<void>
    gone(projectId: string, clips: readonly { id: string; gone: Gone }[]): Promise<void>
    changed(): Promise<void>
    failed(e: Error): void
  },
): () => void {
  const files = fileWatch(ctx)
  let before = ''
  let standing: ReadonlyMap<string, string> | null = null
  let ended = false
  let timer: NodeJS.Timeout
  const look = async (): Promise<void> => {
    const began = performance.now()
    let looking = 0
    try {
      const all = await discover(ctx)
      const now = JSON.stringify(all.map((s) => [s.volume.id, s.cause, s.path.toString('latin1')]))
      const turned = await files(rootsOf(all))
      const cards = new Map(await Promise.all(all.filter((s) => s.volume.removable && !s.cause).map(async (s) => [s.volume.id, await putIn(s.path)] as const)))
      // Cards that are in when the application starts have not arrived; they were there.
      const come = standing ? [...cards].filter(([id, at]) => standing?.get(id) !== at) : []
      looking = performance.now() - began
      const changed = now !== before || turned.size > 0 || come.length > 0
      // What is worked out from lists follows them at once.
      if ((before && changed) || turned.size > 0) await ctx.changed(null, 'volumes', 'clips', 'links', 'copies')
      for (const [id, clips] of turned) if (clips.length > 0) await told.gone(id, clips)
      before = now
      standing = cards
      for (const [id] of come) await told.arrived(id)
      if (changed) await told.changed()
    } catch (e) {
      // The next look tells; while the application ends nobody asks any more.
      if (!ended) told.failed(e as Error)
    }
    if (!ended) timer = setTimeout(look, Math.min(pause.most, Math.max(pause.least, (looking || performance.now() - began) / share)))
  }
  timer = setTimeout(look, pause.least)
  return () => {
    ended = true
    clearTimeout(timer)
  }
}

export const volumeOf = async (ctx: Context, id: string): Promise<VolumeRecord> => found(await ctx.repo(VolumeEntity).findOneBy({ id }), 'The volume')

/** The full path of a place on a volume. Refuses what leads out of it, by `..` or by a link. */
export async function resolvePlace(ctx: Context, volumeId: string, relative: Uint8Array): Promise<{ volume: VolumeRecord; root: Buffer; path: Buffer }> {
  const volume = await volumeOf(ctx, volumeId)
  const text = Buffer.from(relative)
  if (text.includes(0) || text.toString('latin1').split('/').includes('..') || text[0] === 47)
    throw new Refusal('not-allowed', 'The path leads out of its volume.')
  const last = await ctx.repo(VolumePathEntity).findOneBy({ volumeId, machine: ctx.config.machine })
  const at = await standing(ctx, volume, last?.path, await sourcesHere(ctx))
  const path = joinBytes(at.path, text)
  if (at.cause) throw new Refusal('away', `The volume ${volume.label} is away: ${pathText(at.path)} ${at.cause}. Connect it and try again.`)
  const [root, real] = await Promise.all([realpath(at.path, { encoding: 'buffer' }), realNearest(path)])
  if (below(real, root) === null) throw new Refusal('not-allowed', 'The path leads out of its volume.')
  return { volume, root: at.path, path }
}
