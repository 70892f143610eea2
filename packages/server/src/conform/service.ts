/** The conform: its plan and its pulls. */
import type { PlanAnswer, PlanRow, PullRequest, PullRow, Started } from '@naranja/contract'
import { bytesUnder } from '@naranja/core/estimate'
import { ownStem, stampText } from '@naranja/core/clip'
import { safeFileName } from '@naranja/core/naming'
import { type PlanEvent, type PullPlan, planPulls } from '@naranja/core/plan'
import type { FrameRange } from '@naranja/core/time'
import { promised, type Spec, specOf } from '@naranja/core/specs'
import { CheckFailed, commandLine, copyCommand, joinBytes, lastName, makeCopy, pathText } from '@naranja/media'
import { In } from 'typeorm'
import type { z } from 'zod'
import { copyJob, copyTarget, learnPace, Pace, pieceOf } from '../copies/index.ts'
import { cutOf, eventsPlanned, projectOfCut } from '../cuts/index.ts'
import { aloneWith } from '../history/index.ts'
import { type Context, Derived, found, Json, newId, Parts, plural, Refusal } from '../platform/index.ts'
import { couldFinish, finishedMaterial, finishingOf, fromFinishing, fromOriginal, madeFrom } from '../sources/index.ts'
import { factsOf, type Material } from '../specs/index.ts'
import { payloadOf, ClipEntity, type ClipRecord, PullEntity } from '../records/index.ts'
import { inPortions } from '../store/index.ts'
import { type RunTask, startBatch } from '../tasks/index.ts'
import { refuseTooLarge, rememberTarget, roomAt, tidyFolder, volumeNames, writableTarget } from '../volumes/index.ts'

export const pullSpec = specOf('pull-dnxhr-hqx') as Spec
/** A pull of a clip as a piece of work: its own rate, all of its picture and sound. */
const pullPiece = (c: Material, range: FrameRange) => pieceOf(c, promised(pullSpec, { ...factsOf(c, null), crop: null }, c.technical.rate, range), range)

type PullOfPlan = PlanAnswer['pulls'][number]

function planRow(e: PlanEvent, clip: ClipRecord | undefined, name: string, could: boolean): PlanRow {
  const { eventId, number, track, recordIn, recordOut, clipId, source, used, at, handles, dissolve, scale, finishing, block, missing, partial } = e
  return {
    ...{ eventId, number, track, name: clip?.name ?? name, recordIn, recordOut, clipId, clipFrames: clip?.frames ?? 0, source, used },
    step: at?.step ?? { num: 1, den: 1 },
    ...{ handles, dissolve, scale, notes: [...e.notes], finishing, block, missing, partial, couldFinish: could },
  }
}

function pullOf(p: PullPlan, name: string, source: Material) {
  const piece = pullPiece(source, p.range)
  const bytes = bytesUnder(pullSpec, piece)
  const row: PullOfPlan = { clipId: p.clipId, range: p.range, eventIds: [...p.eventIds], name, bytes }
  return { source, piece, row }
}

/** The file of a pull below the folder that pulls are written to: reel, name of the original, range, and whether it comes from an intermediate. */
const pullFile = (clip: ClipRecord, range: FrameRange, fromCopy: boolean, volume: string | undefined): string => {
  const frame = (n: number): string => String(n).padStart(6, '0')
  const own = ownStem(pathText(lastName(clip.path)), clip.technical.sequence)
  return `${safeFileName(clip.reel ?? volume ?? 'reel')}/${own}_${frame(range.in)}-${frame(range.out - 1)}${fromCopy ? '_from-intermediate' : ''}.mov`
}

/** Rows of a plan, of what it enlarges, and of its pulls with what each takes. */
interface RowsWritten {
  readonly events: Parts<Json<PlanRow>>
  readonly enlarged: Parts<Json<PlanAnswer['enlarged'][number]>>
  readonly pulls: Parts<ReturnType<typeof pullOf> & { readonly text: Json<PullOfPlan> }>
}
const rowsWritten = new Derived<RowsWritten>({ things: 12 })

