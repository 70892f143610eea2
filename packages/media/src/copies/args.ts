/** A clip and what is to be made of it become FFmpeg arguments. */
import { seenColour } from '@naranja/core/clip'
import { atomRoom, atomRoomName } from '@naranja/core/headers'
import { codingOf, descriptions, everyFrame, fixedBits, rasterOf, type SoundStream, wrapperOf } from '@naranja/core/specs'
import { formatFrames, length, type Rate, rateFraction, sameRate } from '@naranja/core/time'
import {
  colourArgs,
  colourFilter,
  copyColour,
  layoutFilters,
  matrixIn,
  pixelsOf,
  sampleFilter,
  selectExpression,
  threadArgs,
  traceFilter,
  videoArgs,
} from '../ffmpeg/index.ts'
import { firstPicture, hasSoundFiles, inputArgs, leadOf, soundInputs, soundOpened, wholeSound } from '../input/index.ts'
import { lookFilter } from '../frames/index.ts'
import { burnInGraph } from './text.ts'
import type { CopyJob, CopyOutput } from './model.ts'
import { type Parts, sampled } from './parts.ts'

/** Counts frames at a rate, whatever timestamps the file has. */
const counted = (r: Rate): string => `settb=expr=${r.den}/${r.num},setpts=N`

/** The colours of a copy: of its values, and as it is tagged. */
export const colourOf = (job: CopyJob, o: CopyOutput) => copyColour(job.colour, o.layout.source, o.spec, o.look !== null)
/** The colours by which the original is read. */
const readAs = (job: CopyJob, o: CopyOutput) => seenColour({ ...o.layout.source, colour: job.colour })

/** The frames of an original from one on (counted from its first), in its own rate and nothing before or after them. */
export function decoded(job: CopyJob, from: number, n: number): string {
  return `[0:v:0]${firstPicture(job.input, from)}trim=end_frame=${n},${counted(job.input.rate)}`
}

/** Names of the sound streams, where the wrapper carries them. */
export const streamNames = (o: CopyOutput): string[] =>
  wrapperOf(o.spec.wrapper).carries.tracks ? o.sound.flatMap((s, i) => (s.name ? [`-metadata:s:a:${i}`, `title=${s.name}`] : [])) : []

/**
 * What is done to the picture of an original for one copy, from `[from]` to `[to]`: fields, framing, look, burn-ins, rate. What a preview shows is made by
 * the same graph.
 */
export function pictureGraph(job: CopyJob, o: CopyOutput, from: string, to: string, label: string, burning = job.burning): string {
  const kept = o.fields !== null
  const { values: colour, tags } = colourOf(job, o)
  const fields = job.interlaced && !kept ? 'bwdif=mode=send_frame:parity=auto:deint=all,' : ''
  const look = o.look ? `,${lookFilter(o.look)},scale=out_color_matrix=bt709:out_range=${colour.range}` : ''
  const shape = `[${from}]${fields}${layoutFilters(o.layout, readAs(job, o), o.look ? { ...colour, matrix: 'bt709' } : colour, kept)}${look},format=${pixelsOf(o.spec.coding)}`
  const original = job.input.rate
  // The frame at or before each of the copy's in time; the last one stands for as long as it takes.
  const tempo = sameRate(original, o.rate)
    ? ''
    : `tpad=stop=2:stop_mode=clone,fps=${rateFraction(o.rate)}:round=up:start_time=0,trim=end_frame=${o.frames},${counted(o.rate)},`
  const end = `${tempo}${kept ? `setfield=${o.fields === 'upper' ? 'tff' : 'bff'},` : 'setfield=prog,'}format=${pixelsOf(o.spec.coding)},${colourFilter(tags)}[${to}]`
  const burnIns = o.burnIns.filter((b) => b.what !== 'image' || b.image)
  if (burnIns.length === 0) return `${shape},${end}`
  return `${shape}[${label}p];${burnInGraph(burnIns, burning, original, o.layout.raster, `${label}p`, `${label}q`, `${label}t`)};[${label}q]${end}`
}

/** One stream of a copy's sound out of all channels of the original. */
function streamFilter(s: SoundStream): string {
  const share = (1 / s.channels.length).toFixed(6)
  const terms = s.mixed
    ? Array.from({ length: s.width }, (_, c) => `c${c}=${s.channels.map((x) => `${share}*c${x}`).join('+')}`)
    : s.channels.map((x, c) => `c${c}=c${x}`)
  const shape = s.width === 1 ? 'mono' : s.width === 2 ? 'stereo' : `${s.width}c`
  return `pan=${shape}|${terms.join('|')}`
}

const soundCodec = { pcm16: 'pcm_s16le', pcm24: 'pcm_s24le', pcm32: 'pcm_f32le', flac: 'flac', aac: 'aac' } as const
export const muxer = { mov: 'mov', mp4: 'mp4', mxf: 'mxf', 'mxf-atom': 'mxf_opatom', mkv: 'matroska', frames: 'image2' } as const

