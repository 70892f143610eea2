/** Runs FFmpeg and ffprobe: an argument array in, progress and a readable end out. No shell ever reads an argument. */
import { type ChildProcessByStdio, spawn } from 'node:child_process'
import type { Readable } from 'node:stream'
import { checkInputs, MediaError } from '../disk/index.ts'
import { fed } from './feeds.ts'
import { inTime, type Limits, reusedPipe, type ReusedPipe, type Tool, toolCommand } from '../process/index.ts'

export { MediaError } from '../disk/index.ts'

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
  /** Milliseconds without a sign of life after which FFmpeg counts as stuck; a minute where nothing is said. */
  readonly patience?: number
  /** What it may take where that is not the usual: `file` the bytes of the longest file that may be written, for what goes on without end is ended. */
  readonly limits?: Partial<Limits>
  /** A frame that cannot be decoded does not make it fail: who asks for this counts what came. */
  readonly tolerant?: boolean
  /** Given the process as it starts, so that it can be held and let go on. */
  readonly onStart?: (p: { kill(signal: NodeJS.Signals): boolean }) => void
}

/** Arguments before the inputs, and before the output, that keep a process to so many threads. */
export const threadArgs = (threads?: number): { before: string[]; coding: string[] } => {
  const n = threads === undefined ? [] : ['-threads', String(threads)]
  return { before: threads === undefined ? [] : ['-filter_complex_threads', String(threads), ...n], coding: n }
}

const noRoom = /No space left on device/i

/** What FFmpeg's words mean for people. */
function sentence(tool: string, stderr: string): string {
  const lines = stderr.trim().split('\n')
  const last = lines.at(-1) ?? ''
  if (/File size limit exceeded|File too large/i.test(stderr))
    return 'It became far longer than its original is, and was ended: the original is not what it says it is.'
  if (/CPU time limit exceeded/i.test(stderr))
    return 'It took far longer than a file of its length takes, and was ended: the file is not what it says it is, or damaged.'
  if (/No answer in time/.test(stderr)) return 'It did not come within five minutes: its drive may not be answering. Check the drive, and try again.'
  if (/Cannot allocate memory|std::bad_alloc/i.test(stderr))
    return 'It asked for more memory than one file may take: its pictures are too large for this machine, or the file is damaged.'
  if (noRoom.test(stderr)) return 'The target disk is full.'
  if (/Permission denied/i.test(stderr)) return 'The file may not be read or written: permission denied.'
  if (/moov atom not found/i.test(stderr)) return 'The file is cut short: its index (moov) is missing.'
  if (/No such file or directory/i.test(stderr)) return 'The file is not there any more.'
  if (/Input\/output error/i.test(stderr)) return 'The drive could not be read.'
  if (/Invalid data found/i.test(stderr)) return 'The file holds no picture or sound that can be decoded.'
  return last ? `${tool} stopped: ${last.slice(0, 300)}` : `${tool} stopped without a reason.`
}

/** What a run that ended badly is told as. */
export const mediaError = (tool: 'ffmpeg' | 'ffprobe', said: string, args: readonly string[]): MediaError =>
  new MediaError(
    sentence(tool, said),
    said.trim().split('\n').slice(-8).join('\n').slice(-2000),
    commandLine(args, tool),
    noRoom.test(said) ? 'no-room' : 'other',
  )

/**
 * The input whose picture or sound could not be decoded in places. FFmpeg leaves such frames out and ends well all the same;
 * everything after them would stand a frame too early.
 */
function damaged(said: string, args: readonly string[]): string | null {
  const input = /Error while decoding stream #(\d+):/.exec(said)?.[1]
  return input === undefined ? null : (args.filter((_, i) => args[i - 1] === '-i')[Number(input)] ?? '').replace(/^file:/, '')
}

/** A process that works. */
interface Run {
  kill(signal: NodeJS.Signals): boolean
  readonly ended: Promise<{ readonly failed: boolean; readonly said: string; readonly out: Buffer }>
}

interface RunHow {
  readonly signal: AbortSignal | undefined
  /** Whether what it writes to standard output is kept for its end; a process that writes more than `most` bytes is ended, and has failed. */
  readonly keepOut: boolean
  readonly most: number
  readonly limits?: Partial<Limits> | undefined
}

function begin(command: Tool, args: readonly string[], how: RunHow, output: 'pipe' | number): { run: Run; stdout: Readable | null } {
  const feed = fed(args)
  const [file, ...rest] = toolCommand(command, feed.args, how.limits)
  const child = spawn(file, rest, { stdio: ['ignore', output, 'pipe', ...feed.pipes] }) as ChildProcessByStdio<null, Readable | null, Readable>
  const feeding = feed.write(child.stdio)
  const passed = inTime(child, Boolean(how.limits?.file))
  const kill = () => child.kill('SIGKILL')
  if (how.signal?.aborted) kill()
  how.signal?.addEventListener('abort', kill, { once: true })
  const out: Buffer[] = []
  let length = 0
  let said = ''
  if (how.keepOut)
    child.stdout?.on('data', (d: Buffer) => {
      length += d.length
      if (length <= how.most) out.push(d)
      else kill()
    })
  child.stderr.on('data', (d: Buffer) => {
    said = (said + d.toString()).slice(-200_000)
  })
  const ended = new Promise<number | null>((resolve) => {
    child.on('exit', () => feeding.stop())
    child.on('error', (e) => {
      said += e.message
      resolve(null)
    })
    child.on('close', (code, by) => {
      said += passed(code, by, said)
      resolve(code)
    })
  }).then(async (code) => {
    how.signal?.removeEventListener('abort', kill)
    feeding.stop()
    await feeding.written
    return { failed: code !== 0, said, out: Buffer.concat(out) }
  })
  return { run: { kill: (signal) => child.kill(signal), ended }, stdout: child.stdout }
}

