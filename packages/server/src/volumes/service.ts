/** Places that hold media: which there are, whether they are here, and what is in them. */
import { createHash } from 'node:crypto'
import type { Dirent } from 'node:fs'
import { readdir, realpath, stat, statfs } from 'node:fs/promises'
import { basename, join, resolve, sep } from 'node:path'
import type { FolderListing, Volume } from '@naranja/contract'
import { joinBytes, parentOf, pathText } from '@naranja/media'
import { type Context, newId } from '../context.ts'
import { found, Refusal } from '../errors.ts'
import { ClipEntity, CopyEntity, MasterEntity, PullEntity, VolumeEntity, type VolumeRecord } from '../store/index.ts'

export const hashOf = (b: Uint8Array | string): string => createHash('sha1').update(b).digest('hex')
export const refOf = (path: Uint8Array): string => Buffer.from(path).toString('base64url')
export const fromRef = (ref: string): Buffer => Buffer.from(ref, 'base64url')

const folderHere = (path: Uint8Array): Promise<string> =>
  stat(Buffer.from(path)).then(
    (s) => (s.isDirectory() ? '' : 'is no folder'),
    (e: NodeJS.ErrnoException) => (e.code === 'ENOENT' ? 'is not there' : e.code === 'EACCES' ? 'may not be read' : `cannot be reached (${e.code})`),
  )

/** Registers a folder as a volume, or returns the one it is. */
export async function registerVolume(ctx: Context, path: string, label?: string): Promise<VolumeRecord> {
  const bytes = Buffer.from(resolve(path))
  const repo = ctx.repo(VolumeEntity)
  const pathHash = hashOf(bytes)
  const known = await repo.findOneBy({ pathHash })
  if (known) return known
  const taken = new Set((await repo.find()).map((v) => v.label))
  let name = label ?? (basename(path) || 'Disk')
  for (let n = 2; taken.has(name); n++) name = `${label ?? basename(path)} ${n}`
  const record: VolumeRecord = { id: newId(), label: name, path: bytes, pathHash, created: new Date() }
  await repo.insert(record).catch(async (e: { code?: string }) => {
    if (e.code !== 'ER_DUP_ENTRY') throw e
  })
  await ctx.changed(null, 'volumes')
  return (await repo.findOneBy({ pathHash })) ?? record
}

/** Forgets a volume that nothing refers to any more; nothing on it is touched. */
export async function forgetVolume(ctx: Context, id: string): Promise<void> {
  const volume = await volumeOf(ctx, id)
  for (const entity of [ClipEntity, CopyEntity, PullEntity, MasterEntity]) {
    if ((await ctx.repo<{ volumeId: string }>(entity as never).countBy({ volumeId: id })) > 0)
      throw new Refusal('bad-request', `${volume.label} holds media that a project knows; it stays in the list.`)
  }
  await ctx.repo(VolumeEntity).delete({ id })
  await ctx.changed(null, 'volumes')
}

/** A path given as text, made a volume if it lies within the configured roots (or the caller holds the key). */
export async function openFolder(ctx: Context, path: string, trusted: boolean, label?: string): Promise<VolumeRecord> {
  const real = await realpath(path).catch(() => null)
  if (!real) throw new Refusal('unreadable', `The folder ${path} is not there. Check the path.`)
  const cause = await folderHere(Buffer.from(real))
  if (cause) throw new Refusal('unreadable', `The folder ${path} ${cause}.`)
  const within = [...ctx.config.roots.map((r) => r.path), ...ctx.config.parents, ...ctx.config.mounts].some(
    (r) => real === r || real.startsWith(r.endsWith(sep) ? r : r + sep),
  )
  if (!within && !trusted)
    throw new Refusal(
      'not-allowed',
      `${path} lies outside the folders that Naranja may use. Allowed are ${ctx.config.roots.map((r) => r.path).join(', ')} and mounted media.`,
    )
  return registerVolume(ctx, real, label)
}

/** Registers what is mounted now: the roots, and the folders in which media are mounted. */
async function discover(ctx: Context): Promise<void> {
  const known = new Set((await ctx.repo(VolumeEntity).find()).map((v) => pathText(v.path)))
  for (const root of ctx.config.roots)
    if (!known.has(resolve(root.path)) && !(await folderHere(Buffer.from(root.path)))) await registerVolume(ctx, root.path, root.label)
  for (const parent of [...ctx.config.parents, ...ctx.config.mounts]) {
    const device = ctx.config.mounts.includes(parent)
      ? await stat(parent).then(
          (s) => s.dev,
          () => null,
        )
      : null
    const entries = await readdir(parent, { withFileTypes: true }).catch(() => [])
    for (const e of entries) {
      const path = join(parent, e.name)
      if (
        e.isDirectory() &&
        !e.name.startsWith('.') &&
        !known.has(path) &&
        (device === null ||
          (await stat(path).then(
            (s) => s.dev,
            () => device,
          )) !== device)
      )
        await registerVolume(ctx, path, e.name)
    }
  }
}

/** Which volumes are away, with the cause. */
export async function awayVolumes(ctx: Context): Promise<Map<string, string>> {
  const volumes = await ctx.repo(VolumeEntity).find()
  const causes = await Promise.all(volumes.map((v) => folderHere(v.path)))
  return new Map(volumes.flatMap((v, i) => (causes[i] ? [[v.id, `${pathText(v.path)} ${causes[i]}`] as const] : [])))
}

