/** Trials: two seconds of a clip made by each of some specs on the target drive, played there, measured, and taken away again. */
import { seenMatrix } from '@naranja/core/clip'
import { mkdir, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { Started, TrialAsk, TrialResult, TrialSpec } from '@naranja/contract'
import { anglesByDrive, anglesByMachine, bytesUnder, mostAngles, triedHeights } from '@naranja/core/estimate'
import { busiest } from '@naranja/core/picture'
import { codingOf, faultsFor, framed, isRewrap, lossesUnder, type Spec, wrapperOf } from '@naranja/core/specs'
import { type FrameMap, type FrameRange, length, type Rate } from '@naranja/core/time'
import {
  decodeSpeed,
  detail,
  detailMap,
  droppedFrames,
  fileSize,
  firstPictureName,
  makeCopies,
  type MediaInput,
  readSpeed,
  sequenceOf,
  soundNames,
  makeFolder,
  type Root,
  rootAt,
} from '@naranja/media'
import { canBeCopied, copyJob, pieceOf, projectRate, worthFullSize } from '../copies/index.ts'
import { type Context, found, Refusal } from '../platform/index.ts'
import { fromOriginal } from '../sources/index.ts'
import { asOriginal, copySpec } from '../specs/index.ts'
import { payloadOf, ClipEntity, type ClipRecord } from '../records/index.ts'
import { foundBy, type RunTask, type RunTools, startBatch } from '../tasks/index.ts'
import { awayVolumes, refuseCard, resolveTarget } from '../volumes/index.ts'

/** Seconds that are made and played. */
const lasting = 2

/** The clip that asks most of a machine: by pixels in a second, and frames that lean on others count twice. */
const hardness = (c: ClipRecord): number =>
  ((c.technical.width * c.technical.height * c.technical.rate.num) / c.technical.rate.den) * (c.technical.longGop ? 2 : 1)

export async function startTrial(ctx: Context, projectId: string, ask: TrialAsk): Promise<Started> {
  const specs = await Promise.all(ask.specs.map((s) => copySpec(ctx, s)))
  const { volume } = await resolveTarget(ctx, ask.volumeId, ask.folder)
  refuseCard(volume)
  const away = await awayVolumes(ctx)
  const clips = (await ctx.repo(ClipEntity).findBy({ projectId, removed: false })).filter((c) => canBeCopied(c, away) && (!ask.clipId || c.id === ask.clipId))
  const [clip] = clips.sort((a, b) => hardness(b) - hardness(a))
  if (!clip)
    throw new Refusal('bad-request', ask.clipId ? 'This clip is not here, or has no picture.' : 'There is no clip to try the specs on. Add originals first.')
  const label = `Trial of ${specs.map((s) => s.name).join(', ')}`
  return startBatch(
    ctx,
    projectId,
    'trial',
    label,
    [{ label: `${label} on ${clip.name}`, payload: { ...ask, clipId: clip.id }, total: 1, unit: 'steps', cost: 1 }],
    'The trial has begun.',
  )
}

export async function trialResult(ctx: Context, taskId: string): Promise<TrialResult> {
  return (await foundBy(ctx, taskId, 'trial', 'The trial')).trial
}

/** The picture of a trial: the original's (0), or that of a spec, from 1. */
export const trialPicture = (ctx: Context, taskId: string, n: number): string => join(ctx.config.folder, 'cache', 'trials', `${taskId}-${n}.png`)

/** Where a trial's file stands for as long as it is measured. */
function targetOf(base: string, spec: Spec, start: number | null): string {
  const c = codingOf(spec.coding)
  return spec.wrapper === 'frames'
    ? join(base, 'trial', firstPictureName('trial', start, c.extension ?? ''))
    : join(base, `trial.${wrapperOf(spec.wrapper).extension}`)
}

interface TrialCopy {
  readonly map: FrameMap | null
  readonly input: MediaInput
  readonly rate: Rate
  readonly frames: number
  readonly bytes: number
  readonly fps: number
  readonly likeness: number
}

/** Makes a range of a clip by some specs, from one decode, each into a folder of its own below `base`. What went wrong with one stands in its place. */
async function make(
  ctx: Context,
  clip: ClipRecord,
  specs: readonly Spec[],
  range: FrameRange,
  base: string,
  root: Root,
  who: string,
  tools: RunTools,
): Promise<(TrialCopy | Error)[]> {
  const draft = await copyJob(
    ctx,
    clip,
    await fromOriginal(ctx, clip, worthFullSize(specs)),
    specs.map((spec) => ({ spec, target: '/trial', root })),
    range,
  )
  // Numbered pictures are named by their timecode, which the draft tells.
  const job = { ...draft, outputs: draft.outputs.map((o, i) => ({ ...o, target: targetOf(join(base, String(i)), o.spec, o.carried.start) })) }
  const needed = job.outputs.reduce((n, o) => n + bytesUnder(o.spec, pieceOf(clip, o, range)), 0)
  const began = performance.now()
  const results = await makeCopies(job, who, needed, { signal: tools.signal, threads: tools.threads })
  const elapsed = (performance.now() - began) / 1000
  return Promise.all(
    job.outputs.map(async (o, i): Promise<TrialCopy | Error> => {
      const result = results[i]
      if (!result || result instanceof Error) return result ?? new Error('Nothing was made.')
      const sequence = sequenceOf(o)
      const pictures = sequence ? sequence.last - sequence.first + 1 : 1
      const sound = await Promise.all(soundNames(o).map((s) => fileSize(join(dirname(o.target), s))))
      const bytes = (await fileSize(o.target)) * pictures + sound.reduce((n, x) => n + x, 0)
      const likeness = Math.min(1, ...result.points.map((p) => p.likeness))
      return {
        map: o.map,
        input: { path: Buffer.from(o.target), sequence, rate: o.rate },
        rate: o.rate,
        frames: o.frames,
        bytes,
        fps: length(range) / elapsed,
        likeness,
      }
    }),
  )
}
/** Bytes of a second of it. */
const byteRate = (m: TrialCopy): number => (m.bytes * m.rate.num) / (m.rate.den * m.frames)

/** How many streams of a file play at once: what was decoded and read, tried in real time, and fewer until none is dropped. */
async function play(made: TrialCopy, drive: number, signal: AbortSignal): Promise<NonNullable<TrialSpec['play']>> {
  const byMachine = anglesByMachine(await decodeSpeed(made.input, made.frames, signal), made.rate)
  const byDrive = anglesByDrive(drive, byteRate(made))
  let angles = Math.min(byMachine, byDrive)
  for (;;) {
    const dropped = angles > 0 ? await droppedFrames(made.input, made.rate, angles, lasting, signal) : 0
    if (dropped === 0 || angles === 0) return { angles, byMachine: Math.max(angles, byMachine), byDrive, dropped }
    const next = Math.min(angles - 1, Math.floor(angles * 0.8))
    if (next < 1) return { angles: 0, byMachine: 0, byDrive, dropped }
    angles = next
  }
}

export const runTrial: RunTask = async (ctx, task, tools) => {
  const ask = payloadOf('trial', task)
  const { signal, progress } = tools
  const clip = found(await ctx.repo(ClipEntity).findOneBy({ id: ask.clipId }), 'The original')
  const [specs, target, rate] = await Promise.all([
    Promise.all(ask.specs.map((s) => copySpec(ctx, s))),
    resolveTarget(ctx, ask.volumeId, ask.folder),
    projectRate(ctx, task.projectId),
  ])
  const t = clip.technical
  const n = Math.min(clip.frames, Math.max(2, Math.round((lasting * t.rate.num) / t.rate.den)))
  const from = Math.floor((clip.frames - n) / 2)
  const range = { in: from, out: from + n }
  const frame = from + Math.floor(n / 2)
  const base = join(target.path, `.trial.${task.id}.part`)
  const heights = (s: Spec) => (isRewrap(s) || codingOf(s.coding).rasters ? [] : triedHeights(t.height))
  const steps = 2 + specs.reduce((sum, s) => sum + 2 + heights(s).length, 0)
  let done = 0
  const step = () => progress(++done, steps)
  try {
    const root = await rootAt(target.root)
    await makeFolder(base, root)
    const drive = await readSpeed(base, task.id, signal)
    const { source: original } = await fromOriginal(ctx, clip, true)
    const part = partOf(clip, await detailMap(original, frame, signal))
    const keep = async (k: number, input: MediaInput, at: number, layout: ReturnType<typeof framed> | null, matrix: string) => {
      const png = await detail(input, at, { part, pixelAspect: t.pixelAspect, matrix, most: 2048, layout }, signal)
      await mkdir(dirname(trialPicture(ctx, task.id, k)), { recursive: true })
      await writeFile(trialPicture(ctx, task.id, k), png)
    }
    await keep(0, original, frame, null, seenMatrix(t))
    step()
    const speed = (await decodeSpeed({ ...original, map: undefined }, n, signal)) / (t.rate.num / t.rate.den)
    step()
    const out = specs.map((s) => rowOf(s, clip, rate))
    for (const [i, spec] of specs.entries()) {
      const row = out[i] as TrialSpec
      if (row.fault) continue
      const [made] = await make(ctx, clip, [spec], range, join(base, `own ${i}`), root, task.id, tools)
      if (!made || made instanceof Error) {
        row.fault = made?.message ?? 'Nothing was made.'
        continue
      }
      Object.assign(row, { dataRate: byteRate(made) * 8, fps: made.fps, likeness: made.likeness })
      // Its frames are counted from the beginning of what was made.
      await keep(i + 1, { ...made.input, rate: t.rate, map: made.map ? { ...made.map, first: 0 } : undefined }, frame - from, layoutOf(spec, clip), 'bt709')
      step()
      row.play = await play(made, drive, signal)
      step()
    }
    // All sizes of all specs from one decode.
    const sized = specs.flatMap((spec, i) =>
      out[i]?.play
        ? heights(spec).map((height) => ({
            row: out[i] as TrialSpec,
            height,
            spec: { ...spec, frame: { by: 'height' as const, height }, check: 'six-frames' as const },
          }))
        : [],
    )
    const made = sized.length
      ? await make(
          ctx,
          clip,
          sized.map((x) => x.spec),
          range,
          join(base, 'sizes'),
          root,
          task.id,
          tools,
        )
      : []
    for (const [i, m] of made.entries()) {
      const { row, height } = sized[i] as (typeof sized)[number]
      if (!(m instanceof Error)) {
        const machine = anglesByMachine(await decodeSpeed(m.input, m.frames, signal), m.rate)
        row.sizes.push({ height, angles: Math.min(machine, anglesByDrive(drive, byteRate(m))) })
      }
      step()
    }
    const trial: TrialResult = {
      ...{ clipId: clip.id, clip: clip.name, frame, part, dataRate: t.dataRate, depth: t.depth, chroma: t.chroma, speed, specs: out },
      ...{ machine: ctx.config.machine, at: new Date().toISOString() },
    }
    const best = out.filter((s) => s.play).map((s) => `${s.name}: ${s.play?.angles === mostAngles ? `${mostAngles} or more` : s.play?.angles} at once`)
    return { message: best.length ? `${best.join(', ')}.` : 'None of them could be made of this clip.', result: { trial } }
  } finally {
    await rm(base, { recursive: true, force: true })
  }
}

const layoutOf = (spec: Spec, clip: ClipRecord) => framed(spec, asOriginal(clip))

/** What is known of a spec before it is tried. */
function rowOf(spec: Spec, clip: ClipRecord, rate: Rate): TrialSpec {
  const t = clip.technical
  const c = codingOf(spec.coding)
  const { raster } = layoutOf(spec, clip)
  return {
    ...{
      spec: spec.code,
      name: spec.name,
      version: spec.version,
      fault: faultsFor(spec, asOriginal(clip), rate)[0] ?? '',
      width: raster.width,
      height: raster.height,
    },
    ...{ depth: isRewrap(spec) ? t.depth : c.depth, chroma: isRewrap(spec) ? t.chroma : c.chroma, losses: lossesUnder(spec, t) },
    ...{ dataRate: 0, fps: 0, likeness: 0, play: null, sizes: [] },
  }
}

/** The part of a picture that is shown, pixel by pixel: where there is most to see. */
function partOf(clip: ClipRecord, map: Uint8Array): TrialResult['part'] {
  const { width: w, height: h } = clip.technical
  const width = Math.min(w, 480)
  const height = Math.min(h, 300)
  // What is shown of it on a card is less high.
  const centre = busiest(map, { width: (0.6 * width) / w, height: (0.6 * height) / h })
  const clamp = (v: number, room: number) => Math.max(0, Math.min(room, Math.floor(v / 2) * 2))
  return { x: clamp(centre.x * w - width / 2, w - width), y: clamp(centre.y * h - height / 2, h - height), width, height }
}
