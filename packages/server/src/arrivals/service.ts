/** Folders that are looked after: kept, switched on and off, and what happened in them. */
import type { ArrivalAsk, ArrivalRow, NewArrivals, Ok } from '@naranja/contract'
import { below, joinBytes, pathText } from '@naranja/media'
import type { z } from 'zod'
import { type Context, newId } from '../context.ts'
import { copySpec } from '../copies/specs.ts'
import { found, Refusal } from '../errors.ts'
import { ArrivalEntity, ArrivalFolderEntity, type ArrivalFolderRecord } from '../store/index.ts'
import { fromRef, refOf, refuseCard, resolvePlace, resolveTarget, seen, volumeOf } from '../volumes/service.ts'
import type { Arriving } from './watch.ts'

/** So much of what happened is told. */
const told = 200

/** Refuses what would run into itself: copies that are written into the folder that is looked after. */
async function sound(ctx: Context, place: { volumeId: string; path: Buffer }, ask: ArrivalAsk): Promise<void> {
  const { copies } = ask
  if (!copies) return
  const specs = await Promise.all(copies.specs.map((s) => copySpec(ctx, s)))
  await resolveTarget(ctx, copies.volumeId, copies.folder)
  const volume = await volumeOf(ctx, place.volumeId)
  if (specs.some((s) => s.place.how === 'beside')) refuseCard(volume, 'Take a spec that makes a tree elsewhere.')
  if (specs.some((s) => s.place.how === 'tree') && copies.volumeId === place.volumeId && below(Buffer.from(copies.folder), place.path) !== null)
    throw new Refusal('bad-request', 'Copies would be written into the folder that is looked after. Choose another place for them.')
}

export async function addArrivals(ctx: Context, projectId: string, ask: NewArrivals): Promise<{ id: string }> {
  const path = fromRef(ask.ref)
  await resolvePlace(ctx, ask.volumeId, path)
  const all = await ctx.repo(ArrivalFolderEntity).findBy({ projectId, volumeId: ask.volumeId })
  if (all.some((f) => f.path.equals(path))) throw new Refusal('taken', 'This folder is looked after already.')
  await sound(ctx, { volumeId: ask.volumeId, path }, ask)
  const row: ArrivalFolderRecord = { id: newId(), projectId, volumeId: ask.volumeId, path, on: ask.on, quiet: ask.quiet, copies: ask.copies }
  await ctx.repo(ArrivalFolderEntity).insert(row as never)
  await ctx.changed(projectId, 'arrivals')
  return { id: row.id }
}

const folderOf = async (ctx: Context, id: string): Promise<ArrivalFolderRecord> =>
  found(await ctx.repo(ArrivalFolderEntity).findOneBy({ id }), 'The folder that was looked after')

export async function changeArrivals(ctx: Context, id: string, ask: ArrivalAsk): Promise<z.infer<typeof Ok>> {
  const row = await folderOf(ctx, id)
  await sound(ctx, row, ask)
  await ctx.repo(ArrivalFolderEntity).update({ id }, { on: ask.on, quiet: ask.quiet, copies: ask.copies } as never)
  await ctx.changed(row.projectId, 'arrivals')
  return { ok: true }
}

/** Looks after a folder no more; what was taken in from it stays. */
export async function removeArrivals(ctx: Context, id: string): Promise<z.infer<typeof Ok>> {
  const row = await folderOf(ctx, id)
  await ctx.repo(ArrivalFolderEntity).delete({ id })
  await ctx.repo(ArrivalEntity).delete({ folderId: id })
  await ctx.changed(row.projectId, 'arrivals')
  return { ok: true }
}

/** `arriving`: what is on its way in a folder. */
export async function listArrivals(ctx: Context, projectId: string, arriving: (id: string) => readonly Arriving[]): Promise<ArrivalRow[]> {
  const [folders, volumes] = await Promise.all([ctx.repo(ArrivalFolderEntity).findBy({ projectId }), seen(ctx)])
  return Promise.all(
    folders.map(async (f): Promise<ArrivalRow> => {
      const v = volumes.find((s) => s.volume.id === f.volumeId)
      const happened = await ctx.repo(ArrivalEntity).find({ where: { folderId: f.id }, order: { ord: 'DESC' }, take: told })
      return {
        ...{ id: f.id, on: Boolean(f.on), quiet: f.quiet, copies: f.copies, place: { volumeId: f.volumeId, ref: refOf(f.path) } },
        folder: pathText(joinBytes(v?.path ?? Buffer.alloc(0), f.path)),
        cause: v?.cause ?? 'its volume is forgotten',
        arriving: arriving(f.id).map((a) => ({ path: a.path, waits: a.waits })),
        happened: happened.map((h) => ({ at: h.at.toISOString(), path: h.path, what: h.what, good: Boolean(h.good) })),
      }
    }),
  )
}
