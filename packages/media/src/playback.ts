/** Pieces of moving picture that any browser plays: fragmented MP4, H.264 4:2:0, exact in frames. */
import { type ChildProcessByStdio, spawn } from 'node:child_process'
import type { Readable } from 'node:stream'
import { type Rate, rateFraction } from '@naranja/core/time'
import { fed } from './feeds.ts'

export interface Piece {
  readonly stream: Readable
  /** Resolves when ffmpeg has ended; false if it failed. */
  readonly done: Promise<boolean>
  stop(): void
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
  const done = new Promise<boolean>((resolve) => {
    child.on('close', (code) => {
      feeding.stop()
      resolve(code === 0)
    })
    child.on('error', () => resolve(false))
  })
  return { stream: child.stdout, done, stop: () => child.kill('SIGKILL') }
}
