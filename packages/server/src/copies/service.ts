/** Edit copies: what they will take, setting them going, and making one. */
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import type { CopyEstimate, CopyRequest, CopyRow, Started } from '@naranja/contract'
import { stampText } from '@naranja/core/clip'
import { bytesText, bytesUnder, pixelsOf, type Piece, secondsUnder } from '@naranja/core/estimate'
import { stem } from '@naranja/core/naming'
import { lossesUnder, type Spec, sizeUnder, specOf } from '@naranja/core/specs'
import { seconds } from '@naranja/core/time'
import { CheckFailed, commandLine, type CopyJob, copyArgs, fileSize, freeSpace, joinBytes, makeCopy, parentOf, pathText } from '@naranja/media'
import { In } from 'typeorm'
import type { z } from 'zod'
import { type Context, newId } from '../context.ts'
import { found, Refusal } from '../errors.ts'
import { finishingInput, inputOf, projectDecode } from '../originals/decode.ts'
import { ClipEntity, type ClipRecord, CopyEntity, type CopyRecord, SettingEntity } from '../store/index.ts'
import type { RunTask } from '../tasks/runner.ts'
import { inPortions, startBatch } from '../tasks/service.ts'
import { awayVolumes, resolvePlace, resolveTarget, volumeNames, tidyFolder } from '../volumes/service.ts'
import { plural } from '../words.ts'

type Request = z.infer<typeof CopyRequest>

export const pieceOf = (c: ClipRecord, frames = c.frames): Piece => ({
  frames,
  size: { width: c.technical.width, height: c.technical.height },
  pixelAspect: c.technical.pixelAspect,
  channels: c.technical.sound?.channels ?? 0,
  seconds: seconds(frames, c.technical.rate),
})

export function copySpec(code: string): Spec {
  const spec = specOf(code)
  if (!spec || (spec.kind !== 'proxy' && spec.kind !== 'intermediate'))
    throw new Refusal('bad-request', `There is no spec for edit copies called "${code}". Choose H.264 proxy 720, ProRes proxy 1080 or DNxHR SQ intermediate.`)
  return spec
}

/** Measured pixels per second of this machine under a spec, all its tasks together. */
export async function measuredSpeed(ctx: Context, spec: Spec): Promise<{ pixelsPerSecond: number } | null> {
  const s = await ctx.repo(SettingEntity).findOneBy({ name: `speed ${spec.code}` })
  return typeof s?.value === 'number' ? { pixelsPerSecond: s.value } : null
}

/** Lets what was just measured count for a third. */
export async function learnSpeed(ctx: Context, spec: Spec, pixels: number, elapsed: number): Promise<void> {
  if (elapsed < 0.2) return
  const now = (pixels / elapsed) * Math.min(ctx.config.concurrency, availableParallelism())
  const before = await measuredSpeed(ctx, spec)
  await ctx.repo(SettingEntity).upsert({ name: `speed ${spec.code}`, value: before ? before.pixelsPerSecond * 0.67 + now * 0.33 : now }, ['name'])
}

/** Clips that a request means, those that cannot be copied apart with the reason. */
async function chosen(
  ctx: Context,
  projectId: string,
  request: Pick<Request, 'spec' | 'clipIds' | 'ticked'>,
): Promise<{ clips: ClipRecord[]; left: { name: string; reason: string }[] }> {
  const [all, copies, away] = await Promise.all([
    ctx.repo(ClipEntity).find({
      where: { projectId, removed: false, ...(request.ticked ? { ticked: true } : {}), ...(request.clipIds ? { id: In(request.clipIds) } : {}) },
      order: { place: 'ASC' },
    }),
    ctx.repo(CopyEntity).findBy({ projectId, spec: request.spec }),
    awayVolumes(ctx),
  ])
  const has = new Map(copies.map((c) => [c.clipId, c.state]))
  const left: { name: string; reason: string }[] = []
  const clips = all.filter((c) => {
    const state = has.get(c.id)
    const reason = c.technical.fault
      ? 'it cannot be decoded'
      : !c.technical.hasPicture
        ? 'it has sound only'
        : c.technical.stamp
          ? 'it is an edit copy itself'
          : state === 'checked'
            ? 'it has this copy already'
            : state === 'waiting' || state === 'being-made'
              ? 'its copy is being made'
              : c.gone && !away.has(c.volumeId)
                ? 'its folder is not there any more'
                : away.has(c.volumeId)
                  ? 'its volume is away'
                  : null
    if (reason) left.push({ name: c.name, reason })
    return !reason
  })
  return { clips, left }
}

