/** A finished file read back from the disk in one go: what it carries, every frame's time, and samples of some pictures. */
import { type Rate, rate } from '@naranja/core/time'
import { execa } from 'execa'
import { sampleGraph, splitSamples } from './frames.ts'
import { fileArgument } from './paths.ts'
import { mediaError } from './run.ts'

export interface ReadBack {
  readonly width: number
  readonly height: number
  /** Pixel width over height. */
  readonly pixelAspect: number
  readonly codec: string
  /** Times of the pictures in the order they are shown, in units of `tick`. */
  readonly times: readonly number[]
  /** Ticks per second. */
  readonly tick: Rate
  readonly sound: boolean
  /** Every tag of the file and of its streams; the first one found wins. */
  readonly tags: ReadonlyMap<string, string>
  readonly samples: readonly Uint8Array[]
}

/** Tags as FFmpeg's own metadata text has them: `key=value`, with = ; # \\ and line ends escaped by a backslash. */
export function readTags(text: string): Map<string, string> {
  const tags = new Map<string, string>()
  for (const [, key = '', value = ''] of text.matchAll(/^((?:\\[\s\S]|[^\\=;#\n[])(?:\\[\s\S]|[^\\=\n])*)=((?:\\[\s\S]|[^\\\n])*)$/gm)) {
    const plain = (t: string) => t.replace(/\\([\s\S])/g, '$1')
    if (!tags.has(plain(key))) tags.set(plain(key), plain(value))
  }
  return tags
}

/** What the packet list says: its heading lines, and a line per packet with stream, decode time, time, duration, size, checksum. */
export function readPackets(text: string): Pick<ReadBack, 'width' | 'height' | 'pixelAspect' | 'codec' | 'times' | 'tick'> {
  const heading = (name: string): string => new RegExp(`^#${name} 0: (.*)$`, 'm').exec(text)?.[1] ?? ''
  const [num = 1, den = 1] = (heading('tb') || '1/1').split('/').map(Number)
  const [width = 0, height = 0] = heading('dimensions').split('x').map(Number)
  const [across = 0, down = 0] = heading('sar').split('/').map(Number)
  const times = [...text.matchAll(/^0,\s*-?\d+,\s*(-?\d+),/gm)].map((p) => Number(p[1])).sort((a, b) => a - b)
  return {
    width,
    height,
    pixelAspect: across > 0 && down > 0 ? across / down : 1,
    codec: heading('codec_id'),
    times,
    tick: rate(den, num),
  }
}

/**
 * Reads a file whose pictures run at `frameRate`, every packet of it, and decodes samples of `frames` (ascending). One
 * process, for starting one costs more than reading a short clip. Throws a MediaError if it cannot be read.
 */
export async function readBack(path: string, frameRate: Rate, frames: readonly number[], signal?: AbortSignal): Promise<ReadBack> {
  const bytes = Buffer.from(path)
  const { inputs, graph } = sampleGraph({ path: bytes, sequence: null, rate: frameRate }, frames, {}, 1)
  const args = [
    ...['-nostdin', '-loglevel', 'error', '-i', fileArgument(bytes), ...inputs, '-filter_complex', graph],
    ...['-map', '[s]', '-fps_mode', 'passthrough', '-f', 'rawvideo', 'pipe:1'],
    ...['-map', '0', '-c', 'copy', '-f', 'ffmetadata', 'pipe:3'],
    ...['-map', '0:v:0', '-map', '0:a?', '-c', 'copy', '-f', 'framecrc', 'pipe:4'],
  ]
  const end = await execa('ffmpeg', args, {
    stdio: ['ignore', 'pipe', 'pipe', 'pipe', 'pipe'],
    encoding: 'buffer',
    reject: false,
    maxBuffer: 512 * 1024 * 1024,
    cancelSignal: signal,
  })
  if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  const text = (i: number): string => Buffer.from((end.stdio[i] as Uint8Array | undefined) ?? []).toString()
  if (end.failed) throw mediaError('ffmpeg', text(2) || (end.shortMessage ?? ''), args)
  const packets = text(4)
  return { ...readPackets(packets), sound: /^#media_type \d+: audio$/m.test(packets), tags: readTags(text(3)), samples: splitSamples(Buffer.from(end.stdout)) }
}
