/** A spec and an original become FFmpeg arguments; a runner makes the copy, and checks what is then on the disk. */

import { mkdir, readFile, rm } from 'node:fs/promises'
import { dirname } from 'node:path'
import type { Size } from '@naranja/core/framing'
import { checkFrame, type FrameCheck, sampleBytes, sampleSize } from '@naranja/core/picture'
import type { Spec } from '@naranja/core/specs'
import { type FrameRange, formatFrames, length, type Rate, rateFraction } from '@naranja/core/time'
import { exists, freeSpace, partName, putInPlace } from './files.ts'
import { samples } from './frames.ts'
import { inputArgs, type MediaInput } from './input.ts'
import { probe } from './probe.ts'
import { ffmpeg, type RunOptions } from './run.ts'

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

/** Codec arguments of each picture coding a spec can ask for. */
export const videoArgs: Record<Spec['video'], readonly string[]> = {
  h264: ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '23', '-g', '25', '-bf', '0', '-pix_fmt', 'yuv420p'],
  'prores-proxy': ['-c:v', 'prores', '-profile:v', '0', '-pix_fmt', 'yuv422p10le'],
  'prores-hq': ['-c:v', 'prores', '-profile:v', '3', '-pix_fmt', 'yuv422p10le'],
  'dnxhr-sq': ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_sq', '-pix_fmt', 'yuv422p'],
  'dnxhr-hqx': ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'],
}
const soundArgs = (spec: Spec): string[] => ['-c:a', spec.video === 'h264' ? 'pcm_s16le' : 'pcm_s24le']

/** The matrix that pictures are read with: as tagged, BT.709 where the file says nothing. */
const matrices: Record<string, string> = { bt2020nc: 'bt2020', bt470bg: 'bt601', smpte170m: 'bt601' }
export const matrixIn = (tag: string): string => matrices[tag] ?? 'bt709'

/** The filter that brings a picture to a size in BT.709, limited range. */
export const scaleFilter = (size: Size, matrix: string, flags = 'bicubic'): string =>
  `scale=${size.width}:${size.height}:flags=${flags}:in_color_matrix=${matrixIn(matrix)}:out_color_matrix=bt709:out_range=tv,setsar=1`

export const colourTags = ['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', '-color_range', 'tv']

/** Counts frames at a rate, whatever timestamps the file has. */
const counted = (r: Rate): string => `settb=expr=${r.den}/${r.num},setpts=N`

/** Frames whose neighbourhood is compared: first, middle and last of `n`. */
export const checkPoints = (n: number): number[] => [...new Set([0, Math.floor(n / 2), n - 1])].filter((x) => x >= 0)
const reach = 2
/** The frames around the check points that exist, in order. */
const sampled = (n: number): number[] =>
  [...new Set(checkPoints(n).flatMap((p) => [-2, -1, 0, 1, 2].map((d) => p + d)))].filter((x) => x >= 0 && x < n).sort((a, b) => a - b)

export const sampleFilter = `scale=${sampleSize.width}:${sampleSize.height}:flags=area,format=gray`

/** `select` expression for frames counted from 0: ranges joined, so that it stays short. */
export function selectExpression(frames: readonly number[]): string {
  const parts: string[] = []
  for (let i = 0; i < frames.length; ) {
    let j = i
    while (j + 1 < frames.length && frames[j + 1] === (frames[j] ?? 0) + 1) j++
    parts.push(i === j ? `eq(n,${frames[i]})` : `between(n,${frames[i]},${frames[j]})`)
    i = j + 1
  }
  return parts.join('+')
}

/** Arguments that make the copy into `part` and the samples of its original into `samplePath`, from one decode. */
export function copyArgs(job: CopyJob, part: string, samplePath: string): string[] {
  const n = length(job.range)
  const r = job.input.rate
  // Samples are taken of the decoded picture at the copy's size: sampling frames of 4096×2160 costs as much as coding them.
  const pixels = videoArgs[job.spec.video][videoArgs[job.spec.video].indexOf('-pix_fmt') + 1]
  const chain = `[0:v:0]trim=end_frame=${n},${counted(r)},${scaleFilter(job.size, job.matrix)},format=${pixels},split=2[v][b];[b]select='${selectExpression(sampled(n))}',${sampleFilter}[s]`
  const sound = job.sound ? `;[0:a:0]atrim=end=${((n * r.den) / r.num).toFixed(6)}[sound]` : ''
  const { carried } = job
  return [
    ...inputArgs(job.input, job.range.in),
    '-filter_complex',
    chain + sound,
    '-map',
    '[v]',
    ...(job.sound ? ['-map', '[sound]', ...soundArgs(job.spec)] : []),
    '-fps_mode',
    'passthrough',
    ...videoArgs[job.spec.video],
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
    ...(carried.reel ? ['-metadata:s:v:0', `reel_name=${carried.reel}`] : []),
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

/** Compares the file on the disk with what it should be. `around` gives the original's samples by frame of the copy. */
export async function checkCopy(path: string, job: CopyJob, around: ReadonlyMap<number, Uint8Array>, signal?: AbortSignal): Promise<CopyReport> {
  const n = length(job.range)
  const bytes = Buffer.from(path)
  const [t, made] = await Promise.all([
    probe(bytes, { projectRate: job.input.rate, count: true, signal }),
    samples({ path: bytes, sequence: null, rate: job.input.rate }, checkPoints(n), { signal }).catch(() => []),
  ])
  const faults: string[] = []
  const expect = (ok: boolean, sentence: string) => {
    if (!ok) faults.push(sentence)
  }
  if (t.fault) faults.push(t.fault)
  else {
    expect(t.frames === n, `It has ${t.frames} frames, the original ${n}.`)
    expect(
      t.rate.num * job.input.rate.den === job.input.rate.num * t.rate.den,
      `Its rate is ${rateFraction(t.rate)}, the original's ${rateFraction(job.input.rate)}.`,
    )
    expect(t.start === job.carried.start, 'Its start timecode is not the original’s.')
    expect((t.reel ?? null) === job.carried.reel, `Its reel is ${t.reel ?? 'missing'}, the original's ${job.carried.reel ?? 'missing'}.`)
    expect(t.stamp !== null && job.carried.stamp.includes(t.stamp), 'It does not carry the stamp of the original.')
    expect(t.width === job.size.width && t.height === job.size.height, `It is ${t.width}×${t.height}, not ${job.size.width}×${job.size.height}.`)
    expect((t.sound !== null) === job.sound, job.sound ? 'Its sound is missing.' : 'It has sound that the original has not.')
  }
  const points = checkPoints(n).map((frame, i): CheckPoint => {
    const picture = made[i]
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
  return { frames: t.frames, framesExpected: n, points, faults }
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

/**
 * Makes a copy: written under a temporary name in the target's folder, checked there, then put in its place. Running it again
 * is safe: a copy that already stands there finished is checked anew and taken; any other file there is left alone.
 * Throws CheckFailed, PlaceTaken, MediaError, or an AbortError; the temporary file is gone in every case.
 */
export async function makeCopy(job: CopyJob, who: string, needed: number, options: RunOptions = {}): Promise<CopyReport> {
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
  const part = partName(job.target, who)
  const samplePath = `${part}.samples`
  try {
    await ffmpeg(['-y', ...copyArgs(job, part, samplePath)], options)
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
    await rm(part, { force: true })
    await rm(samplePath, { force: true })
  }
}
