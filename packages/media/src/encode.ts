/** A spec and an original become FFmpeg arguments; a runner makes the copy, and checks what is then on the disk. */

import { mkdir, readFile, rm } from 'node:fs/promises'
import { dirname } from 'node:path'
import type { Size } from '@naranja/core/framing'
import { checkFrame, type FrameCheck, sampleBytes } from '@naranja/core/picture'
import type { Spec } from '@naranja/core/specs'
import { type FrameRange, formatFrames, framesOf, length, parseTimecode, type Rate, rateFraction } from '@naranja/core/time'
import { colourTags, sampleFilter, scaleFilter, selectExpression, videoArgs } from './filters.ts'
import { exists, freeSpace, partName, putInPlace } from './files.ts'
import { samples } from './frames.ts'
import { firstPicture, inputArgs, leadOf, type MediaInput } from './input.ts'
import { type ReadBack, readBack } from './readback.ts'
import { ffmpeg, MediaError, type RunOptions, threadArgs } from './run.ts'
import { hasSoundFiles, soundInputs, wholeSound } from './sound.ts'

/** What a copy carries of its original. */
export interface Carried {
  /** Frames from midnight of the copy's first frame; null without timecode. */
  readonly start: number | null
  readonly drop: boolean
  readonly reel: string | null
  readonly stamp: string
}

export interface CopyJob {
  readonly input: MediaInput
  /** The original's colour matrix as ffprobe names it. */
  readonly matrix: string
  readonly sound: boolean
  /** Frames of the original, half-open; the whole clip for an edit copy. */
  readonly range: FrameRange
  readonly spec: Spec
  readonly size: Size
  readonly carried: Carried
  readonly target: string
}

const soundArgs = (spec: Spec): string[] => ['-c:a', spec.video === 'h264' ? 'pcm_s16le' : 'pcm_s24le']

/** Counts frames at a rate, whatever timestamps the file has. */
const counted = (r: Rate): string => `settb=expr=${r.den}/${r.num},setpts=N`

/** Frames whose neighbourhood is compared: first, middle and last of `n`. */
export const checkPoints = (n: number): number[] => [...new Set([0, Math.floor(n / 2), n - 1])].filter((x) => x >= 0)
const reach = 2
/** The frames around the check points that exist, in order. */
const sampled = (n: number): number[] =>
  [...new Set(checkPoints(n).flatMap((p) => [-2, -1, 0, 1, 2].map((d) => p + d)))].filter((x) => x >= 0 && x < n).sort((a, b) => a - b)

/** Arguments that make the copy into `part` and the samples of its original into `samplePath`, from one decode. */
export function copyArgs(job: CopyJob, part: string, samplePath: string, threads?: number): string[] {
  const n = length(job.range)
  const r = job.input.rate
  // Samples are taken of the decoded picture at the copy's size: sampling frames of 4096×2160 costs as much as coding them.
  const pixels = videoArgs[job.spec.video][videoArgs[job.spec.video].indexOf('-pix_fmt') + 1]
  const chain = `[0:v:0]${firstPicture(job.input, job.range.in)}trim=end_frame=${n},${counted(r)},${scaleFilter(job.size, job.matrix)},format=${pixels},split=2[v][b];[b]select='${selectExpression(sampled(n))}',${sampleFilter}[s]`
  const lead = leadOf(job.input, job.range.in)
  const apart = job.sound && hasSoundFiles(job.input)
  const cut = `atrim=start=${lead.toFixed(6)}:duration=${((n * r.den) / r.num).toFixed(6)},asetpts=N/SR/TB`
  const sound = job.sound ? `;${wholeSound(job.input, apart ? 1 : 0)},${cut}[sound]` : ''
  const { carried } = job
  const limits = threadArgs(threads)
  return [
    ...limits.before,
    ...inputArgs(job.input, job.range.in),
    ...(apart ? soundInputs(job.input, job.range.in) : []),
    '-filter_complex',
    chain + sound,
    '-map',
    '[v]',
    ...(job.sound ? ['-map', '[sound]', ...soundArgs(job.spec)] : []),
    '-fps_mode',
    'passthrough',
    ...videoArgs[job.spec.video],
    ...limits.coding,
    ...colourTags,
    '-r',
    rateFraction(r),
    '-video_track_timescale',
    String(r.num),
    '-map_metadata',
    '-1',
    '-metadata',
    `comment=${carried.stamp}`,
    ...(carried.start === null ? [] : ['-timecode', formatFrames(carried.start, r, carried.drop)]),
    // A reel stands in the timecode track; without one, among the file's own descriptions.
    ...(!carried.reel
      ? []
      : carried.start === null
        ? ['-movflags', 'use_metadata_tags', '-metadata', `reel_name=${carried.reel}`]
        : ['-metadata:s:v:0', `reel_name=${carried.reel}`]),
    '-f',
    job.spec.wrapper,
    `file:${part}`,
    '-map',
    '[s]',
    '-fps_mode',
    'passthrough',
    '-f',
    'rawvideo',
    `file:${samplePath}`,
  ]
}

export interface CheckPoint extends FrameCheck {
  /** Frame of the copy, counted from 0. */
  readonly frame: number
}
export interface CopyReport {
  readonly frames: number
  readonly framesExpected: number
  readonly points: readonly CheckPoint[]
  /** Each a sentence; empty where the copy is what its spec promises. */
  readonly faults: readonly string[]
}

