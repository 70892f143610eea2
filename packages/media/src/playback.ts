/** Pieces of moving picture that any browser plays: fragmented MP4, H.264 4:2:0, exact in frames. */
import { type ChildProcessByStdio, spawn } from 'node:child_process'
import type { Readable } from 'node:stream'
import { type Rate, rateFraction } from '@naranja/core/time'
import { fed } from './feeds.ts'
import { leadOf, type MediaInput } from './input.ts'
import { soundInputs, wholeSound } from './sound.ts'

export interface Piece {
  readonly stream: Readable
  /** Resolves when ffmpeg has ended; false if it failed. */
  readonly done: Promise<boolean>
  stop(): void
}

/** The piece that a running ffmpeg writes. */
function coming(child: ChildProcessByStdio<null, Readable, null>): Piece {
  const done = new Promise<boolean>((resolve) => {
    child.on('close', (code) => resolve(code === 0))
    child.on('error', () => resolve(false))
  })
  return { stream: child.stdout, done, stop: () => child.kill('SIGKILL') }
}

/** Starts making a piece from a filter graph whose result is `[v]`. Frames count at `rate` from zero. */
export function piece(inputs: readonly string[], graph: string, rate: Rate): Piece {
  const args = ['-nostdin', '-loglevel', 'error', ...inputs, '-filter_complex', graph, '-map', '[v]', '-fps_mode', 'passthrough', '-r', rateFraction(rate)]
  const coding = [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-tune',
    'zerolatency',
    '-bf',
    '0',
    '-g',
    '50',
    '-sc_threshold',
    '0',
    '-crf',
    '20',
    '-pix_fmt',
    'yuv420p',
  ]
  const wrapping = [
    '-video_track_timescale',
    '90000',
    '-movflags',
    '+empty_moov+default_base_moof',
    '-frag_duration',
    '160000',
    '-flush_packets',
    '1',
    '-f',
    'mp4',
    '-',
  ]
  const feed = fed([...args, ...coding, ...wrapping])
  const child = spawn('ffmpeg', feed.args, { stdio: ['ignore', 'pipe', 'ignore', ...feed.pipes] }) as ChildProcessByStdio<null, Readable, null>
  const feeding = feed.write(child.stdio)
  child.on('close', () => feeding.stop())
  return coming(child)
}

/**
 * Sound of frames `from` to `to` (half-open) as FLAC in fragmented MP4, from the sample on at which `from` begins; more than two
 * channels are mixed to two.
 */
export function soundPiece(input: MediaInput, from: number, to: number, channels: number): Piece {
  const { num, den } = input.rate
  // The input begins a little early, so that pictures are exact.
  const trim = `atrim=start=${leadOf(input, from).toFixed(6)}:duration=${(((to - from) * den) / num).toFixed(6)},asetpts=N/SR/TB`
  const args = [
    ...['-nostdin', '-loglevel', 'error', ...soundInputs(input, from), '-filter_complex', `${wholeSound(input, 0)},${trim}[a]`, '-map', '[a]'],
    ...(channels > 2 ? ['-ac', '2'] : []),
    ...['-c:a', 'flac', '-sample_fmt', 's16', '-strict', '-2', '-movflags', '+empty_moov+default_base_moof', '-frag_duration', '500000', '-f', 'mp4', '-'],
  ]
  const child = spawn('ffmpeg', args, { stdio: ['ignore', 'pipe', 'ignore'] })
  return coming(child)
}