/**
 * A process and what feeds it. Its end rejects only with what went wrong in making a feed; a process that closes a feed before it
 * is through has all it wanted (Node's pipes are sockets, and say so by an error that would count as the process's own).
 */
export function started(command: Tool, args: readonly string[], how: RunHow): Run & { readonly stdout: Readable } {
  const { run, stdout } = begin(command, args, how, 'pipe')
  return { ...run, stdout: stdout as Readable }
}

/** The same for what writes much: its standard output comes piece by piece, each good until the next is asked for. `close` stops reading. */
export async function startedPieces(command: Tool, args: readonly string[], how: Omit<RunHow, 'keepOut' | 'most'>): Promise<Run & ReusedPipe> {
  const { begun, pieces, close } = await reusedPipe((output) => begin(command, args, { ...how, keepOut: false, most: 0 }, output))
  return { ...begun.run, pieces, close }
}

/** Runs ffmpeg to its end, and gives the frames that it has written. Throws a MediaError if it fails or a frame could not be decoded, an AbortError if `signal` ends it. */
export async function ffmpeg(args: readonly string[], options: RunOptions = {}): Promise<number> {
  await checkInputs(args)
  const all = ['-nostdin', '-hide_banner', '-loglevel', 'error', '-progress', 'pipe:1', '-stats_period', '0.4', ...args]
  const child = started('ffmpeg', all, { signal: options.signal, keepOut: false, most: 200_000, limits: { file: Number.POSITIVE_INFINITY, ...options.limits } })
  // FFmpeg tells how far it is twice a second, unless it hangs: on a drive that does not answer, or for good.
  let stuck = false
  let held = false
  const patience = options.patience ?? 60_000
  const give = (): NodeJS.Timeout =>
    setTimeout(() => {
      if (held) return
      stuck = true
      child.kill('SIGKILL')
    }, patience)
  let timer = give()
  const alive = () => {
    clearTimeout(timer)
    timer = give()
  }
  options.onStart?.({
    kill(signal) {
      held = signal === 'SIGSTOP'
      alive()
      return child.kill(signal)
    },
  })
  const now = { frame: 0, fps: 0, speed: 0 }
  let pending = ''
  child.stdout.on('data', (chunk: Buffer) => {
    alive()
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
  const end = await child.ended
  clearTimeout(timer)
  if (options.signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  if (stuck)
    throw new MediaError(
      `FFmpeg did not respond for ${Math.round(patience / 1000)} s and was stopped: a drive may not be answering. Check the drives of the original and of the target, and try again.`,
      end.said.slice(-2000),
      commandLine(all),
    )
  const said = end.said
  if (end.failed) throw mediaError('ffmpeg', said, all)
  const hurt = options.tolerant ? null : damaged(said, all)
  if (hurt !== null)
    throw new MediaError(
      `${hurt} is damaged: a frame of it cannot be decoded. Copy it again from the card.`,
      said.trim().split('\n').slice(-8).join('\n'),
      commandLine(all),
      'damaged',
    )
  return now.frame
}

/** The command as a person can paste it into a terminal. */
export const commandLine = (args: readonly string[], tool = 'ffmpeg'): string =>
  [tool, ...args].map((a) => (/^[\w@%+=:,./-]+$/.test(a) ? a : `'${a.replace(/'/g, `'\\''`)}'`)).join(' ')

/** Runs a command and returns what it wrote to standard output as bytes. Throws a MediaError if it fails. */
export async function output(command: 'ffmpeg' | 'ffprobe', args: readonly string[], signal?: AbortSignal, maxBuffer = 512 * 1024 * 1024): Promise<Buffer> {
  await checkInputs(args)
  const end = await started(command, args, { signal, keepOut: true, most: maxBuffer }).ended
  if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  if (end.failed) throw mediaError(command, end.said, args)
  return end.out
}

/** Runs ffmpeg and gives what it writes to standard output piece by piece, each taken before the next is read. Throws a MediaError if it fails. */
export async function streamed(args: readonly string[], onPiece: (piece: Buffer) => Promise<void>, signal?: AbortSignal): Promise<void> {
  await checkInputs(args)
  const child = started('ffmpeg', args, { signal, keepOut: false, most: 0 })
  try {
    for await (const piece of child.stdout) await onPiece(piece as Buffer)
  } catch (e) {
    child.kill('SIGKILL')
    await child.ended
    throw e
  }
  const end = await child.ended
  if (signal?.aborted) throw new DOMException('Cancelled.', 'AbortError')
  if (end.failed) throw mediaError('ffmpeg', end.said, args)
}
