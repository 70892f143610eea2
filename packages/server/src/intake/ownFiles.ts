/** Files that this project has made, or knows as edit copies, as they are met again among what a folder holds: they never become originals. */
import { contentId, joinBytes, pathText } from '@naranja/media'
import { originalName } from '../originals/index.ts'
import type { Context } from '../platform/index.ts'
import { ClipEntity, CopyEntity, type CopyRecord, MasterEntity, PullEntity } from '../records/index.ts'
import { rootsHere } from '../volumes/index.ts'

/** What a file was found to be: a copy of a clip (by its id, or by the content id that its stamp names), or a master. */
export type OwnFile = { readonly clipId: string } | { readonly stamp: string } | { readonly master: string }

type Copied = Pick<CopyRecord, 'clipId' | 'volumeId' | 'path' | 'size' | 'facts'>

/** A content id without its count of frames, which readers count differently. */
const bytesOf = (id: string): string => id.slice(0, id.lastIndexOf('-'))

export class OwnFiles {
  private readonly byPath = new Map<string, { readonly is: OwnFile; readonly size: number | null }>()
  private readonly bySize = new Map<number, Copied[]>()
  private constructor(private readonly roots: ReadonlyMap<string, Buffer>) {}

  static async of(ctx: Context, projectId: string): Promise<OwnFiles> {
    const [roots, copies, pulls, masters] = await Promise.all([
      rootsHere(ctx),
      ctx.repo(CopyEntity).find({ where: { projectId }, select: { id: true, clipId: true, volumeId: true, path: true, size: true, facts: true, state: true } }),
      ctx.repo(PullEntity).find({ where: { projectId }, select: { id: true, clipId: true, volumeId: true, path: true } }),
      ctx.repo(MasterEntity).find({ where: { projectId }, select: { id: true, volumeId: true, path: true } }),
    ])
    const own = new OwnFiles(roots)
    for (const c of copies) {
      const is = { clipId: c.clipId }
      // Bytes of a copy in several files are those of all together.
      const alone = c.state === 'checked' && c.facts !== null && !c.facts.sequence && c.facts.soundFiles.length === 0
      own.byPath.set(`${c.volumeId} ${c.path}`, { is, size: alone ? c.size : null })
      const folder = c.path.slice(0, c.path.lastIndexOf('/') + 1)
      for (const sound of c.facts?.soundFiles ?? []) own.byPath.set(`${c.volumeId} ${folder}${sound}`, { is, size: null })
      if (alone) own.bySize.set(c.size, [...(own.bySize.get(c.size) ?? []), c])
    }
    for (const p of pulls) own.byPath.set(`${p.volumeId} ${p.path}`, { is: { clipId: p.clipId }, size: null })
    for (const m of masters) own.byPath.set(`${m.volumeId} ${m.path}`, { is: { master: m.id }, size: null })
    return own
  }

  /** What is known to stand at a path of a volume, with this size. */
  at(volumeId: string, path: Uint8Array, size: number): OwnFile | null {
    const known = this.byPath.get(`${volumeId} ${pathText(path)}`)
    return known && (known.size === null || known.size === size) ? known.is : null
  }

  /** The known copy that a file has the content of, wherever it stands now. */
  async alike(file: Uint8Array, size: number, frames: number): Promise<OwnFile | null> {
    const list = this.bySize.get(size)
    if (!list) return null
    const own = bytesOf(await contentId(file, frames))
    for (const c of list) {
      const root = this.roots.get(c.volumeId)
      const id = c.facts?.contentId ?? (root ? await contentId(joinBytes(root, Buffer.from(c.path)), frames).catch(() => null) : null)
      if (id && bytesOf(id) === own) return { clipId: c.clipId }
    }
    return null
  }
}

/** What each of these is, in words for a person: `an edit copy of A001/A001C001.mov`. */
export async function ownFileNames(ctx: Context, projectId: string, files: readonly OwnFile[]): Promise<string[]> {
  if (files.length === 0) return []
  const clips = await ctx.repo(ClipEntity).find({ where: { projectId, removed: false }, select: { id: true, contentId: true, place: true } })
  const byId = new Map(clips.map((c) => [c.id, c]))
  const byContent = new Map(clips.map((c) => [c.contentId, c]))
  return files.map((f) =>
    'master' in f ? 'a master that was rendered here' : `an edit copy of ${'clipId' in f ? originalName(f.clipId, byId) : originalName(f.stamp, byContent)}`,
  )
}
