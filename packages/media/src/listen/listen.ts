/** What is heard in a file's sound. */
import { loudness, momentsPerSecond, readLtc, timecodeHeard } from '@naranja/core/sound'
import { nominal, rate } from '@naranja/core/time'
import { execa } from 'execa'
import { checkInputs } from '../disk/index.ts'
import { channelInput, hasSoundFiles, inPlace, inputArgs, leadOf, type MediaInput, soundInputs, soundStreams, wholeSound } from '../input/index.ts'
import { limitPassed, toolCommand } from '../process/index.ts'
import { mediaError, output } from '../ffmpeg/index.ts'

/** Linear timecode is at most 30 frames a second: above it a count stands for two frames (ST 12-1). */
const sampleRate = 48_000
/** So many seconds from the beginning are listened to: enough for hundreds of frames. */
const stretch = 20

export interface HeardStart {
  /** The clip's first frame, counted at the clip's rate. */
  readonly start: number
  /** The channel it is on, counted from 1. */
  readonly channel: number
}

/** Listens for linear timecode on every channel of a clip; null where there is none. */
export async function hearTimecode(input: MediaInput, channels: number, signal?: AbortSignal): Promise<HeardStart | null> {
  const pairs = nominal(input.rate) > 30 ? 2 : 1
  const counted = rate(input.rate.num, input.rate.den * pairs)
  for (let channel = 1; channel <= Math.min(channels, 16); channel++) {
    const heard = timecodeHeard(readLtc(await channelSamples(input, channel - 1, sampleRate, { from: 0, seconds: stretch }, signal)), counted, sampleRate)
    if (!heard) continue
    const perFrame = (sampleRate * counted.den) / counted.num
    // The clip's first frame is the one nearest to its first sample.
    return { start: Math.round((heard.start - heard.offset / perFrame) * pairs), channel }
  }
  return null
}

/** Samples of one channel of a clip (from 0) at `perSecond`, of a stretch in seconds from its first picture. */
export async function channelSamples(
  input: MediaInput,
  channel: number,
  perSecond: number,
  stretch: { readonly from: number; readonly seconds: number },
  signal?: AbortSignal,
): Promise<Int16Array> {
  const at = channelInput(input, channel)
  const cut = `${inPlace},atrim=start=${(input.reading?.offset ?? 0) + stretch.from}:duration=${stretch.seconds},asetpts=round(N/SR/TB)`
  const raw = await output(
    'ffmpeg',
    [
      ...['-nostdin', '-loglevel', 'error', ...at.args, '-map', at.stream, '-vn'],
      ...['-af', `${cut},pan=mono|c0=c${at.channel},aresample=${perSecond}`, '-t', String(stretch.seconds), '-f', 's16le', '-c:a', 'pcm_s16le', '-'],
    ],
    signal,
  )
  return new Int16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length - (raw.length % 2)))
}

/** What one reading of a whole file tells beside what stands in its headings. */
export interface Listened {
  /** The loudest sample of each channel, in dB below full scale; -200 where there is none but zeros. */
  readonly peaks: readonly number[]
  /** Bits in each second of the file, picture and sound together. */
  readonly rates: readonly number[]
  /** How loud it is from moment to moment, all channels together, from the first picture on (`loudness`). */
  readonly loud: Uint8Array
}

/** Samples a second that are enough to tell loudness by. */
const loudRate = 8000

const quietest = -200

/** Peaks as FFmpeg's `astats` says them, a line a channel in the order of streams. */
export const readPeaks = (said: string): number[] =>
  [...said.matchAll(/Peak level dB: (-?inf|-?[\d.]+)/g)].map((p) =>
    /inf/.test(p[1] ?? '') ? quietest : Math.max(quietest, Math.round(Number(p[1]) * 100) / 100),
  )

/** FFmpeg writes the smallest number of 64 bits for a time that is not told; no file begins that long before anything. */
const untold = -(2 ** 62)
/** Seconds beyond which a time is no time of this file, but a slip of its wrapper. */
const longest = 400_000