/** The plan of a cut as people see it. */
export async function planAnswer(ctx: Context, cutId: string, handles: number): Promise<Json<PlanAnswer>> {
  const cut = await cutOf(ctx, cutId)
  const { plan, clips, finishing, enlarged } = await eventsPlanned(ctx, cut, { handles, placeholders: false })
  const [could, pace] = await Promise.all([couldFinish(ctx, [...clips.values()], finishing), Pace.of(ctx)])
  const names = new Map(cut.cut.events.map((e) => [e.id, e.clipName ?? e.reel ?? '']))
  const written = rowsWritten.of(cutId, `${handles} ${plan.width}×${plan.height}`, () => ({ events: new Parts(), enlarged: new Parts(), pulls: new Parts() }))
  const events = plan.events.map((e) => {
    const clip = e.clipId ? clips.get(e.clipId) : undefined
    const can = clip !== undefined && could.has(clip.id)
    return written.events.of(e.eventId, [e, clip, can], () => Json.of(planRow(e, clip, names.get(e.eventId) ?? '', can)))
  })
  const wanted = planPulls(plan)
  const pulls = wanted.flatMap((p) => {
    const clip = clips.get(p.clipId)
    if (!clip) return []
    const source = finishedMaterial(clip, finishing.get(clip.id))
    // No event is in two pulls.
    return written.pulls.of(p.eventIds[0] ?? '', [source, p.range.in, p.range.out, ...p.eventIds], () => {
      const pull = pullOf(p, clip.name, source)
      return { ...pull, text: Json.of(pull.row) }
    })
  })
  const { width, height, length, soundTracks } = plan
  const [one] = wanted
  const first = one && clips.get(one.clipId)
  const { labels } = await volumeNames(ctx)
  return Json.object<PlanAnswer>({
    enlarged: Json.list(
      enlarged.map((s, i) => {
        const text = JSON.stringify(s)
        return written.enlarged.of(String(i), [text], () => Json.of({ ...s, eventIds: [...s.eventIds] }))
      }),
    ),
    first: one && first ? pullFile(first, one.range, finishing.has(first.id), labels.get(first.volumeId)) : null,
    ...{ width, height, length, soundTracks, bytes: pulls.reduce((n, p) => n + p.row.bytes, 0) },
    time: Math.ceil(pulls.reduce((n, p) => n + pace.seconds(p.source, [{ spec: pullSpec, piece: p.piece }]), 0)),
    events: Json.list(events),
    pulls: Json.list(pulls.map((p) => p.text)),
  })
}

/** Sets the pulls of a cut going: used ranges with handles, joined where they overlap. */
export async function startPulls(ctx: Context, cutId: string, request: z.infer<typeof PullRequest>): Promise<Started> {
  return aloneWith(ctx, await projectOfCut(ctx, cutId), (alone) => setPullsGoing(alone, cutId, request))
}

async function setPullsGoing(ctx: Context, cutId: string, request: z.infer<typeof PullRequest>): Promise<Started> {
  const cut = await cutOf(ctx, cutId)
  const { plan, clips, finishing } = await eventsPlanned(ctx, cut, { handles: request.handles, placeholders: false })
  const wanted = planPulls(plan)
  if (wanted.length === 0) throw new Refusal('bad-request', 'No event of this cut can be pulled yet. Settle the open ones in Reconnect.')
  const target = await writableTarget(ctx, request)
  const folder = tidyFolder(request.folder)
  const sized = wanted.map((w) => {
    const clip = found(clips.get(w.clipId) ?? null, 'The original')
    const from = finishing.get(clip.id)
    const source = finishedMaterial(clip, from)
    return { ...w, clip, from, source, piece: pullPiece(source, w.range) }
  })
  const bytes = sized.reduce((n, w) => n + bytesUnder(pullSpec, w.piece), 0)
  refuseTooLarge(bytes, await roomAt(target.path), 'Choose another place or shorter handles.')
  const old = await ctx.repo(PullEntity).findBy({ cutId })
  const pace = await Pace.of(ctx)
  const { labels } = await volumeNames(ctx)
  const tasks = []
  const rows: object[] = []
  const taken = new Set<string>()
  let [kept, coming] = [0, 0]
  for (const w of sized) {
    const plain = [folder, pullFile(w.clip, w.range, w.from !== undefined, labels.get(w.clip.volumeId))].filter(Boolean).join('/')
    // Two originals of one name on one reel would give one pull.
    const path = taken.has(plain) ? plain.replace(/\.mov$/, `_${w.clipId.slice(0, 8)}.mov`) : plain
    taken.add(path)
    const before = old.find(
      (p) =>
        p.clipId === w.clipId && p.in === w.range.in && p.out === w.range.out && p.volumeId === request.volumeId && p.path === path && madeFrom(p, finishing),
    )
    if (before?.state === 'checked') {
      kept++
      continue
    }
    // Somebody asked for it before, and it is on its way.
    if (before?.state === 'waiting' || before?.state === 'being-made') {
      coming++
      continue
    }
    const id = before?.id ?? newId()
    rows.push({
      ...{ id, projectId: cut.projectId, cutId, clipId: w.clipId, in: w.range.in, out: w.range.out },
      ...{ volumeId: request.volumeId, path, state: 'waiting', source: w.from?.copy.id ?? null, report: null },
    })
    tasks.push({
      label: `${w.clip.name} ${w.range.in}–${w.range.out - 1}`,
      payload: { pullId: id },
      needs: [w.from?.copy.volumeId ?? w.clip.volumeId, request.volumeId],
      total: w.range.out - w.range.in,
      unit: 'frames',
      cost: pace.seconds(w.source, [{ spec: pullSpec, piece: w.piece }]),
    })
  }
  await rememberTarget(ctx, cut.projectId, 'pulls', request)
  if (tasks.length === 0)
    return {
      ...{ batchId: newId(), taskIds: [] },
      message: coming
        ? `${plural(coming, 'pull is', 'pulls are')} being made already${kept ? `, ${kept} stand there` : ''}.`
        : `All ${kept} pulls are made already.`,
    }
  const started = await startBatch(ctx, cut.projectId, 'pull', `Pulls for ${cut.name}: ${tasks.length}`, tasks, `Making ${tasks.length} pulls.`, async (db) => {
    for (const some of inPortions(rows)) await db.getRepository(PullEntity).upsert(some as never, ['id'])
  })
  await ctx.changed(cut.projectId, 'pulls')
  return started
}

