/** Masters as people ask for them: set going, checked again, listed. */
import { basename, join } from 'node:path'
import type { MasterRequest, MasterRow, Started } from '@naranja/contract'
import { bytesUnder } from '@naranja/core/estimate'
import { safeFileName } from '@naranja/core/naming'
import { blocked } from '@naranja/core/plan'
import { standingText } from '@naranja/core/reconnect'
import { seconds } from '@naranja/core/time'
import { exists, joinBytes, pathText } from '@naranja/media'
import { In } from 'typeorm'
import type { z } from 'zod'
import { copyTarget } from '../copies/index.ts'
import { clipFacts, cutOf, planOf, projectOfCut } from '../cuts/index.ts'
import { aloneWith } from '../history/index.ts'
import { type Context, found, newId, Refusal } from '../platform/index.ts'
import { CutEntity, MasterEntity, type MasterRecord, type Payload, payloadOf, TaskEntity } from '../records/index.ts'
import { startBatch } from '../tasks/index.ts'
import { refuseTooLarge, rememberTarget, roomAt, tidyFolder, volumeNames, writableTarget } from '../volumes/index.ts'
import { masterSpec, uncheckedName } from './names.ts'
import { sentenceOf } from './run.ts'

/** Sets a master going. Refused, with every event named, while one has no original to come from. */
export async function startMaster(ctx: Context, cutId: string, request: z.infer<typeof MasterRequest>): Promise<Started & { masterId: string }> {
  return aloneWith(ctx, await projectOfCut(ctx, cutId), (alone) => setMasterGoing(alone, cutId, request))
}

async function setMasterGoing(ctx: Context, cutId: string, request: z.infer<typeof MasterRequest>): Promise<Started & { masterId: string }> {
  const cut = await cutOf(ctx, cutId)
  const { plan } = await planOf(ctx, cut, { handles: 0, placeholders: request.placeholders, missing: request.missing })
  const stops = blocked(plan)
  if (stops.length > 0)
    throw new Refusal(
      'blocked',
      `${stops.length} of ${plan.events.length} events cannot be rendered. Settle them in Reconnect, or let placeholders stand for them.`,
      stops.map(sentenceOf),
    )
  const file = `${safeFileName(request.file).replace(/\.mov$/i, '')}.mov`
  const target = await writableTarget(ctx, request)
  const folder = tidyFolder(request.folder)
  const path = [folder, file].filter(Boolean).join('/')
  if (await exists(join(target.path, uncheckedName(file))))
    throw new Refusal(
      'taken',
      `${uncheckedName(file)} stands in ${target.path}: a master of this name was rendered, and not checked. Check it first, or choose another name.`,
    )
  if (await ctx.repo(MasterEntity).existsBy({ volumeId: request.volumeId, path, state: In(['waiting', 'being-made']) }))
    throw new Refusal('taken', `${file} is being rendered to ${target.path} already. See how far it is, or choose another name.`)
  if (await exists(join(target.path, file)))
    throw new Refusal('taken', `${file} stands in ${target.path} already; masters never overwrite. Choose another name.`)
  const bytes = bytesUnder(masterSpec, {
    frames: plan.length,
    rate: plan.rate,
    size: plan,
    pixelAspect: 1,
    channels: plan.soundTracks || 2,
    seconds: seconds(plan.length, plan.rate),
  })
  refuseTooLarge(bytes, await roomAt(target.path), 'Choose another place.', ', and as much again while rendering', 2)
  const id = newId()
  const row = {
    ...{ id, projectId: cut.projectId, cutId, volumeId: request.volumeId, path, state: 'waiting' as const },
    ...{ width: plan.width, height: plan.height, report: null, created: new Date() },
  }
  await rememberTarget(ctx, cut.projectId, 'masters', request)
  const started = await startBatch(
    ctx,
    cut.projectId,
    'master',
    `Master ${file}`,
    [{ label: file, payload: { masterId: id, ...choices(request) }, total: plan.length, unit: 'frames', cost: plan.length }],
    `Rendering ${file}.`,
    async (db) => void (await db.getRepository(MasterEntity).insert(row)),
  )
  await ctx.changed(cut.projectId, 'masters')
  return { ...started, masterId: id }
}

/** What a person chose for a master, as its task keeps it. */
const choices = (r: z.infer<typeof MasterRequest>) => ({ from: r.from, placeholders: r.placeholders, missing: r.missing })

/** Checks a master that is rendered and stands unchecked. */
export async function checkAgain(ctx: Context, masterId: string): Promise<Started> {
  const master = found(await ctx.repo(MasterEntity).findOneBy({ id: masterId }), 'The master')
  const file = basename(master.path)
  const task = await ctx.repo(TaskEntity).findOne({ where: { kind: 'master', label: file, projectId: master.projectId }, order: { created: 'DESC' } })
  const { target: path } = await copyTarget(ctx, master)
  if (master.state !== 'unchecked' || !(await exists(uncheckedName(path)))) throw new Refusal('bad-request', `${file} does not stand there unchecked.`)
  const payload: Payload<'master'> = { from: 'originals', placeholders: true, ...(task ? payloadOf('master', task) : {}), masterId }
  const frames = task?.total ?? 1
  const started = await startBatch(
    ctx,
    master.projectId,
    'master',
    `Check ${file}`,
    [{ label: file, payload, total: frames, unit: 'frames', cost: frames / 4 }],
    `Checking ${file}.`,
    async (db) => void (await db.getRepository(MasterEntity).update({ id: masterId }, { state: 'waiting' })),
  )
  await ctx.changed(master.projectId, 'masters')
  return started
}

/** Clips that a finished master shows and that do not count as originals now, though they did when it was made. */
async function doubtsOf(ctx: Context, m: MasterRecord): Promise<string[]> {
  if (!m.report) return []
  const used = new Set(m.report.events.flatMap((e) => e.points.flatMap((p) => (p.clipId ? [p.clipId] : []))))
  const facts = await clipFacts(ctx, m.projectId)
  const known = new Set(m.report.light.map((l) => l.clip))
  return [...used].flatMap((id) => {
    const clip = facts.get(id)
    if (!clip?.light || known.has(clip.name)) return []
    return [`It shows ${clip.place}${clip.name}, which ${standingText(clip)}. Reconnect its events and render it again.`]
  })
}

async function rowOf(ctx: Context, m: MasterRecord): Promise<MasterRow> {
  const [cut, { roots }] = await Promise.all([ctx.repo(CutEntity).findOne({ where: { id: m.cutId }, select: { id: true, name: true } }), volumeNames(ctx)])
  return {
    id: m.id,
    cutId: m.cutId,
    cut: cut?.name ?? '?',
    path: pathText(joinBytes(roots.get(m.volumeId) ?? Buffer.alloc(0), Buffer.from(m.state === 'unchecked' ? uncheckedName(m.path) : m.path))),
    state: m.state,
    width: m.width,
    height: m.height,
    created: m.created.toISOString(),
    report: m.report,
    doubts: await doubtsOf(ctx, m),
  }
}

export const masterRow = async (ctx: Context, id: string): Promise<MasterRow> => rowOf(ctx, found(await ctx.repo(MasterEntity).findOneBy({ id }), 'The master'))
export const listMasters = async (ctx: Context, projectId: string): Promise<MasterRow[]> =>
  Promise.all((await ctx.repo(MasterEntity).find({ where: { projectId }, order: { created: 'DESC' } })).map((m) => rowOf(ctx, m)))