/** Bits in each second, from a list of packets (FFmpeg's `framecrc`), counted from the earliest; one without a time of its own is counted with the one before. */
export function readRates(list: string): number[] {
  const ticks = new Map([...list.matchAll(/^#tb (\d+): (\d+)\/(\d+)$/gm)].map((t) => [t[1], Number(t[2]) / Number(t[3])]))
  const packets = [...list.matchAll(/^(\d+),\s*-?\d+,\s*(-?\d+),\s*-?\d+,\s*(\d+),/gm)].map((p) => ({
    at: Number(p[2]) < untold ? null : Number(p[2]) * (ticks.get(p[1]) ?? 0),
    bits: Number(p[3]) * 8,
  }))
  const first = packets.reduce((least, p) => Math.min(least, p.at ?? least), Number.POSITIVE_INFINITY)
  const out: number[] = []
  let second = 0
  for (const p of packets) {
    const told = p.at === null ? second : Math.floor(p.at - first + 1e-6)
    if (told < longest) second = told
    while (out.length <= second) out.push(0)
    out[second] = (out[second] ?? 0) + p.bits
  }
  return out
}

/** Reads a clip with sound from its first byte to its last, once. Throws a MediaError if it cannot be read. */
export async function listenThrough(input: MediaInput, signal?: AbortSignal): Promise<Listened> {
  const apart = hasSoundFiles(input)
  // Of pictures in files of their own only the sound is read: their data rate is even, or they are developed first.
  const picture = !input.sequence && apart ? inputArgs(input) : []
  const streams = soundStreams(input, picture.length ? 1 : 0).flatMap((s) => ['-map', s])
  const at = picture.length ? 1 : 0
  const channels = (input.sound?.streams ?? [1]).reduce((n, c) => n + c, 0)
  const together = `pan=mono|c0<${Array.from({ length: Math.max(1, channels) }, (_, c) => `c${c}`).join('+')},aresample=${loudRate}`
  const args = [
    ...['-nostdin', '-hide_banner', ...picture, ...soundInputs(input)],
    ...['-filter_complex', `${wholeSound(input, at)},atrim=start=${leadOf(input, 0)},asetpts=round(N/SR/TB),${together}[loud]`],
    ...[...streams, '-filter:a', 'astats=measure_perchannel=Peak_level:measure_overall=none', '-f', 'null', '-'],
    ...[...(apart && picture.length === 0 ? [] : ['-map', '0:v?']), ...streams, '-c', 'copy', '-f', 'framecrc', 'pipe:1'],
    ...['-map', '[loud]', '-f', 's16le', '-c:a', 'pcm_s16le', 'pipe:3'],
  ]
  await checkInputs(args)
  const [file, ...words] = toolCommand('ffmpeg', args)
  const child = execa(file, words, {
    stdio: ['ignore', 'pipe', 'pipe', 'pipe'],
    encoding: 'buffer',
    // What is written is no text: its last byte may be a line end.
    stripFinalNewline: false,
    // An hour of samples is not kept, only how loud it is.
    buffer: { fd3: false },
    reject: false,
    maxBuffer: 512 * 1024 * 1024,
    cancelSignal: signal,
  })
  const loud: Uint8Array[] = []
  const moment = (2 * loudRate) / momentsPerSecond
  let rest: Buffer = Buffer.alloc(0)
  child.stdio[3]?.on('data', (d: Buffer) => {
    const all = rest.length ? Buffer.concat([rest, d]) : d
    const whole = all.length - (all.length % moment)
    rest = all.subarray(whole)
    loud.push(loudness(new Int16Array(all.buffer.slice(all.byteOffset, all.byteOffset + whole)), loudRate))
  })
  const end = await child
  if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  const text = (i: number): string => Buffer.from((end.stdio[i] as Uint8Array | undefined) ?? []).toString()
  if (end.failed) throw mediaError('ffmpeg', limitPassed(end.exitCode ?? null, end.signal, text(2)) || text(2) || (end.shortMessage ?? ''), args)
  return { peaks: readPeaks(text(2)), rates: readRates(text(1)), loud: Buffer.concat(loud) }
}
