/** Projects: what they are, how far they are, and what a person views. */
import type { NewProject, ProjectEdit, ProjectRow, Summary, Viewing } from '@naranja/contract'
import { advise, majority, type Notice } from '@naranja/core/clip'
import { isOpen } from '@naranja/core/reconnect'
import { type Rate, rateText, typedRate } from '@naranja/core/time'
import { In } from 'typeorm'
import type { z } from 'zod'
import { toldUnsafe } from '../backups/index.ts'
import { cutOf, linksOf } from '../cuts/index.ts'
import { forgetWriter, alone, change, recordChange, type TakeBacks } from '../history/index.ts'
import { refreshNotices } from '../originals/index.ts'
import { type Context, Derived, found, newId, originalTopics, Refusal, stale, steadily } from '../platform/index.ts'
import {
  entities,
  ArrivalEntity,
  ArrivalFolderEntity,
  BackupEntity,
  BackupFileEntity,
  CopyEntity,
  CutEntity,
  MasterEntity,
  ProjectEntity,
  type ProjectRecord,
  TaskEntity,
  ViewingEntity,
} from '../records/index.ts'
import { forgetSettings, checkedClips, type ClipBrief, clipsInTurn, isLight } from '../store/index.ts'
import { cancelTasks } from '../tasks/index.ts'
import { awayVolumes, stateOf, volumeNames } from '../volumes/index.ts'

const rowOf = (p: ProjectRecord): ProjectRow => ({
  id: p.id,
  name: p.name,
  rate: { num: p.rateNum, den: p.rateDen },
  width: p.width,
  height: p.height,
  rateChosen: Boolean(p.rateChosen),
  version: p.version,
})

function rateOf(text: string): Rate {
  const r = typedRate(text)
  if (!r) throw new Refusal('bad-request', `"${text}" is not a frame rate. Write it as 25, 23.976 or 24000/1001.`)
  return r
}

export const projectOf = async (ctx: Context, id: string): Promise<ProjectRecord> => found(await ctx.repo(ProjectEntity).findOneBy({ id }), 'The project')
export const projectRow = async (ctx: Context, id: string): Promise<ProjectRow> => rowOf(await projectOf(ctx, id))
export const listProjects = async (ctx: Context): Promise<ProjectRow[]> => (await ctx.repo(ProjectEntity).find({ order: { created: 'DESC' } })).map(rowOf)

export async function createProject(ctx: Context, request: z.infer<typeof NewProject>): Promise<ProjectRow> {
  const r = request.rate ? rateOf(request.rate) : { num: 25, den: 1 }
  const record: ProjectRecord = {
    id: newId(),
    name: request.name,
    rateNum: r.num,
    rateDen: r.den,
    width: request.width ?? 1920,
    height: request.height ?? 1080,
    rateChosen: request.rate !== undefined || request.width !== undefined,
    version: 1,
    created: new Date(),
  }
  await ctx.repo(ProjectEntity).insert(record)
  await ctx.changed(record.id, 'projects')
  return rowOf(record)
}

type Format = Pick<ProjectRecord, 'name' | 'rateNum' | 'rateDen' | 'width' | 'height'>

/** What a change of a project's settings changed. */
function editSentence(before: Format, now: Format): string {
  const rateOfFormat = (f: Format): string => rateText({ num: f.rateNum, den: f.rateDen })
  const raster = (f: Format): string => `${f.width}×${f.height}`
  const parts = [
    ...(before.name === now.name ? [] : [`the name of the project from ${before.name} to ${now.name}`]),
    ...(rateOfFormat(before) === rateOfFormat(now) ? [] : [`the rate of the project from ${rateOfFormat(before)} to ${rateOfFormat(now)} fps`]),
    ...(raster(before) === raster(now) ? [] : [`the raster of the project from ${raster(before)} to ${raster(now)}`]),
  ]
  return parts.length ? `Changed ${parts.join(', ')}.` : 'Settled the rate and raster of the project as they were.'
}

