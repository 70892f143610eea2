/** Reads what a media file is: ffprobe's answer as core's technical data. */
import { stat } from 'node:fs/promises'
import { capturedByTags, readStamp, recordedOn, type Sequence, type Technical } from '@naranja/core/clip'
import { mediaKind } from '@naranja/core/naming'
import { readDng } from '@naranja/core/raw'
import { framesOf, mulDivFloor, parseRate, parseTimecode, type Rate, rate, sameRate } from '@naranja/core/time'
import { z } from 'zod'
import { lastName, pathText, readStart } from '../disk/index.ts'
import { fileInput, MediaError, output, pointsElsewhere } from '../ffmpeg/index.ts'
import { sequenceTime } from './headers.ts'
import { inputArgs } from '../input/index.ts'
import { stampBeside } from './sidefile.ts'
import { isCutShort } from './whole.ts'
import { readingOf } from './reading.ts'

/** Keys in small letters: Matroska has them in capitals. */
const Tags = z
  .record(z.string(), z.string())
  .default({})
  .transform((t) => Object.fromEntries(Object.entries(t).map(([k, v]) => [k.toLowerCase(), v])))
const Stream = z.object({
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  codec_tag_string: z.string().optional(),
  profile: z.string().optional(),
  width: z.number().optional(),
  height: z.number().optional(),
  sample_aspect_ratio: z.string().optional(),
  pix_fmt: z.string().optional(),
  field_order: z.string().optional(),
  color_range: z.string().optional(),
  color_space: z.string().optional(),
  color_transfer: z.string().optional(),
  color_primaries: z.string().optional(),
  r_frame_rate: z.string().optional(),
  avg_frame_rate: z.string().optional(),
  nb_frames: z.string().optional(),
  has_b_frames: z.number().optional(),
  time_base: z.string().optional(),
  duration: z.string().optional(),
  sample_rate: z.string().optional(),
  channels: z.number().optional(),
  bits_per_raw_sample: z.string().optional(),
  bits_per_sample: z.number().optional(),
  disposition: z.record(z.string(), z.number()).optional(),
  side_data_list: z.array(z.object({ rotation: z.number().optional() })).optional(),
  tags: Tags,
})
const Answer = z.object({
  streams: z.array(Stream).default([]),
  packets: z
    .array(
      z.object({
        codec_type: z.string().optional(),
        stream_index: z.number().optional(),
        flags: z.string().optional(),
        pts: z.number().optional(),
        dts: z.number().optional(),
      }),
    )
    .default([]),
  format: z.object({
    format_name: z.string().optional(),
    probe_score: z.number().optional(),
    duration: z.string().optional(),
    size: z.string().optional(),
    bit_rate: z.string().optional(),
    start_time: z.string().optional(),
    tags: Tags,
  }),
})
type ProbeStream = z.infer<typeof Stream>

/** Of a file that nothing is known of. */
export const emptyTechnical: Technical = {
  wrapper: '',
  codec: '',
  width: 0,
  height: 0,
  pixelAspect: 1,
  rotation: 0,
  rate: rate(25),
  variable: false,
  frames: 0,
  start: null,
  drop: false,
  depth: 8,
  chroma: '',
  scan: 'progressive',
  colour: { primaries: 'unknown', transfer: 'unknown', matrix: 'unknown', range: 'unknown' },
  longGop: false,
  reel: null,
  stamp: null,
  sound: null,
  parts: [],
  channelFiles: [],
  heard: null,
  sampleOffset: 0,
  hasPicture: false,
  dataRate: 0,
  sequence: null,
  raw: null,
  fault: null,
}

const proresNames: Record<string, string> = {
  apco: 'ProRes 422 Proxy',
  apcs: 'ProRes 422 LT',
  apcn: 'ProRes 422',
  apch: 'ProRes 422 HQ',
  ap4h: 'ProRes 4444',
  ap4x: 'ProRes 4444 XQ',
}
const plainNames: Record<string, string> = {
  hevc: 'HEVC',
  mjpeg: 'Motion JPEG',
  ffv1: 'FFV1',
  v210: 'v210',
  cfhd: 'CFHD',
  png: 'PNG',
  dpx: 'DPX',
  exr: 'OpenEXR',
  tiff: 'TIFF',
  vp9: 'VP9',
  av1: 'AV1',
  mpeg2video: 'MPEG-2',
}

