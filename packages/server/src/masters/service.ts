import { mkdir, readdir, rename, rm } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { basename, dirname, join } from 'node:path'
import type { MasterReport, MasterRequest, MasterRow, Started } from '@naranja/contract'
import { bytesUnder } from '@naranja/core/estimate'
import { safeFileName } from '@naranja/core/naming'
import { blocked, type Layer, notCarried, type Part, type Plan, type PlanEvent, sourceOf } from '@naranja/core/plan'
import { standingText } from '@naranja/core/reconnect'
import { type Spec, specOf } from '@naranja/core/specs'
import { formatFrames, length, seconds, sourceFrame } from '@naranja/core/time'
import {
  asideName,
  exists,
  fileHash,
  joinBytes,
  joinSegments,
  partName,
  pathText,
  putInPlace,
  renderParts,
  renderSound,
  type RenderTarget,
  renderedBy,
  segmentKey,
  makeFolder,
} from '@naranja/media'
import pLimit from 'p-limit'
import { In } from 'typeorm'
import type { z } from 'zod'
import { copyTarget } from '../copies/index.ts'
import { clipFacts, cutOf, linksOf, type Planned, planOf, projectOfCut } from '../cuts/index.ts'
import { aloneWith } from '../history/index.ts'
import { type Context, found, isForRoom, newId, plural, Refusal } from '../platform/index.ts'
import { type FinishedFrom, finishedFrom, madeFrom, pullSource } from '../sources/index.ts'
import { payloadOf, type Payload, CutEntity, type CutRecord, MasterEntity, type MasterRecord, PullEntity, TaskEntity } from '../records/index.ts'
import { type RunTask, startBatch, Told } from '../tasks/index.ts'
import { refuseTooLarge, rememberTarget, roomAt, rootsHere, tidyFolder, volumeNames, writableTarget } from '../volumes/index.ts'
import { checkMaster } from './check.ts'
import { stretches, together } from './pieces.ts'

export const masterSpec = specOf('master-prores-hq') as Spec

const sentenceOf = (e: PlanEvent): string => `Event ${e.number} on ${e.track}: ${e.block}.`

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

/** What the parts of a plan are read from: originals and what stands for them, or pulls where these hold what is used. */
async function sourcesOf(
  ctx: Context,
  { plan, clips, finishing }: Planned,
  cut: CutRecord,
  from: 'originals' | 'pulls',
): Promise<{ parts: Part[]; sources: FinishedFrom }> {
  const sources = await finishedFrom(ctx, cut.projectId, clips.values(), finishing)
  if (from === 'originals') return { parts: [...plan.parts], sources }
  const roots = await rootsHere(ctx)
  const pulls = (await ctx.repo(PullEntity).findBy({ cutId: cut.id, state: 'checked' })).filter((p) => roots.has(p.volumeId) && madeFrom(p, finishing))
  const fromPull = (l: Layer, frames: number): Layer => {
    if (l.kind !== 'clip') return l
    const ends = [sourceFrame(l.first, l.k, l.step), sourceFrame(l.first, l.k + frames - 1, l.step)]
    const pull = pulls.find((p) => p.clipId === l.clipId && p.in <= Math.min(...ends) && p.out > Math.max(...ends))
    const [root, whole] = [pull && roots.get(pull.volumeId), sources.picture.get(l.clipId)]
    if (!pull || !root || !whole) return l
    sources.picture.set(pull.id, pullSource(pull, root, whole))
    return { ...l, source: pull.id }
  }
  const parts = plan.parts.map((part): Part => ({ ...part, layers: part.layers.map((l) => fromPull(l, length(part))) as unknown as Part['layers'] }))
  return { parts, sources }
}