export async function listVolumes(ctx: Context): Promise<Volume[]> {
  await discover(ctx)
  const volumes = await ctx.repo(VolumeEntity).find({ order: { label: 'ASC' } })
  const counts = await ctx
    .repo(ClipEntity)
    .createQueryBuilder('c')
    .select('c.volumeId', 'id')
    .addSelect('COUNT(*)', 'n')
    .where('c.removed = 0')
    .groupBy('c.volumeId')
    .getRawMany<{ id: string; n: string }>()
  const byId = new Map(counts.map((c) => [c.id, Number(c.n)]))
  return Promise.all(
    volumes.map(async (v): Promise<Volume> => {
      const cause = await folderHere(v.path)
      const space = cause ? null : await statfs(Buffer.from(v.path)).catch(() => null)
      const path = pathText(v.path)
      return {
        id: v.id,
        label: v.label,
        path,
        here: !cause,
        cause: cause ? `${path} ${cause}` : '',
        free: space ? space.bavail * space.bsize : null,
        size: space ? space.blocks * space.bsize : null,
        clips: byId.get(v.id) ?? 0,
      }
    }),
  )
}

/** Watches volumes come and go; the API pushes the change. */
export function watchVolumes(ctx: Context): () => void {
  let before = ''
  let busy = false
  const timer = setInterval(async () => {
    if (busy) return
    busy = true
    try {
      await discover(ctx)
      const now = JSON.stringify([...(await awayVolumes(ctx)).keys()])
      if (before && now !== before) await ctx.changed(null, 'volumes', 'clips', 'links')
      before = now
    } catch {
      // The database may be closing; the next round tells.
    } finally {
      busy = false
    }
  }, 1000)
  return () => clearInterval(timer)
}

export const volumeOf = async (ctx: Context, id: string): Promise<VolumeRecord> => found(await ctx.repo(VolumeEntity).findOneBy({ id }), 'The volume')

/** The full path of a place on a volume. Refuses what leads out of it, by `..` or by a link. */
export async function resolvePlace(ctx: Context, volumeId: string, relative: Uint8Array): Promise<{ volume: VolumeRecord; path: Buffer }> {
  const volume = await volumeOf(ctx, volumeId)
  const text = Buffer.from(relative)
  if (text.includes(0) || text.toString('latin1').split('/').includes('..') || text[0] === 47)
    throw new Refusal('not-allowed', 'The path leads out of its volume.')
  const path = joinBytes(volume.path, text)
  const cause = await folderHere(volume.path)
  if (cause) throw new Refusal('away', `The volume ${volume.label} is away: ${pathText(volume.path)} ${cause}. Connect it and try again.`)
  const [root, real] = await Promise.all([realpath(volume.path, { encoding: 'buffer' }), realpath(path, { encoding: 'buffer' }).catch(() => path)])
  const prefix = root.toString('latin1')
  const inside = real.toString('latin1')
  if (inside !== prefix && !inside.startsWith(prefix.endsWith('/') ? prefix : `${prefix}/`))
    throw new Refusal('not-allowed', 'The path leads out of its volume.')
  return { volume, path }
}

/** A path to write below a volume, given as text. */
export async function resolveTarget(ctx: Context, volumeId: string, folder: string): Promise<{ volume: VolumeRecord; path: string }> {
  const clean = folder
    .split('/')
    .filter((s) => s !== '' && s !== '.')
    .join('/')
  const { volume, path } = await resolvePlace(ctx, volumeId, Buffer.from(clean))
  return { volume, path: pathText(path) }
}

const mediaEnding = /\.(mov|mp4|m4v|mxf|mkv|avi|mts|wav|bwf|aiff?|png|dpx|tiff?|exr|dng|edl|otio|csv)$/i

/** One folder of a volume, folders first; at most 2,000 entries. */
export async function browse(ctx: Context, volumeId: string, ref: string): Promise<FolderListing> {
  const relative = fromRef(ref)
  const { path } = await resolvePlace(ctx, volumeId, relative)
  let entries: Dirent<Buffer>[]
  try {
    entries = (await readdir(path, { withFileTypes: true, encoding: 'buffer' })) as unknown as Dirent<Buffer>[]
  } catch (e) {
    const code = (e as NodeJS.ErrnoException).code
    throw new Refusal(
      'unreadable',
      code === 'EACCES'
        ? `The folder ${pathText(path)} may not be read (permission denied). Give this user the right to read it.`
        : `The folder ${pathText(path)} could not be read (${code}).`,
    )
  }
  const shown = entries
    .filter((e) => e.name[0] !== 46 && (e.isDirectory() || e.isFile()))
    .sort((a, b) => Number(b.isDirectory()) - Number(a.isDirectory()) || Buffer.compare(a.name, b.name))
  const list = await Promise.all(
    shown.slice(0, 2000).map(async (e) => {
      const at = joinBytes(relative, e.name)
      const name = pathText(e.name)
      return {
        ref: refOf(at),
        name,
        folder: e.isDirectory(),
        size: e.isFile()
          ? await stat(joinBytes(path, e.name)).then(
              (s) => s.size,
              () => null,
            )
          : null,
        media: e.isFile() && mediaEnding.test(name),
      }
    }),
  )
  return { volumeId, ref, path: pathText(path), parent: ref === '' ? null : refOf(parentOf(relative)), entries: list, truncated: shown.length > 2000 }
}
