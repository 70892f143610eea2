/** Where a project writes to: what it used last, and which places are refused. */
import type { Purpose, TargetAsk, TargetFolder, TargetLook, TargetRow, Targets } from '@naranja/contract'
import { below, freeSpace, joinBytes, lastName, parentOf, pathText } from '@naranja/media'
import { type Context, Refusal } from '../platform/index.ts'
import { BackupEntity, TargetEntity, TreeEntity, type TreeRecord, type VolumeRecord } from '../records/index.ts'
import { originalBelow, volumesOfOriginals } from '../store/index.ts'
import { hashOf, tidyFolder } from './refs.ts'
import { refuseCard, type VolumeStatus, seen } from './service.ts'
import { resolveTarget } from './browsing.ts'

/** Remembers what was written to; the next batch for the same purpose begins with it. */
export async function rememberTarget(ctx: Context, projectId: string, purpose: Purpose, target: TargetFolder): Promise<void> {
  const folder = tidyFolder(target.folder)
  const row = { projectId, purpose, volumeId: target.volumeId, folder, folderHash: hashOf(folder), used: new Date() }
  await ctx.repo(TargetEntity).upsert(row, ['projectId', 'purpose', 'volumeId', 'folderHash'])
  await ctx.changed(projectId, 'targets')
}

const rowOf = async (s: VolumeStatus, folder: string): Promise<TargetRow> => {
  const path = pathText(joinBytes(s.path, Buffer.from(folder)))
  return { volumeId: s.volume.id, folder, path, volume: s.volume.label, here: !s.cause, free: s.cause ? null : await freeSpace(path).catch(() => null) }
}

/** So many places are offered again. */
const offered = 6

export async function listTargets(ctx: Context, projectId: string): Promise<Targets> {
  const [used, volumes] = await Promise.all([ctx.repo(TargetEntity).find({ where: { projectId }, order: { used: 'DESC' } }), seen(ctx)])
  const byId = new Map(volumes.map((s) => [s.volume.id, s]))
  const last: Targets['last'] = {}
  const recent = new Map<string, TargetRow>()
  for (const t of used) {
    const s = byId.get(t.volumeId)
    const key = `${t.volumeId} ${t.folder}`
    if (!s || (last[t.purpose] && (recent.has(key) || recent.size >= offered))) continue
    const row = recent.get(key) ?? (await rowOf(s, t.folder))
    last[t.purpose] ??= row
    if (recent.size < offered) recent.set(key, row)
  }
  return { last, recent: [...recent.values()] }
}

/** Refuses a folder in which, or below which, originals of any project stand. `instead`: what to do, as a sentence. */
export async function refuseAmongOriginals(ctx: Context, path: Buffer, instead: string): Promise<void> {
  const holding = new Set(await volumesOfOriginals(ctx.db))
  for (const { volume, path: root, cause } of await seen(ctx)) {
    if (cause || !holding.has(volume.id)) continue
    const folder = below(root, path) === null ? below(path, root) : Buffer.alloc(0)
    const one = folder && (await originalBelow(ctx.db, volume.id, folder))
    if (one)
      throw new Refusal('not-allowed', `Originals stand in ${pathText(path)}: ${pathText(one)}, for instance. Nothing is written among originals. ${instead}`)
  }
}

/** A place to write to, resolved; refused where it is a card, or where originals stand in it or below it. `instead`: what to do, as a sentence. */
export async function writableTarget(ctx: Context, target: TargetFolder, instead = 'Choose another folder.') {
  const at = await resolveTarget(ctx, target.volumeId, target.folder)
  refuseCard(at.volume)
  await refuseAmongOriginals(ctx, Buffer.from(at.path), instead)
  return at
}

/** A place that somebody thinks of writing to: what it is called in full, what is free there, and why it may not be written to. */
export async function lookAtTarget(ctx: Context, target: TargetAsk): Promise<TargetLook> {
  const volume = (await seen(ctx)).find((s) => s.volume.id === target.volumeId)
  if (!volume) throw new Refusal('not-found', 'This volume is not known any more. Choose another place.')
  const folder = tidyFolder(target.folder)
  // A backup stands in a folder of the card's name, beside those of other cards: that folder is looked at once the card is known.
  const backup = target.purpose === 'backups' || target.purpose === 'second-backups'
  const allowed = backup ? resolveTarget(ctx, target.volumeId, target.folder).then((at) => refuseCard(at.volume)) : writableTarget(ctx, target)
  const refusal = await allowed.then(
    () => null,
    (e: unknown) => (e instanceof Refusal ? e.message : String(e)),
  )
  return { ...(await rowOf(volume, folder)), refusal }
}

/**
 * The folder below a target in which the copies of a clip stand, for clips of one folder that is taken in: that folder's own name (or the
 * volume's, where all of it is taken in), and the clip's folders below it. Where the folder lies in one that was taken in before, it goes on
 * as it was there. Another folder of the same name, from another place, gets its volume's name beside its own, so that two never mix.
 * With `kept` false it is only told, and the name stays free.
 */
async function copyTrees(
  ctx: Context,
  projectId: string,
  volume: { id: string; label: string },
  base: Buffer,
  kept: boolean,
): Promise<(folder: Buffer) => string> {
  const repo = ctx.repo(TreeEntity)
  const rows = () => repo.findBy({ projectId, volumeId: volume.id })
  const nearest = (all: readonly TreeRecord[], folder: Buffer): TreeRecord | undefined =>
    all.filter((t) => below(folder, t.path) !== null).sort((a, b) => b.path.length - a.path.length)[0]
  let all = await rows()
  if (!nearest(all, base)) {
    const own = base.length ? pathText(lastName(base)) : volume.label
    const where = [volume.label, ...pathText(base.length ? parentOf(base) : base).split('/')].filter(Boolean).join(' ')
    const names = [own, `${own} (${volume.label})`, `${own} (${where})`]
    for (let n = 0; !nearest(all, base); n++) {
      const top = (names[n] ?? `${own} (${where} ${n})`).replace(/[/\\\0]/g, '_').slice(0, 200)
      const key = top.normalize('NFC').toLowerCase()
      const row = { projectId, key, top, volumeId: volume.id, path: base }
      if (!kept) {
        if (!(await repo.existsBy({ projectId, key }))) all = [...all, row]
        continue
      }
      // Whoever comes first has the name; whoever comes second finds it taken, or finds its own folder there.
      await repo.createQueryBuilder().insert().orIgnore().values(row).updateEntity(false).execute()
      all = await rows()
    }
  }
  return (folder) => {
    const row = nearest(all, folder)
    const rest = row && below(folder, row.path)
    return [row?.top ?? volume.label, ...(rest ? [pathText(rest)] : [])].filter(Boolean).join('/').slice(0, 4000)
  }
}

/**
 * Where the copies of a folder's clips stand below a target, by the folder that each is in; those of a backup stand where those of its card do.
 * With `kept` false nothing is written down for it.
 */
export async function treesOf(ctx: Context, projectId: string, volume: VolumeRecord, base: Buffer, kept = true): Promise<(folder: Buffer) => string> {
  const backup = await ctx.repo(BackupEntity).findOneBy({ placeVolumeId: volume.id, placePath: base })
  if (!backup) return copyTrees(ctx, projectId, volume, base, kept)
  const { sourceVolumeId: id, sourcePath, card } = backup
  const trees = await copyTrees(ctx, projectId, { id, label: card.split('/')[0] ?? card }, sourcePath, kept)
  return (folder) => trees(joinBytes(sourcePath, below(folder, base) ?? folder))
}