function codecName(s: ProbeStream): string {
  const profile = s.profile && s.profile !== 'unknown' ? s.profile : ''
  if (s.codec_name === 'h264') return `H.264 ${profile}`.trim()
  if (s.codec_name === 'prores') return proresNames[s.codec_tag_string ?? ''] ?? `ProRes ${profile}`.trim()
  if (s.codec_name === 'dnxhd') return profile || 'DNxHD'
  return plainNames[s.codec_name ?? ''] ?? s.codec_name ?? 'unknown'
}

function chromaOf(pix: string): { depth: number; chroma: string } {
  const depth = Number(/p(\d{2})(le|be)?$/.exec(pix)?.[1] ?? (/48|64/.test(pix) ? 16 : 8))
  if (/rgb|bgr|gbr/.test(pix)) return { depth, chroma: 'RGB' }
  const chroma = /42[02]|44[04]|41[01]/.exec(pix)?.[0]
  return { depth, chroma: chroma ? `${chroma[0]}:${chroma[1]}:${chroma[2]}` : /gray/.test(pix) ? 'grey' : '4:4:4' }
}

const wrapperOf = (format: string, file: string): string => {
  const ext = file.slice(file.lastIndexOf('.') + 1).toLowerCase()
  return format.split(',').includes(ext) ? ext : (format.split(',')[0] ?? ext)
}

/** Of a file that is no movie though its name says so; null where it begins as one. */
async function notMedia(path: Uint8Array, name: string): Promise<string | null> {
  const head = await readStart(path, 512)
  return /\.(mov|mp4|m4v)$/i.test(name) && !/^(ftyp|moov|mdat|wide|free|skip|pnot)$/.test(head.toString('latin1', 4, 8))
    ? `${name} does not begin like a movie. Leave it out, or copy it again from the card.`
    : null
}

/** Of a picture whose codec FFmpeg does not know, or cannot decode. */
function undecodable(name: string, video: ProbeStream, sound: boolean): string {
  const codec = [video.codec_name, video.codec_tag_string].find((c) => c && c !== 'unknown' && !/^\[0\]/.test(c)) ?? 'a codec that is not named'
  return `${name}: its picture is coded in ${codec}, which cannot be decoded here${sound ? '; only its sound could be read' : ''}. Convert it with the software of the camera, and take in what that makes.`
}

/** Of a file in a form of a camera's own that cannot be developed here. */
const unreadRaw = (name: string): string =>
  `${name} holds raw ${mediaKind(name) === 'raw-video' ? 'video' : 'pictures'} in a form of its camera, which cannot be read here. Convert it with the software of the camera and take in what that makes, or choose copies made elsewhere in Edit copies; they are paired with it by name.`

/** Forms that files of these extensions begin as, by FFmpeg's names. */
const formsOf: readonly (readonly [RegExp, RegExp])[] = [
  [/\.(mov|mp4|m4v|3gp|3g2|insv|lrv|m4a)$/i, /mov|mp4/],
  [/\.mxf$/i, /mxf/],
  [/\.(mkv|webm)$/i, /matroska/],
  [/\.avi$/i, /avi/],
  [/\.(mts|m2ts|m2t|ts|tod|mod|mpg|mpeg|mp2|vob)$/i, /mpegts|mpeg/],
  [/\.(wav|bwf|rf64)$/i, /wav|w64/],
  [/\.aiff?$/i, /aiff/],
  [/\.flac$/i, /flac/],
]
/** Forms with a head of their own, that no damage looks like: a file of another name may well be one. */
const headed = /mov|mp4|mxf|matroska|avi|mpegts|wav|w64|aiff|flac|asf|flv|ogg|gxf/

/** Of a damaged file FFmpeg guesses a form from what is left in it (bare pictures, noise as sound): that is no description of it. Null where it is what it says. */
function inventedForm(name: string, form: string, score: number): string | null {
  const wanted = formsOf.find(([ending]) => ending.test(name))?.[1]
  if (!wanted || wanted.test(form) || (headed.test(form) && score >= 75)) return null
  return `${name} is damaged: it does not begin as a file of its kind does, so nothing in it can be read. Copy it again from the card.`
}

/** What a file that cannot be used looks like: every fact empty but its fault. */
const faulty = (sentence: string): Technical => ({ ...emptyTechnical, fault: sentence })

