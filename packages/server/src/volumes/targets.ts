/** Where a project writes to: what it used last, and which places are refused. */
import type { Purpose, TargetFolder, TargetLook, TargetRow, Targets } from '@naranja/contract'
import { below, freeSpace, joinBytes, lastName, parentOf, pathText } from '@naranja/media'
import type { Context } from '../context.ts'
import { Refusal } from '../errors.ts'
import { originalBelow, TargetEntity, TreeEntity, volumesOfOriginals } from '../store/index.ts'
import { hashOf, refuseCard, resolveTarget, type Seen, seen, tidyFolder } from './service.ts'

/** Remembers what was written to; the next batch for the same purpose begins with it. */
export async function rememberTarget(ctx: Context, projectId: string, purpose: Purpose, target: TargetFolder): Promise<void> {
  const folder = tidyFolder(target.folder)
  const row = { projectId, purpose, volumeId: target.volumeId, folder, folderHash: hashOf(folder), used: new Date() }
  await ctx.repo(TargetEntity).upsert(row, ['projectId', 'purpose', 'volumeId', 'folderHash'])
  await ctx.changed(projectId, 'targets')
}

const rowOf = async (s: Seen, folder: string): Promise<TargetRow> => {
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
export async function lookAtTarget(ctx: Context, target: TargetFolder): Promise<TargetLook> {
  const volume = (await seen(ctx)).find((s) => s.volume.id === target.volumeId)
  if (!volume) throw new Refusal('not-found', 'This volume is not known any more. Choose another place.')
  const folder = tidyFolder(target.folder)
  const refusal = await writableTarget(ctx, target).then(
    () => null,
    (e: unknown) => (e instanceof Refusal ? e.message : String(e)),
  )
  return { ...(await rowOf(volume, folder)), refusal }
}

/**
 * Below which name the copies of a folder's clips stand: its own name, or the volume's where all of it was taken in. Another folder of the
 * same name, from another place, gets its volume's name beside it, so that two never mix. Asked again it is the same.
 */
export async function treeTop(ctx: Context, projectId: string, volume: { id: string; label: string }, path: Buffer): Promise<string> {
  const own = path.length ? pathText(lastName(path)) : volume.label
  const above = pathText(path.length ? parentOf(path) : path)
  const names = [own, `${own} (${volume.label})`, `${own} (${[volume.label, above].filter(Boolean).join(' ').replaceAll('/', ' ')})`]
  for (let n = 0; ; n++) {
    const top = (names[n] ?? `${own} (${volume.label} ${n})`).replace(/[/\\\0]/g, '_').slice(0, 200)
    const key = top.normalize('NFC').toLowerCase()
    await ctx.repo(TreeEntity).createQueryBuilder().insert().orIgnore().values({ projectId, key, top, volumeId: volume.id, path }).updateEntity(false).execute()
    const row = await ctx.repo(TreeEntity).findOneByOrFail({ projectId, key })
    if (row.volumeId === volume.id && row.path.equals(path)) return row.top
  }
}