export const runMaster: RunTask = async (ctx, task, { signal, progress, started }) => {
  const payload = payloadOf('master', task)
  const master = found(await ctx.repo(MasterEntity).findOneBy({ id: payload.masterId }), 'The master')
  const cut = await cutOf(ctx, master.cutId)
  const planned = await planOf(ctx, cut, { handles: 0, placeholders: payload.placeholders, missing: payload.missing ?? 'placeholder' })
  const { plan, clips } = planned
  const stops = blocked(plan)
  if (stops.length > 0) throw new Refusal('blocked', `Things have changed since this master was started: ${stops.map(sentenceOf).join(' ')}`)
  const { target: path, root } = await copyTarget(ctx, master)
  await ctx.repo(MasterEntity).update({ id: master.id }, { state: 'being-made' })
  await ctx.changed(master.projectId, 'masters')

  const segmentFolder = join(ctx.config.folder, 'work', 'segments', cut.id)
  const work = join(ctx.config.folder, 'work', 'masters', master.id)
  await mkdir(segmentFolder, { recursive: true })
  await mkdir(work, { recursive: true })
  const target: RenderTarget = { width: plan.width, height: plan.height, rate: plan.rate, work, font: ctx.config.fonts.text }
  const { parts, sources } = await sourcesOf(ctx, planned, cut, payload.from)
  const by = await renderedBy()
  const segments = stretches(parts, sources.picture).map((p) => {
    const from = p.layers.map((l) => (l.kind === 'clip' ? sources.picture.get(sourceOf(l))?.key : ''))
    const name = segmentKey([masterSpec, plan.width, plan.height, plan.rate, p.layers, p.mix, length(p), from], by)
    return { part: p, path: join(segmentFolder, `${name}.mov`) }
  })
  const part = partName(path, task.id)
  // Rendering is three quarters of the way, checking the rest.
  const total = plan.length
  const done = new Map<Part, number>()
  const tell = (fps = 0, speed = 0) => progress(Math.round(0.75 * [...done.values()].reduce((a, b) => a + b, 0)), total, fps, speed)
  // One that stands in its place already was finished by a run that was ended before it could say so; one that stands there unchecked is only checked.
  const unchecked = uncheckedName(path)
  const file = (await exists(path)) ? path : (await exists(unchecked)) ? unchecked : part
  try {
    if (file === part) {
      const limit = pLimit(Math.min(2, availableParallelism()))
      const failed = new Map<string, string>()
      await Promise.all(
        together(segments, sources.picture).map((some) =>
          limit(async () => {
            signal.throwIfAborted()
            if (failed.size >= mostFailed) return
            // Each of them is about as far as the first, which is what FFmpeg tells.
            const are = (frames: number) => {
              for (const { part } of some) done.set(part, Math.min(frames, length(part)))
            }
            const wrong = await renderParts(some, masterSpec, target, sources.picture, {
              signal,
              onStart: started,
              onProgress: (now) => {
                are(now.frame)
                tell(now.fps, now.speed)
              },
            })
            for (const { part, path } of some) {
              const why = wrong.get(path)
              if (isForRoom(why)) throw why
              if (why) failed.set(eventsOf(part, plan), why.message)
            }
            are(Number.POSITIVE_INFINITY)
            tell()
          }),
        ),
      )
      if (failed.size > 0)
        throw new Error(
          `${failed.size >= mostFailed ? `At least ${mostFailed}` : failed.size} of its events could not be rendered. ${[...failed].map(([events, why]) => `${events}: ${why}`).join(' ')} The parts rendered so far are kept.`,
        )
      // Joining has no pictures a second to tell.
      progress(Math.round(0.75 * total), total)
      const silentCut = plan.soundTracks === 0
      const sound = await renderSound(plan.sound, silentCut ? 2 : plan.soundTracks, plan.length, plan.rate, sources.sound, work, signal)
      await makeFolder(dirname(path), root)
      await joinSegments(
        segments.map((s) => s.path),
        sound,
        target,
        formatFrames(plan.start, plan.rate, cut.cut.drop),
        part,
        { signal, onStart: started },
      )
    } else if (file === path && task.attempts === 0 && task.done === 0) throw new Refusal('taken', `${path} stands there already; masters never overwrite.`)
    const nameOf = (e: PlanEvent) =>
      (e.clipId && clips.get(e.clipId)?.name && `${clips.get(e.clipId)?.name}${e.finishing ? `, from ${e.finishing}` : ''}`) || 'black'
    const checking = checkMaster({
      path: file,
      plan: { ...plan, parts },
      target,
      sources: sources.picture,
      drop: cut.cut.drop,
      soundTracks: plan.soundTracks || 2,
      silent: plan.soundTracks === 0,
      codec: 'ProRes 422 HQ',
      name: nameOf,
      signal,
      progress: (d, n) => progress(Math.round(total * (0.75 + (0.25 * d) / n)), total),
    })
    const checked = await checking.catch(async (e: Error) => {
      if (signal.aborted) throw e
      // The file is whole: that its check cannot run is no reason to throw it away.
      if (file === part) await putInPlace(part, unchecked)
      await ctx.repo(MasterEntity).update({ id: master.id }, { state: 'unchecked' })
      await ctx.changed(master.projectId, 'masters')
      throw new Told(
        `It is rendered and stands as ${basename(file === part ? unchecked : file)}, but its check could not run: ${e.message} Check it again in Masters.`,
      )
    })
    const { links } = await linksOf(ctx, cut)
    const verified = checked.checks.every((c) => c.passed)
    const fromCopies = finishedBy(planned)
    const lacking = plan.events.filter((e) => e.partial && e.missing > 0)
    const lightUsed = lightIn(planned)
    const report: MasterReport = {
      format: 1,
      master: path,
      cut: cut.name,
      spec: masterSpec.name,
      frames: checked.frames,
      framesExpected: plan.length,
      verified,
      checks: [
        ...checked.checks,
        ...(fromCopies.length ? [finishedText(fromCopies)] : []),
        ...(lacking.length ? [missingText(lacking)] : []),
        ...enlargedText(planned),
        ...lightText(lightUsed),
      ],
      events: checked.events,
      placeholders: plan.events.filter((e) => e.placeholder).map((e) => ({ eventId: e.eventId, reason: e.block ?? '' })),
      missing: lacking.map((e) => ({ eventId: e.eventId, frames: e.missing, held: e.block === null })),
      finishing: fromCopies,
      enlarged: planned.enlarged.map((s) => ({ ...s, eventIds: [...s.eventIds] })),
      light: lightUsed,
      unconfirmed: links.filter((l) => l.state === 'likely').map((l) => l.eventId),
      notCarried: notCarried(cut.cut, plan),
      checksum: `XXH3 ${await fileHash(file)}`,
      made: new Date().toISOString(),
    }
    if (!verified) {
      const aside = asideName(path)
      if (file !== path) await rename(file, aside)
      await ctx.repo(MasterEntity).update(
        { id: master.id },
        {
          state: 'failed-check',
          report: { ...report, master: file === path ? path : aside },
          ...(file !== path ? { path: asideName(master.path) } : {}),
        },
      )
      await ctx.changed(master.projectId, 'masters', 'clips', 'links')
      return {
        message: `It failed its check and was put aside as ${basename(aside)}: ${checked.checks
          .filter((c) => !c.passed)
          .map((c) => c.text)
          .join('; ')}.`,
        result: { verified },
      }
    }
    if (file !== path) await putInPlace(file, path)
    await ctx.repo(MasterEntity).update({ id: master.id }, { state: 'verified', report })
    await forgetSegments(segmentFolder, new Set(segments.map((s) => basename(s.path))))
    await ctx.changed(master.projectId, 'masters', 'clips', 'links')
    return { message: 'Checked: it is what the cut says.', result: { verified } }
  } finally {
    await rm(part, { force: true })
    await rm(work, { recursive: true, force: true })
  }
}

