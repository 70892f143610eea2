/** Reads what a media file is: ffprobe's answer as core's technical data. */
import { stat } from 'node:fs/promises'
import { capturedByTags, readStamp, recordedOn, type Sequence, type Technical } from '@naranja/core/clip'
import { mediaKind } from '@naranja/core/naming'
import { readDng } from '@naranja/core/raw'
import { type Rate, rate, sameRate } from '@naranja/core/time'
import { lastName, pathText, readStart } from '../disk/index.ts'
import { fileInput, MediaError, output, pointsElsewhere } from '../ffmpeg/index.ts'
import { ProbeAnswer, codecOf, framesIn, geometryOf, type ProbeStream, pixelsOf, soundOf, startOf, toldRate, uneven, wrapperOf } from './facts.ts'
import { sequenceTime } from './headers.ts'
import { inputArgs } from '../input/index.ts'
import { stampBeside } from './sidefile.ts'
import { isCutShort } from './whole.ts'
import { readingOf } from './reading.ts'

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
    const answer = ProbeAnswer.parse(JSON.parse((await output('ffprobe', args, options.signal)).toString()))
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

async function technical(answer: ProbeAnswer, path: Uint8Array, name: string, size: number, options: ProbeOptions): Promise<Technical> {
  const sequence = options.sequence ?? null
  const { format, streams } = answer
  const video = streams.find((s) => s.codec_type === 'video' && !s.disposition?.attached_pic && s.width)
  const audio = streams.filter((s) => s.codec_type === 'audio')
  const invented = !sequence && inventedForm(name, format.format_name ?? '', format.probe_score ?? 100)
  if (invented) return faulty(invented)
  if (!video && audio.length === 0) return faulty(`${name} holds neither picture nor sound that can be decoded; it may not be a media file.`)
  const tagged = (key: string): string | null => streams.map((s) => s.tags[key]).find((v) => v) ?? format.tags[key] ?? null
  const tags = [...streams, format].flatMap((x) => Object.entries(x.tags))
  const clipRate = sequence || !video ? options.projectRate : (toldRate(video.r_frame_rate, video.avg_frame_rate) ?? options.projectRate)
  const wrapper = sequence ? `${sequence.ext.toUpperCase()} sequence` : wrapperOf(format.format_name ?? '', name)
  const packets = video ? answer.packets.filter((p) => p.stream_index === streams.indexOf(video)) : []
  const variable = !sequence && video !== undefined && uneven(video, packets)
  const lasts = { begin: Number(format.start_time ?? 0), length: Number(format.duration ?? 0) }
  const found = video && !sequence ? await readingOf(path, wrapper, video, packets, lasts, clipRate, variable, options.signal) : null
  const shot = video ? capturedByTags(tags) : null
  const began = recordedOn(tags)
  const fault =
    video && !sequence && (await isCutShort(path))
      ? `${name} is cut short: it ends before its last frame. Copy it again from the card.`
      : video && !video.pix_fmt
        ? undecodable(name, video, audio.length > 0)
        : null
  return {
    ...emptyTechnical,
    wrapper,
    codec: codecOf(video, audio),
    ...geometryOf(video),
    rate: clipRate,
    variable: variable && found?.reading?.how !== 'count',
    frames: found?.frames ?? framesIn(answer, video, audio, sequence, clipRate),
    form: sequence ? null : (format.format_name?.split(',')[0] ?? null),
    ...(found?.reading ? { reading: found.reading } : {}),
    ...(began ? { recordedOn: began } : {}),
    ...(shot && !sameRate(shot, clipRate) ? { captured: { rate: shot, from: 'file' } } : {}),
    ...startOf(tagged('timecode'), answer, video, audio, clipRate),
    ...pixelsOf(video),
    longGop: packets.length > 1 && packets.some((p) => !p.flags?.startsWith('K')),
    reel: tagged('reel_name'),
    // What its wrapper cannot hold stands beside a copy.
    stamp: readStamp(tagged('comment') ?? '') ?? (sequence || wrapper === 'mxf' ? await stampBeside(pathText(path), Boolean(sequence)) : null),
    sound: soundOf(audio, options.channelFiles?.length ?? 0),
    channelFiles: options.channelFiles?.map((p) => pathText(lastName(p))) ?? [],
    hasPicture: Boolean(video),
    dataRate: sequence ? Math.round((size * 8 * clipRate.num) / clipRate.den) : Number(format.bit_rate ?? 0),
    sequence,
    fault,
  }
}
