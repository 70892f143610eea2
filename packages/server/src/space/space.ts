/** What each kind takes on each volume, used by a cut and not; and edit copies that are deleted, never the last picture of a clip. */
import { rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Changed, DeleteAsk, DeletePlan, Space, SpaceKind, SpaceRow } from '@naranja/contract'
import { bytesText } from '@naranja/core/estimate'
import { numberedName, otherFiles } from '@naranja/core/clip'
import { joinBytes, parentOf, pathText, removeEmpty, sideFilePath, unreadable } from '@naranja/media'
import pLimit from 'p-limit'
import { usedClips } from '../cuts/index.ts'
import { alone } from '../history/index.ts'
import { type Context, plural, Refusal } from '../platform/index.ts'
import { isElsewhere } from '../specs/index.ts'
import { ClipEntity, type ClipRecord, CopyEntity, type CopyRecord, MasterEntity, PullEntity, TargetEntity } from '../records/index.ts'
import { listVolumes, rootsHere } from '../volumes/index.ts'

const kindOf = (c: CopyRecord): SpaceKind => (c.kind === 'proxy' ? 'proxies' : 'intermediates')

export async function spaceOf(ctx: Context, projectId: string): Promise<Space> {
  const [clips, copies, pulls, masters, volumes, used, roots] = await Promise.all([
    ctx.repo(ClipEntity).find({ where: { projectId, removed: false }, select: { id: true, volumeId: true, size: true, gone: true } }),
    ctx.repo(CopyEntity).findBy({ projectId, state: 'checked' }),
    ctx.repo(PullEntity).findBy({ projectId, state: 'checked' }),
    ctx.repo(MasterEntity).findBy({ projectId, state: 'verified' }),
    listVolumes(ctx),
    usedClips(ctx, projectId),
    rootsHere(ctx),
  ])
  const sizeAt = async (volumeId: string, path: string): Promise<number> => {
    const root = roots.get(volumeId)
    return root ? ((await stat(join(pathText(root), path)).catch(() => null))?.size ?? 0) : 0
  }
  const things: { volumeId: string; kind: SpaceKind; bytes: number; used: boolean; gone?: boolean }[] = [
    ...clips.map((c) => ({ volumeId: c.volumeId, kind: 'originals' as const, bytes: c.size, used: used.clips.has(c.id), gone: c.gone !== '' })),
    ...copies.map((c) => ({ volumeId: c.volumeId, kind: kindOf(c), bytes: c.size, used: used.clips.has(c.clipId), gone: Boolean(c.gone) })),
    ...(await Promise.all(pulls.map(async (p) => ({ volumeId: p.volumeId, kind: 'pulls' as const, bytes: await sizeAt(p.volumeId, p.path), used: true })))),
    ...(await Promise.all(masters.map(async (m) => ({ volumeId: m.volumeId, kind: 'masters' as const, bytes: await sizeAt(m.volumeId, m.path), used: true })))),
  ]
  const rows = volumes.flatMap((v): SpaceRow[] => {
    const mine = things.filter((t) => t.volumeId === v.id)
    if (mine.length === 0) return []
    const sum = (list: typeof mine) => list.reduce((n, t) => n + t.bytes, 0)
    const kinds = (['originals', 'intermediates', 'proxies', 'pulls', 'masters'] as const).flatMap((kind) => {
      const known = mine.filter((t) => t.kind === kind)
      // What has vanished takes nothing any more; it is counted apart.
      const all = known.filter((t) => !t.gone)
      const inUse = all.filter((t) => t.used)
      const goneCount = known.length - all.length
      return known.length ? [{ kind, count: all.length, bytes: sum(all), usedCount: inUse.length, usedBytes: sum(inUse), goneCount }] : []
    })
    return [{ volumeId: v.id, volume: v.label, here: v.here, size: v.size, free: v.free, kinds }]
  })
  const there = copies.filter((c) => !c.gone)
  const specs = [...new Map(there.map((c) => [c.spec, c])).values()].map((s) => {
    const mine = there.filter((c) => c.spec === s.spec)
    const unused = mine.filter((c) => !used.clips.has(c.clipId))
    const sum = (list: readonly CopyRecord[]) => list.reduce((n, c) => n + c.size, 0)
    return { spec: s.spec, name: s.specName, kind: s.kind, count: mine.length, bytes: sum(mine), unusedCount: unused.length, unusedBytes: sum(unused) }
  })
  return { cuts: used.cuts, volumes: rows, specs: specs.sort((a, b) => b.bytes - a.bytes) }
}

