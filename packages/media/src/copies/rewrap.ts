/** An original that is easy to edit goes into a new file, its streams as they are: bit for bit the same. */
import { seenMatrix } from '@naranja/core/clip'
import { rateFraction } from '@naranja/core/time'
import { ffmpeg, fileInput, output, type RunOptions } from '../ffmpeg/index.ts'
import { samples } from '../frames/index.ts'
import { inputArgs } from '../input/index.ts'
import { described, muxer, streamNames } from './args.ts'
import { checkCopy } from './check.ts'
import type { CopyFiles, CopyJob, CopyOutput, CopyReport } from './model.ts'
import { byFrame, sampled } from './parts.ts'

/** The original's sound streams that are taken, by number. */
function streamsOf(job: CopyJob, o: CopyOutput): number[] {
  let first = 0
  return (job.input.sound?.streams ?? []).flatMap((n, i) => {
    const mine = o.sound.some((s) => s.channels[0] === first)
    first += n
    return mine ? [i] : []
  })
}

const maps = (sound: readonly number[]): string[] => ['-map', '0:v:0', ...sound.flatMap((i) => ['-map', `0:a:${i}`])]

/** Arguments that write the streams of an original into a new file. */
export function rewrapArgs(job: CopyJob, o: CopyOutput, part: string): string[] {
  return [
    // Of ProRes and JPEG 2000 in MXF FFmpeg knows no rate until it has looked at some frames, and without one it leaves the timecode out.
    ...['-fpsprobesize', '20'],
    ...inputArgs(job.input),
    ...maps(streamsOf(job, o)),
    '-c',
    'copy',
    '-r',
    rateFraction(o.rate),
    ...described(o),
    ...streamNames(o),
    '-f',
    muxer[o.spec.wrapper],
    `file:${part}`,
  ]
}

/** A digest of the bytes of each stream, whatever wraps them. */
async function streamHashes(args: readonly string[], sound: readonly number[], signal?: AbortSignal): Promise<string[]> {
  const text = await output('ffmpeg', ['-nostdin', '-v', 'error', ...args, ...maps(sound), '-c', 'copy', '-f', 'streamhash', '-hash', 'sha256', '-'], signal)
  return [...text.toString().matchAll(/SHA256=([0-9a-f]+)/gi)].map((m) => m[1] ?? '')
}

/** Writes the new file under its temporary name and compares it with the original: stream by stream, and as every copy is compared. */
export async function rewrap(job: CopyJob, o: CopyOutput, files: CopyFiles, options: RunOptions): Promise<CopyReport> {
  await ffmpeg(['-y', ...rewrapArgs(job, o, files.picture)], options)
  return checkRewrapped(job, o, files, options.signal)
}

export async function checkRewrapped(job: CopyJob, o: CopyOutput, files: CopyFiles, signal?: AbortSignal): Promise<CopyReport> {
  const frames = sampled(o.frames, o.target)
  const taken = streamsOf(job, o)
  const [list, before, after] = await Promise.all([
    samples(job.input, frames, { matrix: seenMatrix({ ...o.layout.source, colour: job.colour }), ...(signal ? { signal } : {}) }),
    streamHashes(inputArgs(job.input), taken, signal),
    streamHashes(
      fileInput(files.picture),
      taken.map((_, i) => i),
      signal,
    ),
  ])
  const around = byFrame(frames, list)
  const report = await checkCopy(files, job, o, { around, trace: null }, signal ? { signal } : {})
  const faults = before.flatMap((h, i) =>
    h === after[i] ? [] : [i === 0 ? 'Its picture is not bit for bit that of the original.' : `Its sound stream ${i} is not bit for bit that of the original.`],
  )
  return { ...report, hashes: after, faults: [...faults, ...report.faults] }
}