export interface ProbeOptions {
  /** Rate of sequences and of sound, which carry none of their own. */
  readonly projectRate: Rate
  readonly sequence?: Sequence | null
  /** Files of a recording that has one for each channel, the one probed first. */
  readonly channelFiles?: readonly Uint8Array[]
  readonly signal?: AbortSignal
}

/** Reads a file's facts. Never throws for what is wrong with the file: that is told in `fault`. */
export async function probe(path: Uint8Array, options: ProbeOptions): Promise<Technical> {
  const name = pathText(lastName(path))
  let size: number
  try {
    const s = await stat(Buffer.from(path))
    size = s.size
    if (size === 0) return faulty(`${name} is empty (0 bytes); copy it again from the card.`)
    const elsewhere = await pointsElsewhere(path)
    if (elsewhere) return faulty(elsewhere)
  } catch (e) {
    const code = (e as NodeJS.ErrnoException).code
    return faulty(
      code === 'EACCES'
        ? `${name} may not be read (permission denied); give this user the right to read it.`
        : code === 'ENOENT'
          ? `${name} is not there any more.`
          : `${name} could not be opened (${code}).`,
    )
  }
  if (mediaKind(name) === 'raw-picture') return faulty(unreadRaw(name))
  try {
    const from = options.sequence ? inputArgs({ path, sequence: options.sequence, rate: options.projectRate }) : fileInput(path)
    const args = ['-v', 'error', '-print_format', 'json', '-show_format', '-show_streams', '-read_intervals', '%+#40', '-show_packets', ...from]
    const answer = Answer.parse(JSON.parse((await output('ffprobe', args, options.signal)).toString()))
    const t = await technical(answer, path, name, size, options)
    if (t.fault && mediaKind(name) === 'raw-video') return { ...t, fault: unreadRaw(name) }
    if (!options.sequence) return t
    if (/^dng$/i.test(options.sequence.ext)) return await asRaw(t, path, options)
    const told = await sequenceTime(path, options.sequence, options.projectRate)
    return { ...t, rate: told?.rate ?? t.rate, rateGiven: Boolean(told?.rate), start: told?.start ?? t.start, drop: told?.drop ?? t.drop }
  } catch (e) {
    options.signal?.throwIfAborted()
    if (e instanceof MediaError && mediaKind(name) === 'raw-video') return faulty(unreadRaw(name))
    if (e instanceof MediaError) return faulty((await notMedia(path, name)) ?? `${name}: ${e.message} Copy it again from the card, or leave it out.`)
    throw e
  }
}

/** A sequence of raw pictures, by what the tags of its first say. */
async function asRaw(t: Technical, path: Uint8Array, options: ProbeOptions): Promise<Technical> {
  const dng = readDng(await readStart(path, 400_000_000))
  if (!dng) return { ...t, fault: `${pathText(lastName(path))} is named like a raw picture, but holds none. Copy it again from the card.` }
  const clipRate = dng.rate ? rate(dng.rate.num, dng.rate.den) : options.projectRate
  const time = options.sequence && (await sequenceTime(path, options.sequence, clipRate, dng))
  return {
    ...t,
    codec: 'DNG raw',
    rate: clipRate,
    rateGiven: Boolean(dng.rate),
    start: time?.start ?? null,
    drop: time?.drop ?? false,
    reel: dng.reel,
    depth: dng.bits,
    chroma: 'raw',
    // As it is once it is developed.
    colour: { primaries: 'bt709', transfer: 'bt709', matrix: 'gbr', range: 'pc' },
    longGop: false,
    raw: { camera: dng.camera, toCamera: dng.toCamera, neutral: dng.neutral },
  }
}

/** Frames a second as a file says; where it counts in ticks far finer than its pictures, the usual rate nearest to their average. Nearly a usual one is that. */
function toldRate(nominal: string | undefined, average: string | undefined): Rate | null {
  const [told, mean] = [parseRate(nominal ?? ''), parseRate(average ?? '')]
  const usual = [rate(24000, 1001), rate(24), rate(25), rate(30000, 1001), rate(30), rate(48), rate(50), rate(60000, 1001), rate(60), rate(100), rate(120)]
  const nearest = (fps: number): Rate => usual.reduce((best, r) => (Math.abs(r.num / r.den - fps) < Math.abs(best.num / best.den - fps) ? r : best))
  if (!told || !mean || told.num / told.den <= 130 || told.num / told.den < 1.5 * (mean.num / mean.den)) {
    const said = told ?? mean
    if (!said) return null
    // Where times are whole milliseconds a rate is worked out from them, and nearly right: 19001/317 is 59.94.
    const by = nearest(said.num / said.den)
    return Math.abs((said.num * by.den) / (said.den * by.num) - 1) < 1e-4 ? by : said
  }
  return nearest(mean.num / mean.den)
}