export const editProject = change(async (ctx: Context, id: string, request: z.infer<typeof ProjectEdit>): Promise<ProjectRow> => {
  const before = await projectOf(ctx, id)
  const r = request.rate ? rateOf(request.rate) : { num: before.rateNum, den: before.rateDen }
  if ((r.num !== before.rateNum || r.den !== before.rateDen) && (await ctx.repo(CutEntity).countBy({ projectId: id, removed: false })) > 0)
    throw new Refusal('bad-request', 'The rate of a project with cut lists stays as it is; their frames count at it. Start another project for another rate.')
  const even = (n: number) => n - (n % 2)
  const now = {
    ...{ name: request.name ?? before.name, rateNum: r.num, rateDen: r.den },
    ...{ width: even(request.width ?? before.width), height: even(request.height ?? before.height) },
  }
  // A new name settles neither rate nor raster.
  const chosen = request.rate !== undefined || request.width !== undefined || request.height !== undefined
  const next = { ...now, rateChosen: chosen || Boolean(before.rateChosen), version: request.version + 1 }
  const done = await ctx.repo(ProjectEntity).update({ id, version: request.version }, next)
  if (!done.affected)
    throw stale(
      `Somebody changed this project meanwhile: it is now ${before.name}, ${rateText({ num: before.rateNum, den: before.rateDen })} fps, ${before.width}×${before.height}. Nothing was changed.`,
      rowOf(before),
    )
  await recordChange(ctx, id, editSentence(before, now), {
    kind: 'project',
    before: { name: before.name, rateNum: before.rateNum, rateDen: before.rateDen, width: before.width, height: before.height, rateChosen: before.rateChosen },
  })
  await refreshNotices(ctx, id)
  await ctx.changed(id, 'projects', 'clips', 'links')
  return projectRow(ctx, id)
})

const forgetProject = alone(async (ctx: Context, id: string): Promise<void> => {
  const active = await ctx.repo(TaskEntity).findBy({ projectId: id, state: In(['waiting', 'held', 'running']) })
  for (const batchId of new Set(active.map((t) => t.batchId))) await cancelTasks(ctx, { batchId })
  const backups = await ctx.repo(BackupEntity).find({ where: { projectId: id }, select: { id: true } })
  await ctx.repo(BackupFileEntity).delete({ backupId: In(backups.map((b) => b.id)) })
  const lookedAfter = await ctx.repo(ArrivalFolderEntity).find({ where: { projectId: id }, select: { id: true } })
  await ctx.repo(ArrivalEntity).delete({ folderId: In(lookedAfter.map((f) => f.id)) })
  const cuts = await ctx.repo(CutEntity).find({ where: { projectId: id }, select: { id: true } })
  for (const of of [id, ...cuts.map((c) => c.id)]) await forgetSettings(ctx.db, of)
  for (const entity of entities) if ('projectId' in entity.options.columns) await ctx.repo<{ projectId: string }>(entity as never).delete({ projectId: id })
  await ctx.repo(ProjectEntity).delete({ id })
  await ctx.changed(id, 'projects')
})
/** Forgets a project and what was written down for it; no media are touched. */
export async function removeProject(ctx: Context, id: string): Promise<void> {
  await forgetProject(ctx, id)
  // Held until then by the forgetting itself.
  await forgetWriter(ctx, id)
}

type OfClips = Omit<Summary, 'cuts' | 'events' | 'settled' | 'masters' | 'working' | 'toldUnsafe' | 'checked'>
const clipsSummed = new Derived<Promise<OfClips>>({ things: 6 })

