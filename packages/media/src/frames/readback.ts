/** A finished file read back from the disk in one go: what it carries, every frame's time, and samples of some pictures. */
import { type Rate, rate } from '@naranja/core/time'
import { execa } from 'execa'
import { type Colour, fileInput, mediaError, sampleFilter, selectExpression, threadArgs, traceFilter } from '../ffmpeg/index.ts'
import { sampleGraph, splitSamples } from './frames.ts'
import { inputArgs, type MediaInput } from '../input/index.ts'
import { checkInputs } from '../disk/index.ts'
import { limitPassed, toolCommand } from '../process/index.ts'

/** A stream of sound as it stands in a file. */
export interface SoundBack {
  readonly channels: number
  readonly rate: number
  /** From its first sample to its end. */
  readonly seconds: number
  /** When its first sample is heard, in seconds. */
  readonly begin: number
}

export interface ReadBack {
  readonly width: number
  readonly height: number
  /** Pixel width over height. */
  readonly pixelAspect: number
  readonly codec: string
  /** As tagged; `unknown` where nothing is said. */
  readonly colour: Colour
  /** Which field comes first; null for whole pictures, and where nothing is said. */
  readonly fields: 'upper' | 'lower' | null
  /** Times of the pictures in the order they are shown, in units of `tick`. */
  readonly times: readonly number[]
  /** Ticks per second. */
  readonly tick: Rate
  /** When the last picture ends, in ticks. */
  readonly end: number
  readonly sound: readonly SoundBack[]
  /** Every tag of the file and of its streams, their keys in small letters; the first one found wins. */
  readonly tags: ReadonlyMap<string, string>
  readonly samples: readonly Uint8Array[]
  /** Every frame as a very small picture, where they were asked for. */
  readonly trace: Uint8Array
}

