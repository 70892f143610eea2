/** Folders that are looked after: kept, switched on and off, and what happened in them. */
import type { ArrivalAsk, ArrivalRow, NewArrivals, Ok } from '@naranja/contract'
import { below, joinBytes, pathText } from '@naranja/media'
import type { z } from 'zod'
import { type Context, newId } from '../context.ts'
import { copySpec } from '../copies/specs.ts'
import { copyWhatCame } from '../copies/plan.ts'
import { found, Refusal } from '../errors.ts'
import { ArrivalEntity, ArrivalFolderEntity, type ArrivalFolderRecord, type TaskRecord } from '../store/index.ts'
import { fromRef, refOf, refuseCard, resolvePlace, seen, volumeOf } from '../volumes/service.ts'
import { rememberTarget, writableTarget } from '../volumes/targets.ts'
import type { Arriving } from './watch.ts'

/** So much of what happened is told. */
const told = 200

/** Refuses what would run into itself: copies that are written into the folder that is looked after. */
async function sound(ctx: Context, place: { volumeId: string; path: Buffer }, ask: ArrivalAsk): Promise<void> {
  const { copies } = ask
  if (!copies) return
  const specs = await Promise.all(copies.specs.map((s) => copySpec(ctx, s)))
  const treed = specs.some((s) => s.place.how === 'tree')
  if (treed && !copies.volumeId) throw new Refusal('bad-request', 'Choose the folder that the edit copies go to.')
  if (treed && copies.volumeId) await writableTarget(ctx, { volumeId: copies.volumeId, folder: copies.folder })
  const volume = await volumeOf(ctx, place.volumeId)
  if (specs.some((s) => s.place.how === 'beside')) refuseCard(volume, 'Take a spec that makes a tree elsewhere.')
  if (treed && copies.volumeId === place.volumeId && below(Buffer.from(copies.folder), place.path) !== null)
    throw new Refusal('bad-request', 'The copies would go into the folder that is looked after. Choose another place for them.')
}

export async function addArrivals(ctx: Context, projectId: string, ask: NewArrivals): Promise<{ id: string }> {
  const path = fromRef(ask.ref)
  await resolvePlace(ctx, ask.volumeId, path)
  const all = await ctx.repo(ArrivalFolderEntity).findBy({ projectId, volumeId: ask.volumeId })
  if (all.some((f) => f.path.equals(path))) throw new Refusal('taken', 'This folder is looked after already.')
  await sound(ctx, { volumeId: ask.volumeId, path }, ask)
  const row: ArrivalFolderRecord = {
    ...{ id: newId(), projectId, volumeId: ask.volumeId, path, on: ask.on, quiet: ask.quiet, copies: ask.copies },
    since: ask.now ? null : new Date(),
  }
  await ctx.repo(ArrivalFolderEntity).insert(row as never)
  if (ask.copies?.volumeId) await rememberTarget(ctx, projectId, 'copies', { volumeId: ask.copies.volumeId, folder: ask.copies.folder })
  await ctx.changed(projectId, 'arrivals')
  // What is in the list already, and lacks its copies, gets them now.
  if (ask.now && ask.copies) await copyWhatCame(ctx, projectId, ask.volumeId, path, ask.copies, { arrivals: row.id })
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

/** Writes down that an edit copy of something that arrived could not be made. */
export async function noteFailedCopy(ctx: Context, task: Pick<TaskRecord, 'projectId' | 'label' | 'payload'>, error: string): Promise<void> {
  const { arrivals } = task.payload as { arrivals?: string }
  if (!arrivals) return
  await ctx
    .repo(ArrivalEntity)
    .insert({ folderId: arrivals, at: new Date(), path: task.label, what: `Its edit copy failed: ${error}`.slice(0, 2000), good: false })
  await ctx.changed(task.projectId, 'arrivals')
}