/** The first frame that does not stand where the rate puts it, counted from the file's first; -1 where each does. */
function misplaced(b: ReadBack, r: Rate): number {
  const first = b.times[0] ?? 0
  return b.times.findIndex((t, i) => (t - first) * r.num * b.tick.den !== i * r.den * b.tick.num)
}

/** Compares the file on the disk with what it should be. `around` gives the original's samples by frame of the copy. */
export async function checkCopy(path: string, job: CopyJob, around: ReadonlyMap<number, Uint8Array>, signal?: AbortSignal): Promise<CopyReport> {
  const n = length(job.range)
  const { rate: r } = job.input
  const faults: string[] = []
  const expect = (ok: boolean, sentence: string) => {
    if (!ok) faults.push(sentence)
  }
  const b = await readBack(path, r, checkPoints(n), signal).catch((e) => {
    if (e instanceof MediaError) faults.push(e.message)
    else throw e
  })
  if (b) {
    const { carried, size } = job
    const tag = (name: string): string | null => b.tags.get(name) ?? null
    const timecode = parseTimecode(tag('timecode') ?? '')
    const off = misplaced(b, r)
    expect(b.times.length === n, `It has ${b.times.length} frames, the original ${n}.`)
    expect(off < 0, `Its frame ${off} does not stand where a rate of ${rateFraction(r)} puts it.`)
    expect((timecode ? framesOf(timecode, r) : null) === carried.start, "Its start timecode is not the original's.")
    expect(tag('reel_name') === carried.reel, `Its reel is ${tag('reel_name') ?? 'missing'}, the original's ${carried.reel ?? 'missing'}.`)
    expect(tag('comment') === carried.stamp, 'It does not carry the stamp of the original.')
    expect(b.width === size.width && b.height === size.height, `It is ${b.width}×${b.height}, not ${size.width}×${size.height}.`)
    expect(b.pixelAspect === 1, `Its pixels are not square (${b.pixelAspect.toFixed(3)}).`)
    expect(b.sound === job.sound, job.sound ? 'Its sound is missing.' : 'It has sound that the original has not.')
  }
  const points = checkPoints(n).map((frame, i): CheckPoint => {
    const picture = b?.samples[i]
    const near = [-reach, -1, 0, 1, reach].map((d) => around.get(frame + d) ?? null)
    return { frame, ...checkFrame(picture ?? new Uint8Array(0), near) }
  })
  for (const p of points) {
    if (p.passed) continue
    faults.push(
      p.offset !== 0
        ? `Frame ${p.frame} shows the original's frame ${p.frame + p.offset}.`
        : `Frame ${p.frame} is only ${Math.round(p.likeness * 100)} % like the original's.`,
    )
  }
  return { frames: b?.times.length ?? 0, framesExpected: n, points, faults }
}

/** A copy that came out wrong; the file was set aside under its temporary name and removed. */
export class CheckFailed extends Error {
  constructor(readonly report: CopyReport) {
    super(report.faults.join(' '))
  }
}

/** A file that stands where the copy should go and is not this copy. */
export class PlaceTaken extends Error {}

/** Samples of the original around the check points, read anew. */
async function samplesAround(job: CopyJob, signal?: AbortSignal): Promise<Map<number, Uint8Array>> {
  const frames = sampled(length(job.range))
  const list = await samples(
    job.input,
    frames.map((f) => f + job.range.in),
    { matrix: job.matrix, signal },
  )
  return new Map(frames.flatMap((f, i) => (list[i] ? [[f, list[i]] as const] : [])))
}

const samplesName = (target: string, who: string): string => `${partName(target, who)}.samples`

/** Removes what `who` left beside `target` when it was ended in the middle; the target itself stays. */
export async function clearAway(target: string, who: string): Promise<void> {
  await rm(partName(target, who), { force: true })
  await rm(samplesName(target, who), { force: true })
}

/**
 * Makes a copy: written under a temporary name in the target's folder, checked there, then put in its place. Running it again
 * is safe: a copy that already stands there finished is checked anew and taken; any other file there is left alone.
 * Throws CheckFailed, PlaceTaken, MediaError, or an AbortError; its temporary files are gone in every case, those of an
 * earlier run of the same `who` that was killed too.
 */
export async function makeCopy(job: CopyJob, who: string, needed: number, options: RunOptions = {}): Promise<CopyReport> {
  const part = partName(job.target, who)
  const samplePath = samplesName(job.target, who)
  try {
    await mkdir(dirname(job.target), { recursive: true })
    if (await exists(job.target)) {
      const report = await checkCopy(job.target, job, await samplesAround(job, options.signal), options.signal)
      if (report.faults.length === 0) return report
      throw new PlaceTaken(`Another file stands at ${job.target}. Move it away or choose another place; nothing was overwritten.`)
    }
    const free = await freeSpace(job.target)
    if (free < needed + 50_000_000)
      throw new Error(
        `The target disk is full: ${Math.round(needed / 1e6)} MB are needed at ${dirname(job.target)}, ${Math.round(free / 1e6)} MB are free. Free some space or choose another place.`,
      )
    await ffmpeg(['-y', ...copyArgs(job, part, samplePath, options.threads)], options)
    const raw = await readFile(samplePath)
    const around = new Map(
      sampled(length(job.range))
        .map((f, i) => [f, new Uint8Array(raw.subarray(i * sampleBytes, (i + 1) * sampleBytes))] as const)
        .filter(([, s]) => s.length === sampleBytes),
    )
    const report = await checkCopy(part, job, around, options.signal)
    if (report.faults.length > 0) throw new CheckFailed(report)
    await putInPlace(part, job.target)
    return report
  } finally {
    await clearAway(job.target, who)
  }
}