export async function estimateCopies(ctx: Context, projectId: string, request: Request): Promise<CopyEstimate> {
  const spec = copySpec(request.spec)
  const [{ clips, left }, target] = await Promise.all([chosen(ctx, projectId, request), resolveTarget(ctx, request.volumeId, request.folder)])
  const pieces = clips.map((c) => pieceOf(c))
  const bytes = pieces.reduce((n, p) => n + bytesUnder(spec, p), 0)
  const free = await freeSpace(target.path)
  const speed = await measuredSpeed(ctx, spec)
  const warnings: CopyEstimate['warnings'] = []
  if (bytes > free)
    warnings.push({
      code: 'space',
      severity: 'error',
      short: 'not enough space',
      text: `${bytesText(bytes)} are needed, ${bytesText(free)} are free there. Choose another place or fewer clips.`,
    })
  const losses = new Map<string, number>()
  for (const c of clips) for (const l of lossesUnder(spec, c.technical)) losses.set(l, (losses.get(l) ?? 0) + 1)
  for (const [loss, n] of losses)
    warnings.push({
      code: 'less',
      severity: spec.kind === 'intermediate' ? 'warning' : 'info',
      short: 'less than shot',
      text: `${n} ${n === 1 ? 'clip' : 'clips'}: ${loss}.`,
    })
  return {
    clips: clips.length,
    left,
    seconds: pieces.reduce((n, p) => n + p.seconds, 0),
    bytes,
    free,
    time: secondsUnder(spec, pieces, speed),
    measured: speed !== null,
    warnings,
  }
}

/** The name of a clip's copy below the target folder: the originals' tree, the original's name. */
function copyName(clip: ClipRecord, label: string, wrapper: string, taken: Set<string>): string {
  const folder = pathText(parentOf(clip.path))
  const file = pathText(clip.path).slice(folder ? folder.length + 1 : 0)
  const base = [label, folder].filter(Boolean).join('/')
  for (const name of [`${stem(file)}.${wrapper}`, `${file}.${wrapper}`]) {
    const path = `${base}/${name}`
    if (taken.has(path)) continue
    taken.add(path)
    return path
  }
  throw new Refusal('taken', `Two originals would give the same copy name: ${base}/${file}.`)
}

export async function startCopies(ctx: Context, projectId: string, request: Request): Promise<Started> {
  const spec = copySpec(request.spec)
  const { clips, left } = await chosen(ctx, projectId, request)
  if (clips.length === 0)
    throw new Refusal(
      'bad-request',
      left.length
        ? `No copy to make: ${left[0]?.name}: ${left[0]?.reason}${left.length > 1 ? `, and ${left.length - 1} more` : ''}.`
        : 'There are no clips to copy yet. Add originals first.',
    )
  const estimate = await estimateCopies(ctx, projectId, request)
  if (estimate.bytes > estimate.free)
    throw new Refusal(
      'full',
      `${bytesText(estimate.bytes)} are needed, ${bytesText(estimate.free)} are free at the target. Choose another place or fewer clips.`,
    )
  const { labels: volumes } = await volumeNames(ctx)
  const folder = tidyFolder(request.folder)
  const old = new Map((await ctx.repo(CopyEntity).findBy({ projectId, spec: spec.code })).map((c) => [c.clipId, c]))
  const taken = new Set<string>()
  const tasks = []
  const rows: CopyRecord[] = []
  for (const c of clips) {
    const path = [folder, copyName(c, volumes.get(c.volumeId) ?? 'volume', spec.wrapper, taken)].filter(Boolean).join('/')
    const before = old.get(c.id)
    const id = before?.id ?? newId()
    rows.push({ id, projectId, clipId: c.id, spec: spec.code, volumeId: request.volumeId, path, state: 'waiting', size: 0, report: null })
    const piece = pieceOf(c)
    tasks.push({ label: c.name, payload: { copyId: id }, total: c.frames, unit: 'frames', cost: pixelsOf(spec, piece) })
  }
  for (const some of inPortions(rows)) await ctx.repo(CopyEntity).upsert(some as never, ['id'])
  await ctx.changed(projectId, 'copies')
  return startBatch(
    ctx,
    projectId,
    'copy',
    `${spec.name}: ${plural(clips.length, 'clip')}`,
    tasks,
    `Making ${plural(clips.length, 'edit copy', 'edit copies')}.`,
  )
}

