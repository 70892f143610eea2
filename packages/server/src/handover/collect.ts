/** What a project's clips are made of, laid out as it is collected: originals and copies in trees of their own, and the cut as lists that point there. */
import { dirname, posix } from 'node:path'
import { numberedName } from '@naranja/core/clip'
import { safeFileName } from '@naranja/core/naming'
import { exists, pathText, writeWhole } from '@naranja/media'
import { writeLists } from '../cuts/index.ts'
import type { Context } from '../platform/index.ts'
import { type ClipRecord, type CopyRecord, CutEntity } from '../records/index.ts'
import { refOf } from '../volumes/index.ts'

export type Collected = 'originals' | 'intermediates' | 'proxies'
const folders: Record<Collected, string> = { originals: 'Originals', intermediates: 'Intermediates', proxies: 'Proxies' }
const kindOf: Record<CopyRecord['kind'], Collected> = { intermediate: 'intermediates', proxy: 'proxies' }

/** Files of an original on its volume: the numbered pictures, parts or channels it is made of, its sound in files of its own, and what stands beside it. */
export function filesOfClip(c: ClipRecord): string[] {
  const own = pathText(c.path)
  const folder = dirname(own) === '.' ? '' : dirname(own)
  const at = (name: string): string => posix.join(folder, name)
  const { sequence: s, parts, channelFiles } = c.technical
  const missing = new Set(s?.missing)
  const numbers = s ? Array.from({ length: s.last - s.first + 1 }, (_, i) => s.first + i).filter((n) => !missing.has(n)) : []
  const media = s ? numbers.map((n) => at(numberedName(s, n))) : [own, ...parts.map((p) => at(p.name))]
  return [...new Set([...media, ...channelFiles.map(at), ...c.beside])]
}

/** Where an original's files are collected: in the tree that its copies have. */
export const seatOfClip = (c: ClipRecord): string => posix.join(folders.originals, c.tree)

/** Where a copy's files are collected: by kind and spec, in the tree of its original. */
export const seatOfCopy = (c: CopyRecord, clip: ClipRecord): string => posix.join(folders[kindOf[c.kind]], safeFileName(c.specName), clip.tree)

export const isCollected = (c: Pick<CopyRecord, 'kind'>, kinds: readonly Collected[]): boolean => kinds.includes(kindOf[c.kind])

/** Writes the cut beside what was collected: for each kind a list and a timeline that point at it. Returns how many. */
export async function writeCollectedLists(
  ctx: Context,
  projectId: string,
  { kinds, cutId, volumeId, folder, base }: { kinds: readonly Collected[]; cutId: string | undefined; volumeId: string; folder: string; base: string },
): Promise<number> {
  const [newest] = await ctx
    .repo(CutEntity)
    .find({ where: { projectId, removed: false, ...(cutId ? { id: cutId } : {}) }, order: { created: 'DESC' }, take: 1 })
  if (!newest) return 0
  let written = 0
  for (const kind of kinds) {
    if (!(await exists(posix.join(base, folders[kind])))) continue
    const ref = refOf(Buffer.from(posix.join(folder, folders[kind])))
    for (const format of ['otio', 'edl'] as const) {
      const { files } = await writeLists(ctx, newest.id, { target: 'folder', volumeId, ref, format, lists: 'one', reels: 'reel' })
      for (const f of files) {
        await writeWhole(posix.join(base, f.name.replace(' on files of a folder', ` on ${kind}`)), f.text)
        written++
      }
    }
  }
  return written
}