/** Events that are named before a master with many that fail is given up. */
const mostFailed = 20
/** The name of a master that is rendered, and not checked yet. */
const uncheckedName = (path: string): string => path.replace(/\.mov$/, ' unchecked.mov')

/** The events that a part shows, for a message. */
function eventsOf(p: Part, plan: Plan): string {
  const events = p.layers.flatMap((l) => (l.kind === 'black' ? [] : (plan.events.find((e) => e.eventId === l.eventId) ?? [])))
  return events.length ? events.map((e) => `event ${e.number} on ${e.track}`).join(' and ') : `frames ${p.in} to ${p.out - 1} of the cut`
}

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

/** What was not finished from its original, clip by clip. */
const finishedBy = ({ plan, clips, finishing }: Planned): MasterReport['finishing'] =>
  [...finishing].flatMap(([id, f]) => {
    const eventIds = plan.events.filter((e) => e.clipId === id && e.block === null).map((e) => e.eventId)
    if (eventIds.length === 0) return []
    const decided = f.by === 'clip' ? 'decided for this clip' : 'decided for every clip of the project whose original cannot be read'
    return [{ clip: clips.get(id)?.name ?? '?', copy: f.name, eventIds, decided: [decided, ...f.notes].join(', ') }]
  })

const finishedText = (list: MasterReport['finishing']): MasterReport['checks'][number] => {
  const events = list.reduce((n, f) => n + f.eventIds.length, 0)
  return {
    code: 'finishing',
    passed: true,
    text: `${plural(events, 'event comes', 'events come')} from intermediates, as decided: ${list.map((f) => f.copy).join(', ')}`,
  }
}

/** Sources that are enlarged, as a check that only tells. */
const enlargedText = ({ enlarged }: Planned): MasterReport['checks'] =>
  enlarged.length === 0
    ? []
    : [
        {
          code: 'enlarged',
          passed: true,
          text: `${plural(enlarged.length, 'source is', 'sources are')} smaller than the master and enlarged: ${enlarged.map((s) => `${s.clip} (${s.width}×${s.height}) to ${s.percent} %`).join(', ')}`,
        },
      ]

/** Light copies that stand for originals, as a person named them. */
const lightIn = ({ plan, clips, light }: Planned): MasterReport['light'] =>
  [...light].flatMap(([id, of]) => {
    const eventIds = plan.events.filter((e) => e.clipId === id && e.block === null).map((e) => e.eventId)
    return eventIds.length ? [{ clip: clips.get(id)?.name ?? '?', of, eventIds }] : []
  })
const lightText = (list: MasterReport['light']): MasterReport['checks'] =>
  list.length === 0
    ? []
    : [
        {
          code: 'light-copy',
          passed: true,
          text: `Light copies were used as originals, as decided: ${list.map((l) => `${l.clip}, a copy of ${l.of}`).join('; ')}`,
        },
      ]

const missingText = (list: readonly PlanEvent[]): MasterReport['checks'][number] => {
  const n = list.reduce((sum, e) => sum + e.missing, 0)
  const held = list.every((e) => e.block === null)
  return {
    code: 'missing',
    passed: true,
    text: `${plural(n, 'frame')} of ${plural(list.length, 'event')} ${n === 1 ? 'does' : 'do'} not exist in the originals: ${held ? 'the picture beside them is held' : 'placeholders stand for them'}`,
  }
}

/** Segments that the newest master does not use are not needed any more. */
async function forgetSegments(folder: string, used: ReadonlySet<string>): Promise<void> {
  for (const f of await readdir(folder)) if (!used.has(f)) await rm(join(folder, f), { force: true })
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