export async function summary(ctx: Context, id: string): Promise<Summary> {
  const sum = await steadily(
    clipsSummed,
    id,
    () => stateOf(ctx, id, [...originalTopics, 'backups']),
    () => sumOfClips(ctx, id),
  )
  const cuts = await ctx.repo(CutEntity).find({ where: { projectId: id, removed: false }, order: { created: 'DESC' }, select: { id: true } })
  const newest = cuts[0] && (await cutOf(ctx, cuts[0].id))
  const links = newest ? (await linksOf(ctx, newest)).links : []
  const working = await ctx.repo(TaskEntity).countBy({ projectId: id, state: In(['waiting', 'held', 'running']) })
  return {
    ...sum,
    ...{ cuts: cuts.length, events: links.length, settled: links.filter((l) => !isOpen(l)).length, working },
    masters: await ctx.repo(MasterEntity).countBy({ projectId: id, state: 'verified' }),
    toldUnsafe: await toldUnsafe(ctx, id),
    checked: (await checkedClips(ctx.db, id)).size,
  }
}

/** What a project's clips come to. */
async function sumOfClips(ctx: Context, id: string): Promise<OfClips> {
  const gone = await awayVolumes(ctx)
  const copies = await ctx.repo(CopyEntity).find({ where: { projectId: id, state: 'checked', gone: false }, select: { clipId: true, kind: true } })
  const { labels } = await volumeNames(ctx)
  const hasCopy = new Set(copies.map((c) => c.clipId))
  const n = { clips: 0, originals: 0, seconds: 0, bytes: 0, copied: 0, copyable: 0, unsafe: 0, ticked: 0, safeTwice: 0 }
  const [rolls, days, away] = [new Set<string>(), new Set<string>(), new Map<string, number>()]
  const kinds = new Map<string, { notice: Notice; count: number }>()
  const technical: ClipBrief['technical'][] = []
  for await (const clips of clipsInTurn(ctx.db, id))
    for (const c of clips) {
      const t = c.technical
      n.clips++
      n.seconds += c.seconds
      n.bytes += c.size
      rolls.add(c.roll)
      days.add(c.day)
      if (c.ticked) n.ticked++
      if (c.backups > 1) n.safeTwice++
      if (!isLight(c)) n.originals++
      if (c.backups === 0 && !isLight(c)) n.unsafe++
      if (gone.has(c.volumeId)) away.set(c.volumeId, (away.get(c.volumeId) ?? 0) + 1)
      for (const code of c.noticeCodes.split(',').filter(Boolean)) {
        const kind = kinds.get(code)
        if (kind) kind.count++
        else {
          const notice = c.notices().find((x) => x.code === code)
          if (notice) kinds.set(code, { notice, count: 1 })
        }
      }
      if (isLight(c)) continue
      technical.push(t)
      if (!t.hasPicture || t.fault) continue
      n.copyable++
      if (hasCopy.has(c.id)) n.copied++
    }
  const advised = advise(technical)
  return {
    ...n,
    copyKinds: [...new Set(copies.map((c) => c.kind))].sort(),
    rolls: rolls.size,
    days: days.size,
    notices: [...kinds.values()].map(({ notice, count }) => ({ ...notice, count })).sort((a, b) => severity(b) - severity(a) || b.count - a.count),
    advice: advised && { ...advised, reasons: [...advised.reasons] },
    away: [...away].map(([volumeId, clips]) => ({ volume: labels.get(volumeId) ?? '?', why: gone.get(volumeId) ?? '', clips })),
    majority: majority(technical),
  }
}
const severity = (n: { severity: string }): number => ({ error: 2, warning: 1 })[n.severity] ?? 0

export async function viewingOf(ctx: Context, projectId: string): Promise<Viewing> {
  return (await ctx.repo(ViewingEntity).findOneBy({ projectId, who: ctx.config.user }))?.viewing ?? 'originals'
}
export async function setViewing(ctx: Context, projectId: string, viewing: Viewing): Promise<void> {
  await ctx.repo(ViewingEntity).upsert({ projectId, who: ctx.config.user, viewing }, ['projectId', 'who'])
  await ctx.changed(projectId, 'viewing')
}

/** How changes of a project's settings are taken back. */
export const projectTakeBacks = {
  project: {
    touched: (i) => [i.kind],
    rows: (ctx, id, i) => ctx.repo(ProjectEntity).update({ id }, { ...i.before, version: () => 'version + 1' }),
    notices: true,
  },
} satisfies Partial<TakeBacks>
