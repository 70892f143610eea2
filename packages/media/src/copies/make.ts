/** Makes copies: written under temporary names, checked on the disk, then put in their places. */
import { readdir, readFile, rename, rm } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { bytesText, targetReserve } from '@naranja/core/estimate'
import { everyFrame, isRewrap } from '@naranja/core/specs'
import { diskRoom, exists, makeFolder, MediaError, putInPlace } from '../disk/index.ts'
import { ffmpeg, output, type RunOptions, sampleFilter, selectExpression, traceFilter } from '../ffmpeg/index.ts'
import { readPackets, splitSamples } from '../frames/index.ts'
import { stampSequence, writeSideFile } from '../probe/index.ts'
import { inputArgs, type MediaInput } from '../input/index.ts'
import { copyArgs, decoded, pictureGraph, previewArgs } from './args.ts'
import { uniteFiles } from './atoms.ts'
import { checkCopy, type Coded } from './check.ts'
import type { CopyFiles, CopyJob, CopyOutput, CopyReport } from './model.ts'
import { byFrame, digits, type Parts, partsOf, sampled, sequenceOf, soundNames } from './parts.ts'
import { checkRewrapped, rewrap, rewrapArgs } from './rewrap.ts'

/** A copy that came out wrong; its files stand aside under a name that says so, for whoever wants to see them, and are never used. */
export class CheckFailed extends Error {
  constructor(
    readonly report: CopyReport,
    readonly aside: string,
  ) {
    super(`${report.faults.join(' ')} It is kept aside as ${basename(aside)}.`)
  }
}

/** The name under which a file (or a folder of pictures) that failed its check is kept: `A001 failed check.mov`. */
export const asideName = (path: string): string => path.replace(/(\.[A-Za-z0-9]+)?$/, (ending) => ` failed check${ending}`)

async function setAside(parts: Parts): Promise<string> {
  for (const m of parts.moves) {
    await rm(asideName(m.to), { force: true, recursive: true })
    await rename(m.from, asideName(m.to))
  }
  return asideName(parts.moves[0]?.to ?? '')
}

/** A file that stands where the copy should go and is not this copy. */
export class PlaceTaken extends Error {}

/** Where the files of a copy stand: in their places, or under their temporary names. */
function filesOf(o: CopyOutput, parts: Parts | null): CopyFiles {
  const folder = parts && o.spec.wrapper === 'frames' ? (parts.moves[0]?.from ?? '') : dirname(o.target)
  const frames = o.spec.wrapper === 'frames'
  return {
    picture: frames ? join(folder, basename(o.target)) : parts ? parts.picture : o.target,
    sound: parts ? parts.sound : soundNames(o).map((s) => join(folder, s)),
    sequence: sequenceOf(o),
  }
}

/** The name of the first of numbered pictures in a folder that is called like the copy. */
export const firstPictureName = (stem: string, start: number | null, extension: string): string =>
  `${stem}.${String(start ?? 0).padStart(digits, '0')}.${extension}`

/** What should be on the disk, read from the original anew. */
async function codedAnew(job: CopyJob, o: CopyOutput, signal?: AbortSignal): Promise<Coded> {
  const n = job.range.out - job.range.in
  const made = `${decoded(job, job.range.in, n)}[in];${pictureGraph(job, o, 'in', 'made', 'x')};[made]`
  const read = (filters: string) =>
    output(
      'ffmpeg',
      [
        ...['-nostdin', '-loglevel', 'error', ...inputArgs(job.input, job.range.in), '-filter_complex', `${made}${filters}[s]`],
        ...['-map', '[s]', '-fps_mode', 'passthrough', '-f', 'rawvideo', '-'],
      ],
      signal,
    )
  const frames = sampled(o.frames, o.target)
  const around = byFrame(frames, splitSamples(await read(`select='${selectExpression(frames)}',${sampleFilter}`)))
  return { around, trace: everyFrame(o.spec) ? await read(traceFilter) : null }
}

