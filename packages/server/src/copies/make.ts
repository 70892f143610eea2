/** Makes edit copies: all that are wanted of a clip from one decode, checked on the disk. */
import { dirname, join } from 'node:path'
import { stampText } from '@naranja/core/clip'
import { bytesUnder } from '@naranja/core/estimate'
import { descriptions, isRewrap, promised, type Spec } from '@naranja/core/specs'
import { type FrameRange, length, partMap } from '@naranja/core/time'
import {
  CheckFailed,
  colourOf,
  commandLine,
  contentId,
  copyCommand,
  type CopyJob,
  type CopyOutput,
  fileSize,
  goodFrames,
  lookFile,
  makeCopies,
  pathText,
  sequenceOf,
  soundNames,
  type Root,
  rootAt,
} from '@naranja/media'
import { In } from 'typeorm'
import { projectDecode, shownAs } from '../picture/index.ts'
import { type Context, found } from '../platform/index.ts'
import { type CopiedFrom, fromOriginal, heldBy, pictureKey } from '../sources/index.ts'
import { factsOf, specVersion } from '../specs/index.ts'
import { payloadOf, ClipEntity, type ClipRecord, CopyEntity, type CopyRecord, LookEntity } from '../records/index.ts'
import { type RunTask, ReportedFailure } from '../tasks/index.ts'
import { resolvePlace } from '../volumes/index.ts'
import { copyFacts, peaksOf, pieceOf, projectRate } from './facts.ts'
import { learnPace } from './speed.ts'

/** What a clip is called by, as its copies carry it. */
const describedIn = (clip: ClipRecord): CopyOutput['carried']['described'] =>
  Object.fromEntries(
    descriptions.flatMap((f) => {
      const value = clip.described[f]?.value
      return value ? [[f, value] as const] : []
    }),
  )

/** The look of a clip as FFmpeg finds it; null where it has none, or a spec leaves it out. */
async function bakedLook(ctx: Context, clip: ClipRecord, spec: Spec): Promise<CopyOutput['look']> {
  if (spec.look !== 'baked' || !clip.lookId) return null
  const look = await ctx.repo(LookEntity).findOneBy({ id: clip.lookId })
  return look && { kind: look.kind === '1d' ? '1d' : '3d', path: await lookFile(look.id, look.cube) }
}

/**
 * The job of making copies of a clip from `source`, whose facts are those of `material`, each to its target. `range`: frames counted from the
 * first of the file.
 */
export async function copyJob(
  ctx: Context,
  clip: ClipRecord,
  { source, material }: CopiedFrom,
  wanted: readonly { spec: Spec; target: string; root: Root; replaces?: boolean }[],
  range: FrameRange,
): Promise<CopyJob> {
  const [rate, peaks] = await Promise.all([projectRate(ctx, clip.projectId), peaksOf(ctx, [clip.id])])
  const t = material.technical
  const facts = factsOf(material, peaks.get(clip.id) ?? null)
  const outputs: CopyOutput[] = []
  for (const { spec, target, root, replaces = false } of wanted) {
    const p = promised(spec, spec.kind === 'pull' ? { ...facts, crop: null } : facts, rate, range)
    const map = spec.kind === 'pull' ? p.map : partMap(t.rate, p.rate, range.in)
    const carried = { start: p.start, drop: p.drop, reel: clip.reel, stamp: stampText(clip.contentId, clip.start, t.rate), described: describedIn(clip) }
    outputs.push({ ...p, map, look: await bakedLook(ctx, clip, spec), carried, target, root, replaces })
  }
  return {
    input: source,
    colour: t.colour,
    interlaced: t.scan !== 'progressive',
    range,
    burning: {
      name: clip.name,
      reel: clip.reel,
      start: material.start === null ? null : material.start + range.in,
      drop: t.drop,
      frame: range.in,
      fonts: ctx.config.fonts,
    },
    outputs,
  }
}

/** Whether something by one of these specs is worth full size: proxies are not. */
export const worthFullSize = (specs: readonly Spec[]): boolean => specs.some((s) => s.kind !== 'proxy')

/** Where a copy is to stand. */
export async function copyTarget(ctx: Context, copy: Pick<CopyRecord, 'volumeId' | 'path'>): Promise<Pick<CopyOutput, 'target' | 'root'>> {
  const { root } = await resolvePlace(ctx, copy.volumeId, Buffer.alloc(0))
  return { target: join(pathText(root), copy.path), root: await rootAt(root) }
}