/** What a copy carries of its clip's description, by the key that its wrapper has for it. */
export const descriptionTags = (o: CopyOutput): [key: string, value: string][] => {
  const keys = wrapperOf(o.spec.wrapper).describedAs
  return descriptions.flatMap((f): [string, string][] => {
    const value = o.carried.described[f]
    return keys && value ? [[keys[f], value]] : []
  })
}

/** Names, reel and timecode as each wrapper takes them. */
export function described(o: CopyOutput): string[] {
  const { carried } = o
  const { wrapper } = o.spec
  const start = carried.start === null ? [] : ['-timecode', formatFrames(carried.start, o.rate, carried.drop)]
  if (wrapper === 'frames') return []
  const stamp = wrapperOf(wrapper).carries.stamp ? ['-metadata', `comment=${carried.stamp}`] : []
  // In mov a reel stands in the timecode track; without one, among the file's own descriptions.
  const reel =
    !carried.reel || !wrapperOf(wrapper).carries.reel
      ? []
      : wrapper !== 'mov'
        ? ['-metadata', `reel_name=${carried.reel}`]
        : carried.start === null
          ? ['-metadata', `reel_name=${carried.reel}`]
          : ['-metadata:s:v:0', `reel_name=${carried.reel}`]
  // Files by track need room in their headers until they are made one clip.
  const room = wrapper === 'mxf-atom' ? ['-metadata', `comment_${atomRoomName}=${'-'.repeat(atomRoom(1 + o.sound.length))}`] : []
  const keyed = [...descriptionTags(o).flatMap(([key, value]) => ['-metadata', `${key}=${value}`]), ...room]
  // Keys of one's own are written where FFmpeg is told so.
  const own = keyed.length > 0 || (wrapper === 'mov' && carried.reel !== null && carried.start === null)
  const flags = !own || wrapper === 'mkv' ? [] : wrapper === 'mov' || wrapper === 'mp4' ? ['-movflags', 'use_metadata_tags'] : ['-store_user_comments', '1']
  return ['-map_metadata', '-1', ...flags, ...stamp, ...start, ...reel, ...keyed]
}

const quoted = (path: string): string => `file:${path}`

/** Output arguments of one copy's files and of its samples. */
function outputArgs(job: CopyJob, o: CopyOutput, parts: Parts, label: string, coding: readonly string[]): string[] {
  const { spec } = o
  const w = wrapperOf(spec.wrapper)
  const c = codingOf(spec.coding)
  const raster = rasterOf(c, o.layout.raster.width, o.layout.raster.height, o.fields !== null)
  const bits = raster && fixedBits(raster, o.rate)
  const kept = o.fields !== null && !spec.coding.startsWith('ffv1') ? ['-flags', '+ildct+ilme'] : []
  const sound = o.sound.map((_, i) => `[${label}a${i}]`)
  const rate = spec.wrapper === 'mxf-atom' ? ['-mxf_audio_edit_rate', rateFraction(o.rate)] : []
  // FFmpeg asks to be told twice that FLAC in mp4 is meant.
  const strict = spec.wrapper === 'mp4' && spec.sound.coding === 'flac' ? ['-strict', 'experimental'] : []
  const soundArgs = ['-c:a', soundCodec[spec.sound.coding], ...(spec.sound.coding === 'aac' ? ['-b:a', '160k'] : []), ...strict]
  const names = streamNames(o)
  const together = w.apart ? [] : [...sound.flatMap((s) => ['-map', s]), ...(sound.length ? soundArgs : []), ...names]
  const numbers = spec.wrapper === 'frames' ? ['-start_number', String(parts.firstNumber)] : []
  const scale = spec.wrapper === 'mov' || spec.wrapper === 'mp4' ? ['-video_track_timescale', String(o.rate.num)] : []
  return [
    ...['-map', `[${label}v]`, ...together, '-fps_mode', 'passthrough'],
    ...[...videoArgs(spec, bits), ...kept, ...coding, ...colourArgs(colourOf(job, o).tags), '-r', rateFraction(o.rate)],
    ...[...scale, ...described(o), ...numbers, '-f', muxer[spec.wrapper], quoted(parts.picture)],
    ...(w.apart
      ? sound.flatMap((s, i) => [
          ...['-map', s, ...soundArgs, ...rate, ...(spec.wrapper === 'mxf-atom' ? described(o) : ['-map_metadata', '-1'])],
          ...['-f', spec.wrapper === 'mxf-atom' ? 'mxf_opatom' : 'wav', quoted(parts.sound[i] ?? '')],
        ])
      : []),
    ...['-map', `[${label}s]`, '-fps_mode', 'passthrough', '-f', 'rawvideo', quoted(parts.samples)],
    ...(everyFrame(spec) ? ['-map', `[${label}t]`, '-fps_mode', 'passthrough', '-f', 'rawvideo', quoted(parts.trace)] : []),
  ]
}