export const runPull: RunTask = async (ctx, task, { signal, threads, progress, spent, started }) => {
  const { pullId } = payloadOf('pull', task)
  const pull = found(await ctx.repo(PullEntity).findOneBy({ id: pullId }), 'The pull')
  const clip = found(await ctx.repo(ClipEntity).findOneBy({ id: pull.clipId }), 'The original')
  const finishing = await finishingOf(ctx, clip.projectId, [clip])
  if (!madeFrom(pull, finishing))
    throw new Refusal('bad-request', `What ${clip.name} is finished from was changed after this pull was started. Make the pulls again.`)
  const from = finishing.get(clip.id)
  const source = from ? await fromFinishing(ctx, clip, from) : await fromOriginal(ctx, clip, true)
  const place = await copyTarget(ctx, pull)
  const first = from?.held.in ?? 0
  const range = { in: pull.in - first, out: pull.out - first }
  const job = await copyJob(ctx, clip, source, [{ spec: pullSpec, ...place }], range)
  // A pull always counts: a clip without timecode counts from zero, and the lists that refer to the pull say so. Its stamp is the original's.
  const stamp = stampText(clip.contentId, clip.start, clip.technical.rate)
  const full = { ...job, outputs: job.outputs.map((o) => ({ ...o, carried: { ...o.carried, stamp, start: o.carried.start ?? pull.in } })) }
  await ctx.repo(PullEntity).update({ id: pullId }, { state: 'being-made' })
  await ctx.changed(clip.projectId, 'pulls')
  const n = range.out - range.in
  try {
    const report = await makeCopy(full, task.id, bytesUnder(pullSpec, pullPiece(source.material, range)), {
      signal,
      threads,
      onStart: started,
      onProgress: (p) => progress(Math.min(p.frame, n), n, p.fps, p.speed),
    })
    await ctx.repo(PullEntity).update({ id: pullId }, { state: 'checked', report })
    await learnPace(ctx, source.material, [{ spec: pullSpec, piece: pullPiece(source.material, range) }], spent())
    await ctx.changed(clip.projectId, 'pulls')
    return { message: 'Checked.', command: commandLine(copyCommand(full)) }
  } catch (e) {
    if (e instanceof CheckFailed) await ctx.repo(PullEntity).update({ id: pullId }, { state: 'failed-check', report: e.report })
    throw e
  }
}

export async function listPulls(ctx: Context, cutId: string): Promise<PullRow[]> {
  const pulls = await ctx.repo(PullEntity).findBy({ cutId })
  const clips = new Map(
    (pulls.length ? await ctx.repo(ClipEntity).find({ where: { id: In(pulls.map((p) => p.clipId)) }, select: { id: true, name: true } }) : []).map((c) => [
      c.id,
      c.name,
    ]),
  )
  const { roots } = await volumeNames(ctx)
  return pulls.map(
    (p): PullRow => ({
      id: p.id,
      clipId: p.clipId,
      name: clips.get(p.clipId) ?? '?',
      range: { in: p.in, out: p.out },
      path: pathText(joinBytes(roots.get(p.volumeId) ?? Buffer.alloc(0), Buffer.from(p.path))),
      state: p.state,
      fromCopy: p.source !== null,
      faults: [...(p.report?.faults ?? [])],
    }),
  )
}