/** The job of copying `clip` (or a range of it) to `target`. */
export async function copyJob(ctx: Context, clip: ClipRecord, spec: Spec, target: string, range: { in: number; out: number }): Promise<CopyJob> {
  const { path } = await resolvePlace(ctx, clip.volumeId, clip.path)
  const t = clip.technical
  return {
    input: (spec.kind === 'proxy' ? inputOf : finishingInput)(path, clip, await projectDecode(ctx, clip.projectId)),
    matrix: t.colour.matrix,
    sound: t.sound !== null,
    range,
    spec,
    size: sizeUnder(spec, t, t.pixelAspect),
    carried: { start: clip.start === null ? null : clip.start + range.in, drop: t.drop, reel: clip.reel, stamp: stampText(clip.contentId, clip.start, t.rate) },
    target,
  }
}

/** Makes one copy and checks it. */
export const runCopy: RunTask = async (ctx, task, { signal, threads, progress, started }) => {
  const { copyId } = task.payload as { copyId: string }
  const copy = found(await ctx.repo(CopyEntity).findOneBy({ id: copyId }), 'The edit copy')
  const clip = found(await ctx.repo(ClipEntity).findOneBy({ id: copy.clipId }), 'The original')
  const spec = copySpec(copy.spec)
  const { path: root } = await resolvePlace(ctx, copy.volumeId, Buffer.alloc(0))
  const target = join(pathText(root), copy.path)
  const job = await copyJob(ctx, clip, spec, target, { in: 0, out: clip.frames })
  const command = commandLine(copyArgs(job, `${target}.part`, `${target}.samples`))
  await ctx.repo(CopyEntity).update({ id: copyId }, { state: 'being-made' })
  await ctx.changed(clip.projectId, 'copies')
  const began = Date.now()
  try {
    const report = await makeCopy(job, task.id, bytesUnder(spec, pieceOf(clip)), {
      signal,
      threads,
      onStart: started,
      onProgress: (p) => progress(Math.min(p.frame, clip.frames), clip.frames, p.fps, p.speed),
    })
    await ctx.repo(CopyEntity).update({ id: copyId }, { state: 'checked', report, size: await fileSize(target) })
    await learnSpeed(ctx, spec, task.cost, (Date.now() - began) / 1000)
    await ctx.changed(clip.projectId, 'copies', 'clips')
    const still = report.points.every((p) => p.unprovable)
    return { message: still ? 'Checked; the picture stands still, so frames are proven by count alone.' : 'Checked.', command }
  } catch (e) {
    if (e instanceof CheckFailed) await ctx.repo(CopyEntity).update({ id: copyId }, { state: 'failed-check', report: e.report })
    throw e
  }
}

export async function listCopies(ctx: Context, projectId: string): Promise<CopyRow[]> {
  const [copies, clips, { roots }] = await Promise.all([
    ctx.repo(CopyEntity).findBy({ projectId }),
    ctx.repo(ClipEntity).find({ where: { projectId }, select: { id: true, name: true } }),
    volumeNames(ctx),
  ])
  const names = new Map(clips.map((c) => [c.id, c.name]))
  return copies.map(
    (c): CopyRow => ({
      id: c.id,
      clipId: c.clipId,
      clip: names.get(c.clipId) ?? '?',
      spec: c.spec,
      state: c.state,
      path: pathText(joinBytes(roots.get(c.volumeId) ?? Buffer.alloc(0), Buffer.from(c.path))),
      size: c.size,
      points: c.report?.points.map((p) => ({ frame: p.frame, likeness: p.likeness, offset: p.offset, unprovable: p.unprovable })) ?? [],
      faults: [...(c.report?.faults ?? [])],
    }),
  )
}