/** Arguments that make every copy of a job into its parts, and the samples they are checked against, from one decode. */
export function copyArgs(job: CopyJob, parts: readonly Parts[], threads?: number): string[] {
  const n = length(job.range)
  const r = job.input.rate
  const { outputs } = job
  const base = decoded(job, job.range.in, n)
  const heads = outputs.map((_, i) => `o${i}`)
  const graph = [
    `${base},split=${outputs.length}${heads.map((h) => `[${h}]`).join('')}`,
    ...outputs.flatMap((o, i) => [
      pictureGraph(job, o, `o${i}`, `o${i}e`, `o${i}x`),
      // Samples are taken of what is coded, at its size: sampling frames of 4096×2160 costs as much as coding them.
      `[o${i}e]split=${everyFrame(o.spec) ? 3 : 2}[o${i}v][o${i}b]${everyFrame(o.spec) ? `[o${i}c];[o${i}c]${traceFilter}[o${i}t]` : ''}`,
      `[o${i}b]select='${selectExpression(sampled(o.frames, o.target))}',${sampleFilter}[o${i}s]`,
    ]),
  ]
  const wanted = outputs.some((o) => o.sound.length > 0)
  // Of a part, sound is opened by itself, where samples can be counted from: the picture is opened at a time that is no whole number of them.
  const begin = (job.input.reading?.offset ?? 0) + (job.range.in * r.den) / r.num
  const opened = wanted && job.range.in > 0 ? soundOpened(job.input, begin) : null
  const apart = wanted && (opened !== null || hasSoundFiles(job.input))
  if (wanted) {
    const lead = opened ? begin - opened.from : leadOf(job.input, 0)
    const streams = outputs.flatMap((o, i) => o.sound.map((s, j) => ({ s, o, label: `o${i}a${j}` })))
    const cut = `atrim=start=${lead.toFixed(6)}:duration=${((n * r.den) / r.num + 0.1).toFixed(6)},asetpts=round(N/SR/TB)`
    const same = (s: SoundStream) => !s.mixed && s.width === s.channels.length && s.channels.every((c, i) => c === i) && s.width === channelsOf(job)
    graph.push(
      `${wholeSound(job.input, apart ? 1 : 0)},${cut},asplit=${streams.length}${streams.map((x) => `[${x.label}i]`).join('')}`,
      // Sound lasts as long as the picture, to the sample: in mxf frames are lost where it is shorter (measured).
      ...streams.map((x) => {
        const samples = Math.round((x.o.frames * x.o.rate.den * x.o.sampleRate) / x.o.rate.num)
        return `[${x.label}i]${same(x.s) ? 'anull' : streamFilter(x.s)},aresample=${x.o.sampleRate},apad=whole_len=${samples},atrim=end_sample=${samples}[${x.label}]`
      }),
    )
  }
  const limits = threadArgs(threads)
  return [
    ...limits.before,
    ...inputArgs(job.input, job.range.in),
    ...(opened?.args ?? (apart ? soundInputs(job.input) : [])),
    '-filter_complex',
    graph.join(';'),
    ...outputs.flatMap((o, i) => outputArgs(job, o, parts[i] as Parts, `o${i}`, limits.coding)),
  ]
}

const channelsOf = (job: CopyJob): number => job.input.sound?.streams.reduce((n, c) => n + c, 0) ?? 0

/** Arguments that show one frame of a copy (counted from its first) as it will be coded, as a PNG on standard output, made smaller where it is wider than `most`. */
export function previewArgs(job: CopyJob, o: CopyOutput, frame: number, most?: number): string[] {
  const at = job.range.in + frame
  const burning = { ...job.burning, start: (job.burning.start ?? 0) + frame, frame: job.burning.frame + frame }
  const still: CopyOutput = { ...o, rate: job.input.rate, frames: 1 }
  const { matrix, range } = colourOf(job, o).values
  const size = most && most < o.layout.raster.width ? `${most}:-2:flags=area` : ''
  const codes = matrix === 'rgb' ? '' : `in_color_matrix=${matrixIn(matrix)}:in_range=${range}`
  // Size and codes in one step: in two the first would forget the range.
  // Untagged, as every still on the screen is: browsers would bend tagged pictures.
  const shown = size || codes ? `scale=${[size, codes].filter(Boolean).join(':')},` : ''
  return [
    ...['-nostdin', '-loglevel', 'error', ...inputArgs(job.input, at), '-filter_complex'],
    `${decoded(job, at, 1)}[in];${pictureGraph(job, still, 'in', 'shown', 'x', burning)};[shown]${shown}format=rgb24,setparams=color_primaries=unknown:color_trc=unknown:colorspace=unknown[out]`,
    ...['-map', '[out]', '-frames:v', '1', '-c:v', 'png', '-f', 'image2pipe', '-'],
  ]
}