/** Removes what `who` left beside the copies when it was ended in the middle; the copies themselves stay. */
export async function clearAway(outputs: readonly CopyOutput[], who: string): Promise<void> {
  for (const o of outputs) {
    const parts = partsOf(o, who)
    for (const p of [parts.samples, parts.trace, ...parts.moves.map((m) => m.from)]) await rm(p, { force: true, recursive: true })
  }
}

/** Removes what `who` left beside one copy, whatever it is made of: a worker that was killed cannot do it itself. */
export async function clearAwayAt(target: string, who: string): Promise<void> {
  for (const folder of [dirname(target), dirname(dirname(target))])
    for (const name of await readdir(folder).catch(() => []))
      if (['', '.samples', '.trace'].some((ending) => name.endsWith(`.${who}.part${ending}`))) await rm(join(folder, name), { force: true, recursive: true })
}

/** Puts what is finished in its place; what stands there already stays, unless it is to be replaced. A folder is put as a whole. */
async function place(parts: Parts, folder: boolean, replaces: boolean): Promise<void> {
  for (const m of parts.moves) {
    if (replaces) {
      // A folder cannot be put over another in one go; a file can.
      if (folder) await rm(m.to, { force: true, recursive: true })
      await rename(m.from, m.to)
    } else if (!folder) await putInPlace(m.from, m.to)
    else if (await exists(m.to)) throw Object.assign(new Error(`EEXIST: ${m.to}`), { code: 'EEXIST' })
    else await rename(m.from, m.to)
  }
}

/** What passed its check goes into its place, and one that failed before and was kept aside goes; what failed is set aside. */
async function settled(job: CopyJob, o: CopyOutput, p: Parts, report: CopyReport): Promise<CopyReport | CheckFailed> {
  if (report.faults.length > 0) return new CheckFailed(report, await setAside(p))
  await place(p, o.spec.wrapper === 'frames', o.replaces ?? false)
  await writeSideFile(o, job.burning.name)
  for (const m of p.moves) await rm(asideName(m.to), { force: true, recursive: true })
  return report
}

/** The command that makes the copies, as a person can paste it. */
export function copyCommand(job: CopyJob): string[] {
  const coded = job.outputs.filter((o) => !isRewrap(o.spec))
  const [first] = job.outputs
  if (coded.length === 0 && first) return rewrapArgs(job, first, partsOf(first, 'copy').picture)
  return copyArgs(
    { ...job, outputs: coded },
    coded.map((o) => partsOf(o, 'copy')),
  )
}

/**
 * Makes the copies of a job from one decode. Running it again is safe: a copy that already stands there finished is checked anew and
 * taken; any other file there is left alone. Gives a report per output, or what went wrong with it: CheckFailed or PlaceTaken.
 * Throws MediaError, or an AbortError; temporary files are gone in every case, those of an earlier run of the same `who` that was killed too.
 */
