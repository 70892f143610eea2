/** Makes a master: renders the parts of its plan, joins them, checks the whole from the disk, and puts it in its place. */
import { mkdir, readdir, rename, rm } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { basename, dirname, join } from 'node:path'
import { blocked, type Layer, type PlanPart, type Plan, type PlanEvent, sourceOf } from '@naranja/core/plan'
import { formatFrames, length, sourceFrame } from '@naranja/core/time'
import {
  asideName,
  exists,
  fileHash,
  joinSegments,
  makeFolder,
  partName,
  putInPlace,
  renderedBy,
  renderParts,
  renderSound,
  type RenderTarget,
  type Root,
  segmentKey,
} from '@naranja/media'
import pLimit from 'p-limit'
import { copyTarget } from '../copies/index.ts'
import { cutOf, linksOf, type Planned, planOf } from '../cuts/index.ts'
import { type Context, found, isForRoom, Refusal } from '../platform/index.ts'
import { type CutRecord, MasterEntity, type MasterRecord, payloadOf, PullEntity, type TaskRecord } from '../records/index.ts'
import { type FinishedFrom, finishedFrom, madeFrom, pullSource } from '../sources/index.ts'
import { type RunTask, type RunTools, ReportedFailure } from '../tasks/index.ts'
import { rootsHere } from '../volumes/index.ts'
import { type Checked, checkMaster } from './check.ts'
import { masterSpec, uncheckedName } from './names.ts'
import { stretches, together } from './pieces.ts'
import { reportOf } from './report.ts'

/** A piece of a master, rendered by itself and kept until the newest master does not use it any more. */
interface Segment {
  readonly part: PlanPart
  readonly path: string
}

/** A master that is being made. */
interface Making {
  readonly ctx: Context
  readonly task: TaskRecord
  readonly tools: RunTools
  readonly master: MasterRecord
  readonly cut: CutRecord
  readonly planned: Planned
  /** The parts of the plan, each with where it is read from. */
  readonly parts: readonly PlanPart[]
  readonly sources: FinishedFrom
  readonly segments: readonly Segment[]
  readonly target: RenderTarget
  /** Where it will stand, and the root below which that is. */
  readonly path: string
  readonly root: Root
}

/** How much of the way rendering is; checking is the rest. */
const rendering = 0.75
/** Events that are named before a master with many that fail is given up. */
const mostFailed = 20

/** What the parts of a plan are read from: originals and what stands for them, or pulls where these hold what is used. */
async function sourcesOf(
  ctx: Context,
  { plan, clips, finishing }: Planned,
  cut: CutRecord,
  from: 'originals' | 'pulls',
): Promise<{ parts: PlanPart[]; sources: FinishedFrom }> {
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
  const parts = plan.parts.map((part): PlanPart => ({ ...part, layers: part.layers.map((l) => fromPull(l, length(part))) as unknown as PlanPart['layers'] }))
  return { parts, sources }
}

/** Segments of a cut lie together: another master of it uses those that are the same. */
const segmentFolder = (ctx: Context, cutId: string): string => join(ctx.config.folder, 'work', 'segments', cutId)

/** What is made, as things stand now. Refused where an event has no original any more. */
async function begun(ctx: Context, task: TaskRecord, tools: RunTools): Promise<Making> {
  const payload = payloadOf('master', task)
  const master = found(await ctx.repo(MasterEntity).findOneBy({ id: payload.masterId }), 'The master')
  const cut = await cutOf(ctx, master.cutId)
  const planned = await planOf(ctx, cut, { handles: 0, placeholders: payload.placeholders, missing: payload.missing ?? 'placeholder' })
  const { plan } = planned
  const stops = blocked(plan)
  if (stops.length > 0) throw new Refusal('blocked', `Things have changed since this master was started: ${stops.map(sentenceOf).join(' ')}`)
  const { target: path, root } = await copyTarget(ctx, master)
  const work = join(ctx.config.folder, 'work', 'masters', master.id)
  const { parts, sources } = await sourcesOf(ctx, planned, cut, payload.from)
  const by = await renderedBy()
  const segments = stretches(parts, sources.picture).map((part) => {
    const from = part.layers.map((l) => (l.kind === 'clip' ? sources.picture.get(sourceOf(l))?.key : ''))
    const name = segmentKey([masterSpec, plan.width, plan.height, plan.rate, part.layers, part.mix, length(part), from], by)
    return { part, path: join(segmentFolder(ctx, cut.id), `${name}.mov`) }
  })
  const target = { width: plan.width, height: plan.height, rate: plan.rate, work, font: ctx.config.fonts.text }
  return { ctx, task, tools, master, cut, planned, parts, sources, segments, target, path, root }
}

/** Why an event cannot be rendered. */
export const sentenceOf = (e: PlanEvent): string => `Event ${e.number} on ${e.track}: ${e.block}.`