/** Whether a stream's pictures stand at uneven times, by its average rate and by its first packets. */
function uneven(video: ProbeStream, packets: readonly { pts?: number | undefined }[]): boolean {
  const [nominal, average] = [parseRate(video.r_frame_rate ?? ''), parseRate(video.avg_frame_rate ?? '')]
  if (nominal && average) {
    const share = (average.num * nominal.den) / (average.den * nominal.num)
    // Pictures coded as fields count twice.
    if (Math.abs(share - 1) > 0.02 && Math.abs(share - 0.5) > 0.01 && Math.abs(share - 2) > 0.04) return true
  }
  const times = packets.flatMap((p) => p.pts ?? []).sort((a, b) => a - b)
  // The last ones may wait for pictures that were not looked at.
  const gaps = times.slice(1, -4).map((t, i) => t - (times[i] as number))
  if (gaps.length < 4) return false
  const [least, most] = [Math.min(...gaps), Math.max(...gaps)]
  // A tick more or less is rounding.
  return most - least > Math.max(1, least * 0.02) + 1e-9
}

async function technical(answer: z.infer<typeof Answer>, path: Uint8Array, name: string, size: number, options: ProbeOptions): Promise<Technical> {
  const video = answer.streams.find((s) => s.codec_type === 'video' && !s.disposition?.attached_pic && s.width)
  const audio = answer.streams.filter((s) => s.codec_type === 'audio')
  const invented = !options.sequence && inventedForm(name, answer.format.format_name ?? '', answer.format.probe_score ?? 100)
  if (invented) return faulty(invented)
  if (!video && audio.length === 0) return faulty(`${name} holds neither picture nor sound that can be decoded; it may not be a media file.`)
  const tagged = (key: string): string | null => answer.streams.map((s) => s.tags[key]).find((v) => v) ?? answer.format.tags[key] ?? null
  const clipRate = options.sequence || !video ? options.projectRate : (toldRate(video.r_frame_rate, video.avg_frame_rate) ?? options.projectRate)
  const seconds = Number(video?.duration ?? answer.format.duration ?? 0)
  const lasting = (seconds * clipRate.num) / clipRate.den
  const byLength = Math.round(lasting)
  const stored = Number(video?.nb_frames ?? 0)
  // A movie may be told to leave out pictures that it holds (edit lists, ISO/IEC 14496-12, 8.6.6): what is shown counts.
  const cut = stored > byLength && byLength > 0 && /mov|mp4/.test(answer.format.format_name ?? '') && !(video && uneven(video, []))
  const counted = cut ? Math.floor(lasting + 0.05) : stored || byLength
  const sampleRate = Number(audio[0]?.sample_rate ?? 48000)
  const frames = options.sequence
    ? options.sequence.last - options.sequence.first + 1
    : video
      ? counted
      : Math.floor((Number(audio[0]?.duration ?? answer.format.duration ?? 0) * clipRate.num) / clipRate.den + 1e-6)
  const wrapper = options.sequence ? `${options.sequence.ext.toUpperCase()} sequence` : wrapperOf(answer.format.format_name ?? '', name)
  const videoPackets = video ? answer.packets.filter((p) => p.stream_index === answer.streams.indexOf(video)) : []
  const variable = !options.sequence && video !== undefined && uneven(video, videoPackets)
  const found =
    video && !options.sequence
      ? await readingOf(
          path,
          wrapper,
          video,
          videoPackets,
          { begin: Number(answer.format.start_time ?? 0), length: Number(answer.format.duration ?? 0) },
          clipRate,
          variable,
          options.signal,
        )
      : null
  const written = parseTimecode(tagged('timecode') ?? '')
  const reference = Number(answer.format.tags.time_reference ?? Number.NaN)
  const fromSamples = !video && Number.isFinite(reference) ? Math.ceil((reference * clipRate.num) / (sampleRate * clipRate.den) - 1e-9) : null
  const start = written ? framesOf(written, clipRate) : fromSamples
  const sampleOffset = fromSamples === null ? 0 : mulDivFloor(fromSamples, sampleRate * clipRate.den, clipRate.num) - reference
  const shot = video ? capturedByTags([...answer.streams, answer.format].flatMap((x) => Object.entries(x.tags))) : null
  const began = recordedOn([...answer.streams, answer.format].flatMap((x) => Object.entries(x.tags)))
  const sar = /^(\d+):(\d+)$/.exec(video?.sample_aspect_ratio ?? '')
  // A display matrix turns counter-clockwise (ISO/IEC 14496-12, 8.5.3); players undo it clockwise.
  const turned = video?.side_data_list?.find((d) => d.rotation !== undefined)?.rotation ?? 0
  const rotation = (((Math.round(-turned / 90) * 90) % 360) + 360) % 360
  const sideways = rotation === 90 || rotation === 270
  const aspect = sar && Number(sar[1]) > 0 && Number(sar[2]) > 0 ? Number(sar[1]) / Number(sar[2]) : 1
  const fault =
    video && !options.sequence && (await isCutShort(path))
      ? `${name} is cut short: it ends before its last frame. Copy it again from the card.`
      : video && !video.pix_fmt
        ? undecodable(name, video, audio.length > 0)
        : null
  return {
    ...emptyTechnical,
    wrapper,
    codec: video ? codecName(video) : (audio[0]?.codec_name?.replace(/^pcm_(s|f)(\d+)[lb]e$/, 'PCM $2 bit') ?? ''),
    width: (sideways ? video?.height : video?.width) ?? 0,
    height: (sideways ? video?.width : video?.height) ?? 0,
    pixelAspect: sideways ? 1 / aspect : aspect,
    rotation,
    rate: clipRate,
    variable: variable && found?.reading?.how !== 'count',
    frames: found?.frames ?? frames,
    form: options.sequence ? null : (answer.format.format_name?.split(',')[0] ?? null),
    ...(found?.reading ? { reading: found.reading } : {}),
    ...(began ? { recordedOn: began } : {}),
    ...(shot && !sameRate(shot, clipRate) ? { captured: { rate: shot, from: 'file' } } : {}),
    start,
    drop: written?.drop ?? false,
    ...chromaOf(video?.pix_fmt ?? ''),
    scan:
      !video?.field_order || /progressive|unknown/.test(video.field_order)
        ? 'progressive'
        : `interlaced, ${/^t/.test(video.field_order) ? 'upper' : 'lower'} field first`,
    colour: {
      primaries: video?.color_primaries ?? 'unknown',
      transfer: video?.color_transfer ?? 'unknown',
      // Red, green and blue have no matrix, tagged or not.
      matrix: video?.color_space ?? (chromaOf(video?.pix_fmt ?? '').chroma === 'RGB' ? 'gbr' : 'unknown'),
      range: video?.color_range ?? 'unknown',
    },
    longGop: videoPackets.length > 1 && videoPackets.some((p) => !p.flags?.startsWith('K')),
    reel: tagged('reel_name'),
    // What its wrapper cannot hold stands beside a copy.
    stamp: readStamp(tagged('comment') ?? '') ?? (options.sequence || wrapper === 'mxf' ? await stampBeside(pathText(path), Boolean(options.sequence)) : null),
    sound: audio[0]
      ? {
          channels: options.channelFiles?.length || audio.reduce((n, a) => n + (a.channels ?? 0), 0),
          sampleRate,
          codec: audio[0].codec_name ?? '',
          depth: Number(audio[0].bits_per_raw_sample ?? 0) || audio[0].bits_per_sample || 16,
          streams: options.channelFiles?.length ? options.channelFiles.map(() => 1) : audio.map((a) => a.channels ?? 0),
        }
      : null,
    channelFiles: options.channelFiles?.map((p) => pathText(lastName(p))) ?? [],
    sampleOffset,
    hasPicture: Boolean(video),
    dataRate: options.sequence ? Math.round((size * 8 * clipRate.num) / clipRate.den) : Number(answer.format.bit_rate ?? 0),
    sequence: options.sequence ?? null,
    fault,
  }
}