/** Makes what is wanted of one clip. */
export const runCopy: RunTask = async (ctx, task, { signal, threads, progress, spent, started }) => {
  const { copyIds, asFar = false } = payloadOf('copy', task)
  const copies = (await ctx.repo(CopyEntity).findBy({ id: In(copyIds) })).sort((a, b) => copyIds.indexOf(a.id) - copyIds.indexOf(b.id))
  const first = found(copies[0], 'The edit copy')
  const [original, wanted] = await Promise.all([
    ctx.repo(ClipEntity).findOneBy({ id: first.clipId }),
    Promise.all(
      copies.map(async (c) => {
        const [spec, place] = await Promise.all([specVersion(ctx, c.spec, c.specVersion), copyTarget(ctx, c)])
        return { spec, ...place, replaces: c.replaces }
      }),
    ),
  ])
  const clip = found(original, 'The original')
  const asked = heldBy(first, clip)
  const range = asFar ? await upToDamage(ctx, clip, asked, signal) : asked
  const short = range.out < asked.out ? { rangeIn: range.in, rangeOut: range.out } : null
  if (short) await ctx.repo(CopyEntity).update({ id: In(copyIds) }, short)
  const from = await fromOriginal(ctx, clip, worthFullSize(wanted.map((w) => w.spec)))
  const [job, decode] = await Promise.all([
    copyJob(ctx, clip, from, wanted, range),
    projectDecode(ctx, clip.projectId),
    ctx.repo(CopyEntity).update({ id: In(copyIds) }, { state: 'being-made' }),
  ])
  const decoded = shownAs(clip, decode)
  await ctx.changed(clip.projectId, 'copies')
  const needed = job.outputs.reduce((n, o) => n + bytesUnder(o.spec, pieceOf(clip, o, range)), 0)
  const perSecond = clip.technical.rate.num / clip.technical.rate.den
  const results = await makeCopies(job, task.id, needed, {
    signal,
    threads,
    tolerant: short !== null,
    onStart: started,
    // Against real time by the frames alone: in its first moments FFmpeg goes by sound that is far ahead.
    onProgress: (p) => progress(Math.min(p.frame, length(range)), length(range), p.fps, p.fps / perSecond),
  })
  let wrong: Error | null = null
  for (const [i, o] of job.outputs.entries()) {
    const result = results[i]
    const copy = copies[i] as CopyRecord
    if (result instanceof CheckFailed) await ctx.repo(CopyEntity).update({ id: copy.id }, { state: 'failed-check', report: result.report })
    else if (result instanceof Error) await ctx.repo(CopyEntity).update({ id: copy.id }, { state: 'failed' })
    else if (result) {
      const facts = copyFacts(o, {
        matrix: colourOf(job, o).values.matrix,
        sequence: sequenceOf(o),
        soundFiles: soundNames(o),
        shownAs: pictureKey(clip, o.spec.look === 'baked', decoded),
        baked: o.spec.look === 'baked',
        rewrapped: isRewrap(o.spec),
        contentId: await contentId(Buffer.from(o.target), o.frames).catch(() => undefined),
        ...(short ? { damagedFrom: range.out } : {}),
      })
      await ctx.repo(CopyEntity).update({ id: copy.id }, { state: 'checked', gone: false, replaces: false, report: result, facts, size: await sizeOf(o) })
    }
    if (result instanceof Error) wrong ??= result
  }
  await ctx.changed(clip.projectId, 'copies', 'clips')
  if (!wrong)
    await learnPace(
      ctx,
      clip,
      job.outputs.map((o) => ({ spec: o.spec, piece: pieceOf(clip, o, range) })),
      spent(),
    )
  if (wrong) throw new ReportedFailure(wrong.message)
  if (short)
    return { message: `Made up to frame ${range.out - 1} of ${clip.name}, whose next frame cannot be decoded.`, command: commandLine(copyCommand(job)) }
  const still = results.every((r) => r && !(r instanceof Error) && r.points.every((p) => p.unprovable))
  return { message: still ? 'Checked; the picture stands still, so frames are proven by count alone.' : 'Checked.', command: commandLine(copyCommand(job)) }
}

/** The frames of a range before the first that cannot be decoded. Throws a sentence where not even one can. */
async function upToDamage(ctx: Context, clip: ClipRecord, range: FrameRange, signal: AbortSignal): Promise<FrameRange> {
  const { source } = await fromOriginal(ctx, clip, false)
  const good = await goodFrames(source, range.out, signal)
  if (good <= range.in) throw new Error(`No frame of ${clip.name} can be decoded from frame ${range.in} on. Copy it again from the card.`)
  return { in: range.in, out: good }
}

/** Bytes of all files of a copy. */
async function sizeOf(o: CopyOutput): Promise<number> {
  const folder = dirname(o.target)
  if (o.spec.wrapper !== 'frames') {
    const sizes = await Promise.all([o.target, ...soundNames(o).map((s) => join(folder, s))].map(fileSize))
    return sizes.reduce((n, s) => n + s, 0)
  }
  const sound = await Promise.all(soundNames(o).map((s) => fileSize(join(folder, s))))
  return (await fileSize(o.target)) * o.frames + sound.reduce((n, s) => n + s, 0)
}