/** Tags as FFmpeg's own metadata text has them: `key=value`, with = ; # \\ and line ends escaped by a backslash. */
export function readTags(text: string): Map<string, string> {
  const tags = new Map<string, string>()
  const plain = (t: string) => t.replace(/\\([\s\S])/g, '$1')
  for (const [, key = '', value = ''] of text.matchAll(/^((?:\\[\s\S]|[^\\=;#\n[])(?:\\[\s\S]|[^\\=\n])*)=((?:\\[\s\S]|[^\\\n])*)$/gm)) {
    // Matroska has its keys in capitals.
    const name = plain(key).toLowerCase()
    if (!tags.has(name)) tags.set(name, plain(value))
  }
  return tags
}

interface Stream {
  readonly kind: string
  readonly tick: Rate
  readonly heading: (name: string) => string
  readonly packets: readonly { readonly pts: number; readonly duration: number }[]
}

/** The streams of a packet list: their heading lines, and a line per packet with stream, decode time, time, duration, size, checksum. */
function streamsOf(text: string): Stream[] {
  const headings = new Map<string, Map<string, string>>()
  for (const [, name = '', stream = '', value = ''] of text.matchAll(/^#(\w+) (\d+): (.*)$/gm))
    headings.set(stream, (headings.get(stream) ?? new Map<string, string>()).set(name, value))
  const packets = new Map<string, { pts: number; duration: number }[]>()
  for (const [, stream = '', pts, duration] of text.matchAll(/^(\d+),\s*-?\d+,\s*(-?\d+),\s*(\d+),/gm)) {
    const list = packets.get(stream)
    const p = { pts: Number(pts), duration: Number(duration) }
    if (list) list.push(p)
    else packets.set(stream, [p])
  }
  return [...headings].map(([stream, h]) => {
    const [num = 1, den = 1] = (h.get('tb') ?? '1/1').split('/').map(Number)
    return { kind: h.get('media_type') ?? '', tick: rate(den, num), heading: (name) => h.get(name) ?? '', packets: packets.get(stream) ?? [] }
  })
}

/** What the packet list says of the picture. */
export function readPackets(text: string): Pick<ReadBack, 'width' | 'height' | 'pixelAspect' | 'codec' | 'times' | 'tick' | 'end'> {
  const video = streamsOf(text).find((s) => s.kind === 'video')
  const [width = 0, height = 0] = (video?.heading('dimensions') ?? '').split('x').map(Number)
  const [across = 0, down = 0] = (video?.heading('sar') ?? '').split('/').map(Number)
  return {
    width,
    height,
    pixelAspect: across > 0 && down > 0 ? across / down : 1,
    codec: video?.heading('codec_id') ?? '',
    times: (video?.packets ?? []).map((p) => p.pts).sort((a, b) => a - b),
    tick: video?.tick ?? rate(1),
    end: (video?.packets ?? []).reduce((most, p) => Math.max(most, p.pts + p.duration), 0),
  }
}

/** Whether a moment of a file, in its ticks, is where frame `n` begins. Where the ticks of the wrapper cannot say it, as many ticks off as were `rounded` are right. */
function beginsAt(ticks: number, n: number, tick: Rate, r: Rate, rounded = 1): boolean {
  const off = ticks * r.num * tick.den - n * r.den * tick.num
  return (tick.num * r.den) % (tick.den * r.num) === 0 ? off === 0 : Math.abs(off) <= rounded * r.num * tick.den
}

/** The first frame that does not stand at exactly n / rate, counted from the file's first; -1 where each does. */
export function misplaced(b: Pick<ReadBack, 'times' | 'tick'>, r: Rate): number {
  const first = b.times[0] ?? 0
  return b.times.findIndex((t, i) => !beginsAt(t - first, i, b.tick, r))
}

/** Whether the last picture ends where a next one would begin: its time and its length are rounded each for itself. */
export const endsInTime = (b: Pick<ReadBack, 'times' | 'tick' | 'end'>, r: Rate): boolean => beginsAt(b.end - (b.times[0] ?? 0), b.times.length, b.tick, r, 2)

/** Samples by which sound begins after the picture does, and by which it ends after `seconds` of picture. */
export function soundBeside(b: Pick<ReadBack, 'times' | 'tick'>, s: SoundBack, seconds: number): { begin: number; end: number } {
  const first = ((b.times[0] ?? 0) * b.tick.den) / b.tick.num
  return { begin: (s.begin - first) * s.rate, end: (s.seconds - seconds) * s.rate }
}

const layouts: Record<string, number> = {
  ...{ mono: 1, stereo: 2, '2.1': 3, '3.0': 3, '3.0(back)': 3, '3.1': 4, '4.0': 4, quad: 4, 'quad(side)': 4, '4.1': 5, '5.0': 5, '5.0(side)': 5 },
  ...{ '5.1': 6, '5.1(side)': 6, '6.0': 6, hexagonal: 6, '6.1': 7, '7.0': 7, '7.1': 8, octagonal: 8, hexadecagonal: 16, '22.2': 24 },
}

/** Channels of the sound streams of a file's first input, as FFmpeg tells them. */
const channelsTold = (said: string): number[] =>
  [...said.matchAll(/^\s*Stream #0:\d+.*?: Audio: .*? (\d+) Hz, ([^,\n]+)/gm)].map(
    ([, , name = '']) => layouts[name] ?? Number(/^(\d+) channels/.exec(name)?.[1] ?? 0),
  )

const soundOf = (packets: string, said: string): SoundBack[] => {
  const channels = channelsTold(said)
  return streamsOf(packets)
    .filter((s) => s.kind === 'audio')
    .map((s, i) => ({
      channels: channels[i] ?? 0,
      rate: Number(s.heading('sample_rate')),
      // Up to where the last packet ends: lengths of packets are rounded, one by one.
      seconds: s.packets.length
        ? ((s.packets.reduce((most, p) => Math.max(most, p.pts + p.duration), 0) - (s.packets[0]?.pts ?? 0)) * s.tick.den) / s.tick.num
        : 0,
      begin: ((s.packets[0]?.pts ?? 0) * s.tick.den) / s.tick.num,
    }))
}

/** Colours and fields as FFmpeg tells them of the first picture: `yuv422p10le(tv, bt709/bt2020/unknown, top first)`. */
export function pictureTold(said: string): Pick<ReadBack, 'colour' | 'fields'> {
  const inside = /^\s*Stream #0:\d+.*?: Video: .*?, \w+\(([^)]*)\)/m.exec(said)?.[1]?.split(/,\s*/) ?? []
  const tags = inside.find((t) => /^[a-z0-9-]+(\/[a-z0-9-]+){2}$/.test(t) || /^(bt|smpte|iec|arib|gbr|film)/.test(t))?.split('/') ?? ['unknown']
  const [matrix = 'unknown', primaries = matrix, transfer = matrix] = tags
  const order = inside.find((t) => / first/.test(t))
  return {
    colour: { matrix, primaries, transfer, range: inside.find((t) => t === 'tv' || t === 'pc') ?? 'unknown' },
    fields: order ? (order.startsWith('top') ? 'upper' : 'lower') : null,
  }
}

/** Runs FFmpeg over a file and gives what it says and what it writes to its channels. */
async function read(args: readonly string[], signal: AbortSignal | undefined): Promise<{ text: (i: number) => string; raw: Buffer; trace: Buffer }> {
  await checkInputs(args)
  const all = ['-nostdin', '-hide_banner', '-nostats', '-loglevel', 'info', ...args]
  const [file, ...rest] = toolCommand('ffmpeg', all)
  const end = await execa(file, rest, {
    stdio: ['ignore', 'pipe', 'pipe', 'pipe', 'pipe', 'pipe'],
    encoding: 'buffer',
    // What is written is no text: its last byte may be a line end.
    stripFinalNewline: false,
    reject: false,
    maxBuffer: 512 * 1024 * 1024,
    cancelSignal: signal,
  })
  if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  const text = (i: number): string => Buffer.from((end.stdio[i] as Uint8Array | undefined) ?? []).toString()
  if (end.failed) throw mediaError('ffmpeg', limitPassed(end.exitCode ?? null, end.signal, text(2)) || text(2) || (end.shortMessage ?? ''), all)
  return { text, raw: Buffer.from(end.stdout), trace: Buffer.from((end.stdio[5] as Uint8Array | undefined) ?? []) }
}

/** Frames between two that are wanted which are decoded rather than passed over: our copies lean on no more than 25, and opening one takes as long as decoding a few. */
const worthDecoding = 12

/**
 * Reads a file, every packet of it, and decodes samples of `frames` (ascending); with `every`, all of its frames on so many `threads`. One process, for starting one costs more
 * than reading a short clip. Throws a MediaError if it cannot be read.
 */
export async function readBack(
  input: MediaInput,
  frames: readonly number[],
  options: { every?: boolean; threads?: number | undefined; signal?: AbortSignal | undefined } = {},
): Promise<ReadBack> {
  const { every = false, signal } = options
  // A few frames are read on one thread: several decode more of them than are wanted, which took a sixth of the time (measured).
  const limits = threadArgs(every ? options.threads : 1)
  const { inputs, graph } = every
    ? { inputs: [], graph: `[0:v:0]split=2[a][b];[a]${traceFilter}[t];[b]select='${selectExpression(frames)}',${sampleFilter}[s]` }
    : sampleGraph(input, frames, { threads: 1, apart: worthDecoding }, 1)
  const args = [
    ...[...limits.before, ...inputArgs(input), ...inputs, '-filter_complex', graph],
    ...['-map', '[s]', '-fps_mode', 'passthrough', '-f', 'rawvideo', 'pipe:1'],
    ...['-map', '0', '-c', 'copy', '-f', 'ffmetadata', 'pipe:3'],
    ...['-map', '0:v:0', '-map', '0:a?', '-c', 'copy', '-f', 'framecrc', 'pipe:4'],
    ...(every ? ['-map', '[t]', '-fps_mode', 'passthrough', '-f', 'rawvideo', 'pipe:5'] : []),
  ]
  const { text, raw, trace } = await read(args, signal)
  const packets = text(4)
  return { ...readPackets(packets), ...pictureTold(text(2)), sound: soundOf(packets, text(2)), tags: readTags(text(3)), samples: splitSamples(raw), trace }
}

/** The sound streams of a file that has no picture. Throws a MediaError if it cannot be read. */
export async function readSound(path: string, signal?: AbortSignal): Promise<SoundBack[]> {
  const { text } = await read([...fileInput(path), '-map', '0:a', '-c', 'copy', '-f', 'framecrc', 'pipe:4'], signal)
  return soundOf(text(4), text(2))
}
