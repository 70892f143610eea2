/** Folders that are looked after: kept, switched on and off, and what happened in them. */
import type { ArrivalEdit, ArrivalRow, Changed, NewArrivals } from '@naranja/contract'
import { below, joinBytes, pathText } from '@naranja/media'
import { copyWhatCame } from '../copies/index.ts'
import { exclusively, recordChange, type TakeBacks } from '../history/index.ts'
import { type Context, found, newId, Refusal, stale } from '../platform/index.ts'
import { copySpec } from '../specs/index.ts'
import { payloadOf, ArrivalEntity, ArrivalFolderEntity, type ArrivalFolderRecord, type Inverse, type TaskRecord } from '../records/index.ts'
import { fromRef, refOf, refuseCard, rememberTarget, resolvePlace, seen, volumeNames, volumeOf, writableTarget } from '../volumes/index.ts'
import type { Arriving } from './watch.ts'

/** So much of what happened is told. */
const told = 200

/** Refuses what would run into itself: copies that are written into the folder that is looked after. */
async function sound(ctx: Context, place: { volumeId: string; path: Buffer }, copies: NewArrivals['copies']): Promise<void> {
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

type Settings = Pick<ArrivalFolderRecord, 'on' | 'quiet' | 'copies'>
const settingsOf = (f: Settings): Settings => ({ on: Boolean(f.on), quiet: f.quiet, copies: f.copies })
/** How a folder is called in sentences: from its volume on. */
const nameOf = async (ctx: Context, f: Pick<ArrivalFolderRecord, 'volumeId' | 'path'>): Promise<string> =>
  [(await volumeNames(ctx)).labels.get(f.volumeId) ?? 'a volume that is forgotten', ...(f.path.length ? [pathText(f.path)] : [])].join('/')

export async function addArrivals(ctx: Context, projectId: string, ask: NewArrivals): Promise<{ id: string }> {
  const path = fromRef(ask.ref)
  await resolvePlace(ctx, ask.volumeId, path)
  await sound(ctx, { volumeId: ask.volumeId, path }, ask.copies)
  const id = newId()
  await exclusively(ctx, projectId, async (inside) => {
    const all = await inside.repo(ArrivalFolderEntity).findBy({ projectId, volumeId: ask.volumeId })
    if (all.some((f) => f.path.equals(path))) throw new Refusal('taken', 'This folder is looked after already.')
    const row = { id, projectId, volumeId: ask.volumeId, path, ...settingsOf(ask), since: ask.now ? null : new Date(), version: 1 }
    await inside.repo(ArrivalFolderEntity).insert(row as never)
    await recordChange(inside, projectId, `Began to look after ${await nameOf(inside, row)}.`, inverseOf(row, null))
    await inside.changed(projectId, 'arrivals')
  })
  if (ask.copies?.volumeId) await rememberTarget(ctx, projectId, 'copies', { volumeId: ask.copies.volumeId, folder: ask.copies.folder })
  // What is in the list already, and lacks its copies, gets them now.
  if (ask.now && ask.copies) await copyWhatCame(ctx, projectId, ask.volumeId, path, ask.copies, { arrivals: id })
  return { id }
}

const folderOf = async (ctx: Context, id: string): Promise<ArrivalFolderRecord> =>
  found(await ctx.repo(ArrivalFolderEntity).findOneBy({ id }), 'The folder that was looked after')
/** What puts a folder back as it is; `before`: null where it is not looked after. */
const inverseOf = ({ volumeId, path }: Pick<ArrivalFolderRecord, 'volumeId' | 'path'>, before: ArrivalFolderRecord | null): Inverse => ({
  ...{ kind: 'looked-after', volumeId, ref: refOf(path) },
  before: before && { id: before.id, version: before.version, ...settingsOf(before), since: before.since?.toISOString() ?? null },
})
/** What was changed of how a folder is looked after. */
function changeSentence(name: string, before: Settings, now: Settings): string {
  if (before.on !== now.on) return now.on ? `${name} is looked after again.` : `${name} is left alone.`
  if (before.quiet !== now.quiet) return `Files in ${name} are taken in once they have looked the same for ${now.quiet} s.`
  return `Changed the edit copies of what arrives in ${name}.`
}

/** Changes how a folder is looked after, of the version that was seen. */
export async function changeArrivals(ctx: Context, id: string, { version, ...mine }: ArrivalEdit): Promise<Changed> {
  const { projectId, ...there } = await folderOf(ctx, id)
  if (mine.copies) await sound(ctx, there, mine.copies)
  return exclusively(ctx, projectId, async (inside) => {
    const row = await folderOf(inside, id)
    const name = await nameOf(inside, row)
    const before = settingsOf(row)
    const now = { ...before, ...mine }
    const done = await inside.repo(ArrivalFolderEntity).update({ id, version }, { ...now, version: version + 1 } as never)
    if (!done.affected) throw stale(`Somebody changed meanwhile how ${name} is looked after. Nothing was changed.`, { ...before, version: row.version })
    await inside.changed(projectId, 'arrivals')
    return recordChange(inside, projectId, changeSentence(name, before, now), inverseOf(row, row))
  })
}

/** Looks after a folder no more; what was taken in from it stays. */
export async function removeArrivals(ctx: Context, id: string): Promise<Changed> {
  const { projectId } = await folderOf(ctx, id)
  return exclusively(ctx, projectId, async (inside) => {
    const row = await folderOf(inside, id)
    await inside.repo(ArrivalFolderEntity).delete({ id })
    await inside.changed(projectId, 'arrivals')
    return recordChange(inside, projectId, `Stopped looking after ${await nameOf(inside, row)}.`, inverseOf(row, row))
  })
}

/** Puts a folder back as it was looked after, or not. */
export async function putArrivals(ctx: Context, projectId: string, { volumeId, ref, before }: Extract<Inverse, { kind: 'looked-after' }>): Promise<void> {
  const place = { projectId, volumeId, path: fromRef(ref) }
  const there = await ctx.repo(ArrivalFolderEntity).findOneBy(place)
  await ctx.repo(ArrivalFolderEntity).delete(place)
  if (!before) return
  // Later than any that was seen.
  const version = Math.max(there?.version ?? 0, before.version) + 1
  await ctx.repo(ArrivalFolderEntity).insert({ ...place, ...before, since: before.since && new Date(before.since), version } as never)
}

/** `arriving`: what is on its way in a folder. */
export async function listArrivals(ctx: Context, projectId: string, arriving: (id: string) => readonly Arriving[]): Promise<ArrivalRow[]> {
  const [folders, volumes] = await Promise.all([ctx.repo(ArrivalFolderEntity).findBy({ projectId }), seen(ctx)])
  return Promise.all(
    folders.map(async (f): Promise<ArrivalRow> => {
      const v = volumes.find((s) => s.volume.id === f.volumeId)
      const happened = await ctx.repo(ArrivalEntity).find({ where: { folderId: f.id }, order: { ord: 'DESC' }, take: told })
      return {
        ...{ id: f.id, version: f.version, ...settingsOf(f), place: { volumeId: f.volumeId, ref: refOf(f.path) } },
        folder: pathText(joinBytes(v?.path ?? Buffer.alloc(0), f.path)),
        cause: v?.cause ?? 'its volume is forgotten',
        arriving: arriving(f.id).map((a) => ({ path: a.path, waits: a.waits })),
        happened: happened.map((h) => ({ at: h.at.toISOString(), path: h.path, what: h.what, good: Boolean(h.good) })),
      }
    }),
  )
}

/** Writes down that an edit copy of something that arrived could not be made. */
export async function noteFailedCopy(ctx: Context, task: Pick<TaskRecord, 'projectId' | 'label' | 'payload' | 'kind'>, error: string): Promise<void> {
  const arrivals = task.kind === 'copy' ? payloadOf('copy', task).arrivals : undefined
  if (!arrivals) return
  await ctx
    .repo(ArrivalEntity)
    .insert({ folderId: arrivals, at: new Date(), path: task.label, what: `Its edit copy failed: ${error}`.slice(0, 2000), good: false })
  await ctx.changed(task.projectId, 'arrivals')
}

/** How the looking after folders is taken back. */
export const arrivalsTakeBacks = {
  'looked-after': {
    touched: (i) => [`${i.volumeId} ${i.ref} looked after`],
    rows: (ctx, projectId, i) => putArrivals(ctx, projectId, i),
    notices: false,
  },
} satisfies Partial<TakeBacks>
