/** What is heard in a file's sound. */
import { readLtc, timecodeHeard } from '@naranja/core/sound'
import { nominal, type Rate, rate } from '@naranja/core/time'
import { execa } from 'execa'
import { inputArgs, type MediaInput } from './input.ts'
import { fileArgument } from './paths.ts'
import { mediaError, output } from './run.ts'

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

/** Listens for linear timecode on every channel of a file's first sound stream; null where there is none. */
export async function hearTimecode(path: Uint8Array, channels: number, clipRate: Rate, signal?: AbortSignal): Promise<HeardStart | null> {
  const pairs = nominal(clipRate) > 30 ? 2 : 1
  const counted = rate(clipRate.num, clipRate.den * pairs)
  for (let channel = 1; channel <= Math.min(channels, 16); channel++) {
    const raw = await output(
      'ffmpeg',
      [
        ...['-nostdin', '-loglevel', 'error', '-i', fileArgument(path), '-map', '0:a:0', '-t', String(stretch)],
        ...['-af', `pan=mono|c0=c${channel - 1},aresample=${sampleRate}`, '-f', 's16le', '-c:a', 'pcm_s16le', '-'],
      ],
      signal,
    )
    const samples = new Int16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length - (raw.length % 2)))
    const heard = timecodeHeard(readLtc(samples), counted, sampleRate)
    if (!heard) continue
    const perFrame = (sampleRate * counted.den) / counted.num
    // The clip's first frame is the one nearest to its first sample.
    return { start: Math.round((heard.start - heard.offset / perFrame) * pairs), channel }
  }
  return null
}

/** What one reading of a whole file tells beside what stands in its headings. */
export interface Listened {
  /** The loudest sample of each channel, in dB below full scale; -200 where there is none but zeros. */
  readonly peaks: readonly number[]
  /** Bits in each second of the file, picture and sound together. */
  readonly rates: readonly number[]
}

const quietest = -200

/** Peaks as FFmpeg's `astats` says them, a line a channel in the order of streams. */
export const readPeaks = (said: string): number[] =>
  [...said.matchAll(/Peak level dB: (-?inf|-?[\d.]+)/g)].map((p) =>
    /inf/.test(p[1] ?? '') ? quietest : Math.max(quietest, Math.round(Number(p[1]) * 100) / 100),
  )

/** Bits in each second, from a list of packets (FFmpeg's `framecrc`), counted from the earliest. */
export function readRates(list: string): number[] {
  const ticks = new Map([...list.matchAll(/^#tb (\d+): (\d+)\/(\d+)$/gm)].map((t) => [t[1], Number(t[2]) / Number(t[3])]))
  const packets = [...list.matchAll(/^(\d+),\s*-?\d+,\s*(-?\d+),\s*-?\d+,\s*(\d+),/gm)].map((p) => ({
    at: Number(p[2]) * (ticks.get(p[1]) ?? 0),
    bits: Number(p[3]) * 8,
  }))
  const first = packets.reduce((least, p) => Math.min(least, p.at), Number.POSITIVE_INFINITY)
  const out: number[] = []
  for (const p of packets) {
    const second = Math.floor(p.at - first + 1e-6)
    while (out.length <= second) out.push(0)
    out[second] = (out[second] ?? 0) + p.bits
  }
  return out
}

/** Reads a clip with sound from its first byte to its last, once. Throws a MediaError if it cannot be read. */
export async function listenThrough(input: MediaInput, signal?: AbortSignal): Promise<Listened> {
  const args = [
    ...['-nostdin', '-hide_banner', ...inputArgs(input)],
    ...['-map', '0:a', '-filter:a', 'astats=measure_perchannel=Peak_level:measure_overall=none', '-f', 'null', '-'],
    ...['-map', '0:v?', '-map', '0:a', '-c', 'copy', '-f', 'framecrc', 'pipe:1'],
  ]
  const end = await execa('ffmpeg', args, { stdin: 'ignore', reject: false, maxBuffer: 512 * 1024 * 1024, cancelSignal: signal })
  if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  if (end.failed) throw mediaError('ffmpeg', end.stderr, args)
  return { peaks: readPeaks(end.stderr), rates: readRates(end.stdout) }
}
