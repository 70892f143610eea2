/** What has been backed up, roll by roll, and what has not. */
import type { BackupRow, RollRow, UnsafeFolder } from '@naranja/contract'
import { below, joinBytes, parentOf, pathText } from '@naranja/media'
import { usedClips } from '../cuts/index.ts'
import { change } from '../history/index.ts'
import type { Context } from '../platform/index.ts'
import { BackupEntity, type BackupRecord, ClipEntity, CopyEntity, settings, TreeEntity } from '../records/index.ts'
import { checkedClips, clipsInTurn, isLight, readSetting, rollSums, writeSetting } from '../store/index.ts'
import { awayVolumes, refOf, rootsHere, volumeNames } from '../volumes/index.ts'

const rowOf = (b: BackupRecord, roots: ReadonlyMap<string, Buffer>, away: ReadonlyMap<string, string>): BackupRow => ({
  id: b.id,
  card: b.card,
  sourceVolumeId: b.sourceVolumeId,
  placeVolumeId: b.placeVolumeId,
  folder: pathText(joinBytes(roots.get(b.placeVolumeId) ?? Buffer.alloc(0), b.placePath)),
  state: b.state,
  files: b.files,
  verified: b.verified,
  bytes: b.bytes,
  readBack: b.readBack,
  when: b.made.toISOString(),
  problems: b.problems,
  away: away.has(b.placeVolumeId),
  checked: b.checked,
})

const byName = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true })

/** By card, then by place. */
export async function listBackups(ctx: Context, projectId: string): Promise<BackupRow[]> {
  const [backups, { roots }, away] = await Promise.all([ctx.repo(BackupEntity).findBy({ projectId }), volumeNames(ctx), awayVolumes(ctx)])
  return backups.map((b) => rowOf(b, roots, away)).sort((a, b) => byName(a.card, b.card) || byName(a.folder, b.folder))
}

/** How far each roll is, from card to master. */
export async function listRolls(ctx: Context, projectId: string): Promise<RollRow[]> {
  const [sums, copies, used, checked, away] = await Promise.all([
    rollSums(ctx.db, projectId),
    ctx.repo(CopyEntity).find({ where: { projectId, state: 'checked' }, select: { clipId: true } }),
    usedClips(ctx, projectId),
    checkedClips(ctx.db, projectId),
    awayVolumes(ctx),
  ])
  const copied = new Set(copies.map((c) => c.clipId))
  const key = (r: { day: string; roll: string }) => `${r.day}\0${r.roll}`
  const far = new Map<string, { away: number; copyable: number; copied: number; used: number; checked: number }>()
  for await (const clips of clipsInTurn(ctx.db, projectId))
    for (const c of clips) {
      let n = far.get(key(c))
      if (!n) {
        n = { away: 0, copyable: 0, copied: 0, used: 0, checked: 0 }
        far.set(key(c), n)
      }
      if (c.gone || away.has(c.volumeId)) n.away++
      if (used.clips.has(c.id)) n.used++
      if (checked.has(c.id)) n.checked++
      if (!c.technical.hasPicture || c.technical.fault || isLight(c)) continue
      n.copyable++
      if (copied.has(c.id)) n.copied++
    }
  const nothing = { away: 0, copyable: 0, copied: 0, used: 0, checked: 0 }
  return sums
    .map(
      (s): RollRow => ({
        day: s.day,
        roll: s.roll,
        clips: s.clips,
        seconds: s.seconds,
        bytes: s.bytes,
        backups: [s.none, s.one, s.more],
        ...(far.get(key(s)) ?? nothing),
      }),
    )
    .sort((a, b) => byName(a.day, b.day) || byName(a.roll, b.roll))
}

/** Folders that were taken in and hold originals without a verified backup, the outermost of each; those that are here. */
export async function unsafeFolders(ctx: Context, projectId: string): Promise<UnsafeFolder[]> {
  const [trees, here, { labels }, clips] = await Promise.all([
    ctx.repo(TreeEntity).findBy({ projectId }),
    rootsHere(ctx),
    volumeNames(ctx),
    ctx.repo(ClipEntity).find({ where: { projectId, removed: false, backups: 0 }, select: { id: true, volumeId: true, path: true, noticeCodes: true } }),
  ])
  const found = new Map<string, UnsafeFolder>()
  for (const c of clips) {
    if (isLight(c) || !here.has(c.volumeId)) continue
    const around = trees.filter((t) => t.volumeId === c.volumeId && below(c.path, t.path) !== null).sort((a, b) => a.path.length - b.path.length)
    // Of what was taken in before such folders were written down, the clip's own folder is known.
    const path = around[0]?.path ?? parentOf(c.path)
    const label = labels.get(c.volumeId) ?? '?'
    const row = { volumeId: c.volumeId, ref: refOf(path), name: path.length ? `${label}/${pathText(path)}` : label, clips: 0 }
    const key = `${row.volumeId} ${row.ref}`
    found.set(key, { ...row, clips: (found.get(key)?.clips ?? 0) + 1 })
  }
  return [...found.values()]
}

const readerOf = (ctx: Context, projectId: string): string => `${projectId} ${ctx.config.user}`

/** Whether a person knows that originals have no backup; they are told once. */
export const toldUnsafe = async (ctx: Context, projectId: string): Promise<boolean> =>
  (await readSetting(ctx.db, settings.toldUnsafe, readerOf(ctx, projectId))).value

export const tellUnsafe = change(async (ctx: Context, projectId: string): Promise<void> => {
  await writeSetting(ctx.db, settings.toldUnsafe, readerOf(ctx, projectId), true, null)
  await ctx.changed(projectId, 'projects')
})
