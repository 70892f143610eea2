/** By what a volume is known, and where it is now: mounts, the card reader, markers, and (failing these) paths. */
import { createHash } from 'node:crypto'
import { readFile, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { below, cardsInside, joinBytes, mounts } from '@naranja/media'
import { z } from 'zod'
import type { Context } from '../platform/index.ts'
import type { VolumeKind, VolumeRecord } from '../records/index.ts'

export interface Identity {
  readonly kind: VolumeKind
  readonly key: string
  readonly sub: Buffer
  /** The name it has on the file system or the card; null where it has none. */
  readonly label: string | null
  readonly removable: boolean
}
export const identityHash = (i: Pick<Identity, 'kind' | 'key' | 'sub'>): string =>
  createHash('sha1')
    .update(Buffer.concat([Buffer.from(`${i.kind}\0${i.key}\0`), i.sub]))
    .digest('hex')

/** Something that is here now and known by an id of its own. */
interface Source {
  readonly kind: 'file-system' | 'reader'
  readonly key: string
  readonly path: Buffer
  /** The folder of it that stands at `path`; empty for all of it. */
  readonly root: Buffer
  readonly label: string | null
  readonly removable: boolean
}

const none = Buffer.alloc(0)
const bare = (path: string): Buffer => Buffer.from(path.replace(/^\/+|\/+$/g, ''))

/** Everything that is here now and has an id. */
export async function sourcesHere(ctx: Context): Promise<Source[]> {
  const { reader } = ctx.config
  const cards = reader ? await cardsInside(reader.slots) : new Map<string, string>()
  return [
    ...[...cards].map(
      ([name, key]): Source => ({ kind: 'reader', key, path: Buffer.from(join(reader?.slots ?? '', name)), root: none, label: name, removable: true }),
    ),
    ...(await mounts()).flatMap((m): Source[] =>
      m.fsId === null ? [] : [{ kind: 'file-system', key: m.fsId, path: Buffer.from(m.path), root: bare(m.root), label: m.label, removable: m.removable }],
    ),
  ]
}

/** The file by which a volume without an id of its own is known, written only when a person asks for it. */
export const markerName = '.naranja-volume.json'
const Marker = z.object({ id: z.string().min(8).max(100), label: z.string().max(300) })

export async function readMarker(path: Uint8Array): Promise<z.infer<typeof Marker> | null> {
  try {
    return Marker.parse(JSON.parse(await readFile(joinBytes(path, Buffer.from(markerName)), 'utf8')))
  } catch {
    return null
  }
}

/** By what the folder at `path` is known. */
export async function identify(ctx: Context, path: Buffer, here: readonly Source[]): Promise<Identity> {
  let best: { source: Source; sub: Buffer } | null = null
  for (const source of here) {
    const sub = below(path, source.path)
    if (sub !== null && (best === null || source.path.length > best.source.path.length)) best = { source, sub: joinBytes(source.root, sub) }
  }
  if (best)
    return {
      kind: best.source.kind,
      key: best.source.key,
      sub: best.sub,
      label: best.sub.length === 0 ? best.source.label : null,
      removable: best.source.removable,
    }
  const marker = await readMarker(path)
  if (marker) return { kind: 'marker', key: marker.id, sub: none, label: marker.label, removable: false }
  return { kind: 'path', key: ctx.config.machine, sub: path, label: null, removable: false }
}

/** Why no folder is there now, as a clause; empty where one is. */
export const folderHere = (path: Uint8Array): Promise<string> =>
  stat(Buffer.from(path)).then(
    (s) => (s.isDirectory() ? '' : 'is not a folder'),
    (e: NodeJS.ErrnoException) => (e.code === 'ENOENT' ? 'is not there' : e.code === 'EACCES' ? 'may not be read' : `cannot be reached (${e.code})`),
  )

/** Where this machine finds a volume now; or where it last stood, and why it is not there. */
export async function locate(volume: VolumeRecord, last: Buffer | undefined, here: readonly Source[]): Promise<{ path: Buffer; cause: string }> {
  const before = last ?? (volume.kind === 'path' ? volume.sub : none)
  if (volume.kind === 'file-system' || volume.kind === 'reader') {
    let cause = ''
    for (const source of here) {
      if (source.kind !== volume.kind || source.key !== volume.key) continue
      const sub = below(volume.sub, source.root)
      if (sub === null) continue
      const path = joinBytes(source.path, sub)
      cause = await folderHere(path)
      if (!cause) return { path, cause }
    }
    // A folder may be there all the same: an empty place to mount at, or another volume under the same name.
    return { path: before, cause: cause || (await folderHere(before)) || 'is another volume now' }
  }
  const cause = await folderHere(before)
  if (cause) return { path: before, cause }
  const another =
    volume.kind === 'marker'
      ? (await readMarker(before))?.id !== volume.key
      : // A card has come to stand where a plain folder was.
        here.some((s) => s.kind === 'reader' && below(before, s.path) !== null)
  return { path: before, cause: another ? 'is another volume now' : '' }
}