export async function makeCopies(job: CopyJob, who: string, needed: number, options: RunOptions = {}): Promise<(CopyReport | CheckFailed | PlaceTaken)[]> {
  const results: (CopyReport | CheckFailed | PlaceTaken | null)[] = []
  try {
    for (const o of job.outputs) {
      const standing = o.spec.wrapper === 'frames' ? dirname(o.target) : o.target
      if (o.replaces || !(await exists(standing))) {
        results.push(null)
        continue
      }
      const report = isRewrap(o.spec)
        ? await checkRewrapped(job, o, filesOf(o, null), options.signal)
        : await checkCopy(filesOf(o, null), job, o, await codedAnew(job, o, options.signal), options)
      results.push(
        report.faults.length === 0
          ? report
          : new PlaceTaken(`Another file stands at ${standing}. Move it away or choose another place; nothing was overwritten.`),
      )
    }
    const todo = job.outputs.filter((_, i) => results[i] === null)
    if (todo.length === 0) return results as CopyReport[]
    const parts = todo.map((o) => partsOf(o, who))
    for (const [i, o] of todo.entries()) {
      await makeFolder(o.spec.wrapper === 'frames' ? (parts[i]?.moves[0]?.from ?? '') : dirname(o.target), o.root)
      const { free, size } = await diskRoom(o.target)
      if (needed > free - targetReserve(size))
        throw new MediaError(
          `The target disk is full: ${bytesText(needed)} are needed at ${dirname(o.target)}, ${bytesText(free)} are free, and ${bytesText(targetReserve(size))} of it stay free. Free some space or choose another place.`,
          '',
          '',
          'no-room',
        )
    }
    const coded = todo.filter((o) => !isRewrap(o.spec))
    const partOf = (o: CopyOutput): Parts => parts[todo.indexOf(o)] as Parts
    if (coded.length > 0)
      await ffmpeg(['-y', ...copyArgs({ ...job, outputs: coded }, coded.map(partOf), options.threads)], {
        ...options,
        // What was estimated, many times over.
        limits: { file: Math.max(2e9, 20 * needed) },
      })
    for (const o of todo) {
      const p = partOf(o)
      const files = filesOf(o, p)
      const { picture, sequence } = files
      if (sequence && o.carried.start !== null) await stampSequence(Buffer.from(picture), sequence, o.carried.start, o.carried.drop, o.rate, options.signal)
      if (o.spec.wrapper === 'mxf-atom') await uniteFiles(o, files)
      if (isRewrap(o.spec)) {
        const report = await rewrap(job, o, files, options)
        results[job.outputs.indexOf(o)] = await settled(job, o, p, report)
        continue
      }
      const around = byFrame(sampled(o.frames, o.target), splitSamples(await readFile(p.samples)))
      const trace = everyFrame(o.spec) ? await readFile(p.trace) : null
      const report = await checkCopy(files, job, o, { around, trace }, options)
      results[job.outputs.indexOf(o)] = await settled(job, o, p, report)
    }
    return results as (CopyReport | CheckFailed | PlaceTaken)[]
  } finally {
    await clearAway(job.outputs, who)
  }
}

/** Makes the only copy of a job. Throws CheckFailed, PlaceTaken, MediaError, or an AbortError. */
export async function makeCopy(job: CopyJob, who: string, needed: number, options: RunOptions = {}): Promise<CopyReport> {
  const [result] = await makeCopies(job, who, needed, options)
  if (!result || result instanceof Error) throw result
  return result
}

/** One frame of a copy, counted from its first at the original's rate, as a PNG: as it will be coded, to the pixel. */
export const preview = (job: CopyJob, o: CopyOutput, frame: number, most?: number, signal?: AbortSignal): Promise<Buffer> =>
  output('ffmpeg', previewArgs(job, o, frame, most), signal)

/**
 * How many frames of a clip can be decoded from its first one on, before the first that cannot: all of them where it is whole. A frame that is
 * damaged is left out by FFmpeg, so that the next stands a frame later than it should.
 */
export async function goodFrames(input: MediaInput, frames: number, signal?: AbortSignal): Promise<number> {
  const small = 'scale=16:16:flags=neighbor,format=gray'
  const args = [
    '-nostdin',
    '-loglevel',
    'quiet',
    '-err_detect',
    'explode',
    ...inputArgs(input),
    '-map',
    '0:v:0',
    '-fps_mode',
    'passthrough',
    '-vf',
    small,
    '-f',
    'framecrc',
    '-',
  ]
  const { times, tick } = readPackets((await output('ffmpeg', args, signal)).toString())
  const { rate: r } = input
  const at = (t: number): number => Math.round(((t - (times[0] ?? 0)) * r.num * tick.den) / (r.den * tick.num))
  const gap = times.findIndex((t, i) => at(t) !== i)
  return Math.min(frames, gap < 0 ? times.length : gap)
}
