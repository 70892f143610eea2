/** Runs FFmpeg and ffprobe: an argument array in, progress and a readable end out. No shell, ever. */
import { execa } from 'execa'
import { fed } from './feeds.ts'

export interface Progress {
  /** Frames made so far. */
  readonly frame: number
  readonly fps: number
  /** Against real time. */
  readonly speed: number
}

export interface RunOptions {
  /** Threads a process may use; all there are where it is not given. Several processes side by side waste less with few each. */
  readonly threads?: number
  readonly signal?: AbortSignal
  readonly onProgress?: (p: Progress) => void
  /** Given the process as it starts, so that it can be held and let go on. */
  readonly onStart?: (p: { kill(signal: NodeJS.Signals): boolean }) => void
}

/** A process that ended badly, with the last lines it said. */
export class MediaError extends Error {
  constructor(
    message: string,
    readonly detail: string,
    readonly command: string,
  ) {
    super(message)
  }
}

/** Arguments before the inputs, and before the output, that keep a process to so many threads. */
export const threadArgs = (threads?: number): { before: string[]; coding: string[] } => {
  const n = threads === undefined ? [] : ['-threads', String(threads)]
  return { before: threads === undefined ? [] : ['-filter_complex_threads', String(threads), ...n], coding: n }
}

/** What FFmpeg's words mean for people. */
function sentence(tool: string, stderr: string): string {
  const lines = stderr.trim().split('\n')
  const last = lines.at(-1) ?? ''
  if (/No space left on device/i.test(stderr)) return 'The target disk is full.'
  if (/Permission denied/i.test(stderr)) return 'The file may not be read or written: permission denied.'
  if (/moov atom not found/i.test(stderr)) return 'The file is cut short: its index (moov) is missing.'
  if (/No such file or directory/i.test(stderr)) return 'The file is not there any more.'
  if (/Input\/output error/i.test(stderr)) return 'The drive could not be read.'
  if (/Invalid data found/i.test(stderr)) return 'The file holds no picture or sound that can be decoded.'
  return last ? `${tool} stopped: ${last.slice(0, 300)}` : `${tool} stopped without a reason.`
}

/** What a run that ended badly is told as. */
export const mediaError = (tool: 'ffmpeg' | 'ffprobe', said: string, args: readonly string[]): MediaError =>
  new MediaError(sentence(tool, said), said.trim().split('\n').slice(-8).join('\n').slice(-2000), commandLine(args, tool))

/**
 * The input whose picture or sound could not be decoded in places. FFmpeg leaves such frames out and ends well all the same;
 * everything after them would stand a frame too early.
 */
function damaged(said: string, args: readonly string[]): string | null {
  const input = /Error while decoding stream #(\d+):/.exec(said)?.[1]
  return input === undefined ? null : (args.filter((_, i) => args[i - 1] === '-i')[Number(input)] ?? '').replace(/^file:/, '')
}

/** The child ends with this process, however this process ends (Linux). */
const tied = process.platform === 'linux' ? ['setpriv', '--pdeathsig', 'KILL', '--'] : []

/** Runs ffmpeg to its end. Throws a MediaError if it fails or a frame could not be decoded, an AbortError if `signal` ends it. */
export async function ffmpeg(args: readonly string[], options: RunOptions = {}): Promise<void> {
  const all = ['-nostdin', '-hide_banner', '-loglevel', 'error', '-progress', 'pipe:1', '-stats_period', '0.4', ...args]
  const feed = fed(all)
  const [command = 'ffmpeg', ...rest] = [...tied, 'ffmpeg', ...feed.args]
  const child = execa(command, rest, {
    stdio: ['ignore', 'pipe', 'pipe', ...feed.pipes],
    buffer: { stdout: false, stderr: true },
    maxBuffer: 200_000,
    reject: false,
    cancelSignal: options.signal,
    forceKillAfterDelay: 2000,
  })
  options.onStart?.(child)
  const feeding = feed.write(child.stdio as never)
  const now = { frame: 0, fps: 0, speed: 0 }
  let pending = ''
  child.stdout.on('data', (chunk: Buffer) => {
    pending += chunk.toString()
    const lines = pending.split('\n')
    pending = lines.pop() ?? ''
    for (const line of lines) {
      const [key, value = ''] = line.split('=')
      if (key === 'frame') now.frame = Number(value) || now.frame
      if (key === 'fps') now.fps = Number(value) || 0
      if (key === 'speed') now.speed = Number.parseFloat(value) || 0
      if (key === 'progress') options.onProgress?.({ ...now })
    }
  })
  const end = await child
  feeding.stop()
  await feeding.written
  if (options.signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  const said = String(end.stderr ?? '')
  if (end.failed) throw mediaError('ffmpeg', said || (end.shortMessage ?? ''), all)
  const hurt = damaged(said, all)
  if (hurt !== null)
    throw new MediaError(
      `${hurt} is damaged: a frame of it cannot be decoded. Copy it again from the card.`,
      said.trim().split('\n').slice(-8).join('\n'),
      commandLine(all),
    )
}

/** The command as a person can paste it into a terminal. */
export const commandLine = (args: readonly string[], tool = 'ffmpeg'): string =>
  [tool, ...args].map((a) => (/^[\w@%+=:,./-]+$/.test(a) ? a : `'${a.replace(/'/g, `'\\''`)}'`)).join(' ')

/** Runs a command and returns what it wrote to standard output as bytes. Throws a MediaError if it fails. */
export async function output(command: 'ffmpeg' | 'ffprobe', args: readonly string[], signal?: AbortSignal, maxBuffer = 512 * 1024 * 1024): Promise<Buffer> {
  const feed = fed(args)
  const child = execa(command, feed.args, {
    stdio: ['ignore', 'pipe', 'pipe', ...feed.pipes],
    encoding: 'buffer',
    reject: false,
    maxBuffer,
    cancelSignal: signal,
  })
  const feeding = feed.write(child.stdio as never)
  const end = await child
  feeding.stop()
  await feeding.written
  if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  if (end.failed) throw mediaError(command, Buffer.from(end.stderr ?? []).toString() || (end.shortMessage ?? ''), args)
  return Buffer.from(end.stdout)
}