/** Renders every segment that is not there yet. Where some cannot be rendered the others are, and stay. */
async function renderAll({ planned: { plan }, sources, segments, target, tools }: Making): Promise<void> {
  const { signal, progress, started } = tools
  const done = new Map<PlanPart, number>()
  const tell = (fps = 0, speed = 0) => progress(Math.round(rendering * [...done.values()].reduce((a, b) => a + b, 0)), plan.length, fps, speed)
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
}

/** The events that a part shows, for a message. */
function eventsOf(p: PlanPart, plan: Plan): string {
  const events = p.layers.flatMap((l) => (l.kind === 'black' ? [] : (plan.events.find((e) => e.eventId === l.eventId) ?? [])))
  return events.length ? events.map((e) => `event ${e.number} on ${e.track}`).join(' and ') : `frames ${p.in} to ${p.out - 1} of the cut`
}

/** Joins the segments, with the sound, in a file that is not in its place yet. */
async function joined({ planned: { plan }, cut, segments, sources, target, path, root, tools }: Making, part: string): Promise<void> {
  const { signal, progress, started } = tools
  // Joining has no pictures a second to tell.
  progress(Math.round(rendering * plan.length), plan.length)
  const sound = await renderSound(plan.sound, plan.soundTracks || 2, plan.length, plan.rate, sources.sound, target.work, signal)
  await makeFolder(dirname(path), root)
  const files = segments.map((s) => s.path)
  await joinSegments(files, sound, target, formatFrames(plan.start, plan.rate, cut.cut.drop), part, { signal, onStart: started })
}

/** Checks the whole file. It stays where its check cannot run, as one that is not checked. */
async function checked(making: Making, file: string, rendered: boolean): Promise<Checked> {
  const { ctx, master, planned, parts, cut, target, sources, tools } = making
  const { plan, clips } = planned
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
    signal: tools.signal,
    progress: (d, n) => tools.progress(Math.round(plan.length * (rendering + ((1 - rendering) * d) / n)), plan.length),
  })
  return checking.catch(async (e: Error) => {
    if (tools.signal.aborted) throw e
    // The file is whole: that its check cannot run is no reason to throw it away.
    const stands = rendered ? uncheckedName(making.path) : file
    if (rendered) await putInPlace(file, stands)
    await ctx.repo(MasterEntity).update({ id: master.id }, { state: 'unchecked' })
    await ctx.changed(master.projectId, 'masters')
    throw new ReportedFailure(`It is rendered and stands as ${basename(stands)}, but its check could not run: ${e.message} Check it again in Masters.`)
  })
}

/** Puts a master in its place where it is what the cut says, and aside where it is not. */
async function concluded({ ctx, master, cut, planned, segments, path }: Making, file: string, result: Checked): ReturnType<RunTask> {
  const { links } = await linksOf(ctx, cut)
  const report = reportOf(planned, cut, links, result, { path, checksum: `XXH3 ${await fileHash(file)}` })
  const { verified } = report
  if (verified) {
    if (file !== path) await putInPlace(file, path)
    await ctx.repo(MasterEntity).update({ id: master.id }, { state: 'verified', report })
    await forgetSegments(segmentFolder(ctx, cut.id), new Set(segments.map((s) => basename(s.path))))
  } else {
    // One that stood in its place already is left there.
    const aside = asideName(path)
    if (file !== path) await rename(file, aside)
    const where = file === path ? { report } : { report: { ...report, master: aside }, path: asideName(master.path) }
    await ctx.repo(MasterEntity).update({ id: master.id }, { state: 'failed-check', ...where })
  }
  await ctx.changed(master.projectId, 'masters', 'clips', 'links')
  const wrong = result.checks.filter((c) => !c.passed).map((c) => c.text)
  return {
    message: verified ? 'Checked: it is what the cut says.' : `It failed its check and was put aside as ${basename(asideName(path))}: ${wrong.join('; ')}.`,
    result: { verified },
  }
}

export const runMaster: RunTask = async (ctx, task, tools) => {
  const making = await begun(ctx, task, tools)
  const { master, path, target } = making
  await ctx.repo(MasterEntity).update({ id: master.id }, { state: 'being-made' })
  await ctx.changed(master.projectId, 'masters')
  const part = partName(path, task.id)
  // One that stands in its place already was finished by a run that was ended before it could say so; one that stands there unchecked is only checked.
  const unchecked = uncheckedName(path)
  const file = (await exists(path)) ? path : (await exists(unchecked)) ? unchecked : part
  if (file === path && task.attempts === 0 && task.done === 0) throw new Refusal('taken', `${path} stands there already; masters never overwrite.`)
  try {
    await mkdir(segmentFolder(ctx, master.cutId), { recursive: true })
    await mkdir(target.work, { recursive: true })
    if (file === part) {
      await renderAll(making)
      await joined(making, part)
    }
    return await concluded(making, file, await checked(making, file, file === part))
  } finally {
    await rm(part, { force: true })
    await rm(target.work, { recursive: true, force: true })
  }
}

/** Segments that the newest master does not use are not needed any more. */
async function forgetSegments(folder: string, used: ReadonlySet<string>): Promise<void> {
  for (const f of await readdir(folder)) if (!used.has(f)) await rm(join(folder, f), { force: true })
}