/** So many files are looked at side by side. */
const atOnce = pLimit(16)

/** Why the original of a clip can't be read now; null where it can. It is asked of the disk. */
async function originalUnread(clip: ClipRecord | undefined, roots: ReadonlyMap<string, Buffer>): Promise<string | null> {
  if (!clip || clip.removed) return 'its original is not in the list'
  const root = roots.get(clip.volumeId)
  if (!root) return 'its original is on a volume that is away'
  if (clip.technical.fault) return 'its original cannot be decoded'
  const s = clip.technical.sequence
  const folder = parentOf(clip.path)
  const names = s ? [numberedName(s, s.first), numberedName(s, s.last)] : otherFiles(clip.technical)
  for (const path of [clip.path, ...names.map((n) => joinBytes(folder, Buffer.from(n)))]) {
    const why = await unreadable(joinBytes(root, path))
    if (why) return `its original cannot be read: ${why}`
  }
  return null
}

/** The copies that an ask means, and those of them that must stay: of every clip a picture stays that the disk gives at this moment. */
async function meant(ctx: Context, projectId: string, ask: DeleteAsk) {
  const [copies, clips, used, roots] = await Promise.all([
    ctx.repo(CopyEntity).findBy({ projectId, state: 'checked' }),
    ctx.repo(ClipEntity).findBy({ projectId }),
    usedClips(ctx, projectId),
    rootsHere(ctx),
  ])
  const byId = new Map(clips.map((c) => [c.id, c]))
  const pathOf = (c: CopyRecord): string | null => {
    const root = roots.get(c.volumeId)
    return root ? join(pathText(root), c.path) : null
  }
  const wanted = copies.filter((c) => c.spec === ask.spec && !(ask.unusedOnly && used.clips.has(c.clipId)))
  const unread = new Map<string, string | null>()
  await Promise.all([...new Set(wanted.map((c) => c.clipId))].map((id) => atOnce(async () => void unread.set(id, await originalUnread(byId.get(id), roots)))))
  const othersOf = new Map<string, CopyRecord[]>()
  for (const c of copies) if (c.spec !== ask.spec) othersOf.set(c.clipId, [...(othersOf.get(c.clipId) ?? []), c])
  const hasOther = async (clipId: string): Promise<boolean> => {
    for (const c of othersOf.get(clipId) ?? []) {
      const path = pathOf(c)
      if (!path || (await unreadable(path)) !== null) continue
      // Another file may stand where it was.
      if (c.facts?.sequence || c.facts?.soundFiles.length || (await stat(path).catch(() => null))?.size === c.size) return true
    }
    return false
  }
  const kept: DeletePlan['kept'] = []
  const going: { copy: CopyRecord; clip: ClipRecord | undefined; path: string; root: string }[] = []
  for (const copy of wanted) {
    const clip = byId.get(copy.clipId)
    const name = clip?.name ?? copy.path
    const [root, path] = [roots.get(copy.volumeId), pathOf(copy)]
    const why = unread.get(copy.clipId)
    if (!root || !path) kept.push({ name, reason: 'its volume is away' })
    else if (clip?.finishing === copy.id) kept.push({ name, reason: 'it is the finishing source of this clip' })
    else if (why && !(await hasOther(copy.clipId))) kept.push({ name, reason: `it is the only picture of this clip that is here; ${why}` })
    else going.push({ copy, clip, path, root: pathText(root) })
  }
  return { going, kept, used }
}

