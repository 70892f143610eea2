/** Folders that people open, type or look into. */
import type { Dirent } from 'node:fs'
import { stat } from 'node:fs/promises'
import { basename, resolve } from 'node:path'
import type { FolderListing, TypedPlace } from '@naranja/contract'
import { below, joinBytes, mountPoint, parentOf, pathText, readFolder } from '@naranja/media'
import { type Context, Refusal } from '../platform/index.ts'
import type { VolumeRecord } from '../records/index.ts'
import { folderHere } from './identity.ts'
import { refOf, fromRef, tidyFolder } from './refs.ts'
import { seen, registerVolume, isWithin, realFolder, mayUse, resolvePlace } from './service.ts'

const outside = (ctx: Context, path: string): Refusal =>
  new Refusal(
    'not-allowed',
    `${path} lies outside the folders that Naranja may use. Allowed are ${ctx.config.roots.map((r) => r.path).join(', ')} and mounted media.`,
  )

/** A path given as text, made a volume if it lies within the configured roots (or the caller holds the key). */
export async function openFolder(ctx: Context, path: string, trusted: boolean, label?: string): Promise<VolumeRecord> {
  const real = await realFolder(path)
  if (!trusted && !mayUse(ctx, real)) throw outside(ctx, path)
  return registerVolume(ctx, real, label)
}

/**
 * The place that a typed path is: on the volume that holds it, else on the mount it stands on, which becomes a volume. Only whoever holds the
 * key may name a folder of the system's own drive that is on no volume; it becomes one.
 */
export async function typedPlace(ctx: Context, path: string, trusted: boolean): Promise<TypedPlace> {
  const real = await realFolder(path)
  if (!trusted && !mayUse(ctx, real)) throw outside(ctx, path)
  const mount = await mountPoint(real)
  const holding = (await seen(ctx)).filter((s) => !s.cause && isWithin(real, pathText(s.path)))
  const nearest = holding.sort((a, b) => b.path.length - a.path.length)[0]
  const on =
    nearest && isWithin(pathText(nearest.path), mount)
      ? nearest
      : await registerVolume(ctx, mount === '/' || !(trusted || mayUse(ctx, mount)) ? real : mount).then(async (v) =>
          (await seen(ctx)).find((s) => s.volume.id === v.id),
        )
  const folder = on && below(Buffer.from(real), on.path)
  if (!on || !folder) throw new Refusal('unreadable', `The folder ${path} is on no volume that is here. Check the path.`)
  return { volumeId: on.volume.id, ref: refOf(folder), folder: pathText(folder), name: folder.length ? basename(real) : on.volume.label }
}

/** Refuses a full path where one below a volume is meant: written below it, it would stand where nobody looks. */
async function refuseFullPath(ctx: Context, volumeId: string, folder: string): Promise<void> {
  const first = folder.startsWith('/') ? `/${tidyFolder(folder).split('/')[0]}` : '/'
  if (first === '/' || (await folderHere(Buffer.from(first)))) return
  const on = (await seen(ctx)).find((s) => s.volume.id === volumeId)
  const rest = on && below(Buffer.from(resolve(folder)), on.path)
  throw new Refusal(
    'bad-request',
    `${folder.slice(0, 200)} is a full path of this machine, and a folder of ${on?.volume.label ?? 'the volume'} is meant. ${
      rest?.length ? `Write it as ${pathText(rest)}.` : 'Choose the volume that it is on, and write it as it is called there.'
    }`,
  )
}

/** A path to write below a volume, given as text. */
export async function resolveTarget(ctx: Context, volumeId: string, folder: string): Promise<{ volume: VolumeRecord; root: Buffer; path: string }> {
  await refuseFullPath(ctx, volumeId, folder)
  const { volume, root, path } = await resolvePlace(ctx, volumeId, Buffer.from(tidyFolder(folder)))
  return { volume, root, path: pathText(path) }
}

const mediaEnding = /\.(mov|mp4|m4v|mxf|mkv|avi|mts|wav|bwf|aiff?|png|dpx|tiff?|exr|dng|edl|otio|csv)$/i

/** One folder of a volume, folders first; at most 2,000 entries. */
export async function browse(ctx: Context, volumeId: string, ref: string): Promise<FolderListing> {
  const relative = fromRef(ref)
  const { path } = await resolvePlace(ctx, volumeId, relative)
  let entries: Dirent<Buffer>[]
  try {
    entries = await readFolder(path)
  } catch (e) {
    const code = (e as NodeJS.ErrnoException).code
    throw new Refusal(
      'unreadable',
      code === 'EACCES'
        ? `The folder ${pathText(path)} may not be read (permission denied). Give this user the right to read it.`
        : `The folder ${pathText(path)} could not be read (${code}).`,
    )
  }
  const shown = entries.filter((e) => e.name[0] !== 46 && (e.isDirectory() || e.isFile())).sort((a, b) => Number(b.isDirectory()) - Number(a.isDirectory()))
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