/** Up to which folder emptied folders go: the nearest that was chosen to write copies to; else none but the copy's own goes. */
async function topsOf(ctx: Context, projectId: string): Promise<(copy: CopyRecord) => string> {
  const targets = await ctx.repo(TargetEntity).findBy({ projectId, purpose: 'copies' })
  return (copy) => {
    const folder = dirname(copy.facts?.sequence ? dirname(copy.path) : copy.path)
    const tops = targets.filter((t) => t.volumeId === copy.volumeId && (t.folder === '' || folder === t.folder || folder.startsWith(`${t.folder}/`)))
    const top = tops.map((t) => t.folder).sort((a, b) => b.length - a.length)[0]
    return top ?? dirname(folder)
  }
}

export async function planDeletion(ctx: Context, projectId: string, ask: DeleteAsk): Promise<DeletePlan> {
  const { going, kept, used } = await meant(ctx, projectId, ask)
  const bytes = going.reduce((n, g) => n + g.copy.size, 0)
  const inCuts = going.filter((g) => used.clips.has(g.copy.clipId)).length
  const mapped = going.filter((g) => g.copy.facts?.map).length
  const lost = [
    ...(going.length
      ? [
          isElsewhere(ask.spec)
            ? `${plural(going.length, 'edit copy', 'edit copies')} that were not made here, ${bytesText(bytes)}; they cannot be made again here.`
            : `${plural(going.length, 'edit copy', 'edit copies')} of ${going[0]?.copy.specName}, ${bytesText(bytes)}; they can be made again from their originals.`,
        ]
      : []),
    ...(inCuts ? [`${plural(inCuts, 'of them is', 'of them are')} used by a cut: it is shown from the next best picture, or from its originals.`] : []),
    ...(mapped
      ? [
          `${plural(mapped, 'of them runs', 'of them run')} at another rate: cuts made with them cannot be reconnected to the exact frame until they are made again.`,
        ]
      : []),
  ]
  return { copies: going.length, bytes, lost, kept }
}

/** Deletes the files of copies and forgets them. A file that is not as large as what was made is another, and stays. */
export const deleteCopies = alone(async (ctx: Context, projectId: string, ask: DeleteAsk): Promise<Changed> => {
  const { going, kept } = await meant(ctx, projectId, ask)
  if (going.length === 0) throw new Refusal('bad-request', kept[0] ? `Nothing was deleted: ${kept[0].name}: ${kept[0].reason}.` : 'There is nothing to delete.')
  const others: string[] = []
  const topOf = await topsOf(ctx, projectId)
  let gone = 0
  let bytes = 0
  for (const { copy, clip, path, root } of going) {
    const numbered = copy.facts?.sequence != null
    const size = (await stat(path).catch(() => null))?.size ?? null
    const mine = size === null || numbered || (copy.facts?.soundFiles.length ?? 0) > 0 || size === copy.size
    if (!mine) {
      others.push(clip?.name ?? path)
      continue
    }
    for (const p of [
      numbered ? dirname(path) : path,
      ...(numbered ? [] : (copy.facts?.soundFiles ?? []).map((s) => join(dirname(path), s))),
      sideFilePath(path, numbered),
    ])
      await rm(p, { force: true, recursive: numbered })
    await removeEmpty(dirname(numbered ? dirname(path) : path), join(root, topOf(copy)))
    await ctx.repo(CopyEntity).delete({ id: copy.id })
    gone++
    bytes += copy.size
  }
  await ctx.changed(projectId, 'copies', 'clips', 'links')
  const rest = [
    ...(others.length ? [`${others.length} not: another file stands where ${others[0]} was`] : []),
    ...(kept.length ? [`${kept.length} kept: ${kept[0]?.name}: ${kept[0]?.reason}`] : []),
  ]
  return { sentence: [`${plural(gone, 'edit copy', 'edit copies')} deleted, ${bytesText(bytes)}`, ...rest].join('; ').concat('.') }
})
