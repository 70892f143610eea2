/** The sound of a master: each track of a cut from its originals, to the sample, in memory that does not grow with the cut or its clips. */
import { mkdir, open, type FileHandle } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import type { SoundPart } from '@naranja/core/plan'
import type { Rate } from '@naranja/core/time'
import pLimit from 'p-limit'
import { hasSoundFiles, type MediaInput, soundOpened, soundSearchable, wholeSound } from '../input/index.ts'
import { fileInput, streamed } from '../ffmpeg/index.ts'

/** Samples per second of a master's sound. */
export const masterSampleRate = 48000
/** The sample at which a record frame begins. */
export const sampleOf = (frame: number, r: Rate): number => Math.floor((frame * r.den * masterSampleRate) / r.num)

export interface SoundSource extends MediaInput {
  readonly channels: number
  readonly sampleRate: number
  /** Samples by which the file starts after its first whole frame. */
  readonly sampleOffset: number
}

/** Whether a part of sound plays as it was recorded, in a cut at `rate`. */
export const runsInRealTime = (part: Pick<SoundPart, 'step'>, source: Pick<SoundSource, 'rate'>, rate: Rate): boolean =>
  part.step.num * source.rate.den * rate.num === part.step.den * source.rate.num * rate.den

const bytesPerSample = 4

/** A stretch of a clip's sound, in samples of the master counted from the clip's beginning, and where it goes. */
interface Stretch {
  readonly in: number
  readonly out: number
  /** Channel of the clip, from 0. */
  readonly channel: number
  readonly file: FileHandle
  /** The sample of the track at which it begins. */
  readonly at: number
}

/** Stretches that lie no further apart than this are read in one go. */
const nearby = 30 * masterSampleRate

/** One file of 32-bit samples per track, as long as the cut, silent where no event is. Each clip is read once, or once for each of its distant stretches. */
export async function renderSound(
  parts: readonly SoundPart[],
  tracks: number,
  frames: number,
  rate: Rate,
  sources: ReadonlyMap<string, SoundSource>,
  folder: string,
  signal?: AbortSignal,
): Promise<string[]> {
  await mkdir(folder, { recursive: true })
  const paths = Array.from({ length: tracks }, (_, i) => join(folder, `A${i + 1}.s32`))
  const files: FileHandle[] = []
  try {
    for (const path of paths) {
      const file = await open(path, 'w')
      files.push(file)
      await file.truncate(sampleOf(frames, rate) * bytesPerSample)
    }
    const byClip = new Map<string, Stretch[]>()
    for (const part of parts) {
      const source = sources.get(part.clipId)
      const track = Number(part.track.slice(1))
      const file = files[track - 1]
      if (!source || !file || source.channels === 0 || !runsInRealTime(part, source, rate)) continue
      const begin = (part.first * source.rate.den) / source.rate.num + (part.k * rate.den) / rate.num + (source.reading?.offset ?? 0)
      const first = Math.max(0, Math.round((begin - source.sampleOffset / source.sampleRate) * masterSampleRate))
      const [from, to] = [sampleOf(part.in, rate), sampleOf(part.out, rate)]
      const stretch = { in: first, out: first + to - from, channel: Math.min(track, source.channels) - 1, file, at: from }
      const list = byClip.get(part.clipId)
      if (list) list.push(stretch)
      else byClip.set(part.clipId, [stretch])
    }
    const runs = [...byClip].flatMap(([clipId, list]) => {
      const source = sources.get(clipId) as SoundSource
      return runsOf(list, soundSearchable(source)).map((run) => ({ source, run }))
    })
    // What one of them meets ends the other, which writes into the same files.
    const ended = new AbortController()
    const either = AbortSignal.any([ended.signal, ...(signal ? [signal] : [])])
    const limit = pLimit(Math.min(2, availableParallelism()))
    const read = runs.map(({ source, run }) =>
      limit(() => {
        either.throwIfAborted()
        return readRun(source, run, either)
      }),
    )
    await Promise.all(read).catch(async (e: Error) => {
      ended.abort()
      await Promise.allSettled(read)
      throw e
    })
  } finally {
    for (const file of files) await file.close()
  }
  return paths
}

/** Stretches in the order of their places, those far from one another apart where the file can be searched. */
function runsOf(list: readonly Stretch[], seek: boolean): Stretch[][] {
  const runs: Stretch[][] = []
  let end = 0
  for (const s of [...list].sort((a, b) => a.in - b.in)) {
    const last = runs.at(-1)
    if (last && (!seek || s.in - end <= nearby)) last.push(s)
    else runs.push([s])
    end = Math.max(end, s.out)
  }
  return runs
}

async function readRun(source: SoundSource, run: readonly Stretch[], signal?: AbortSignal): Promise<void> {
  const channels = [...new Set(run.map((s) => s.channel))].sort((a, b) => a - b)
  const first = run[0]?.in ?? 0
  const last = Math.max(...run.map((s) => s.out))
  const { args: inputs, from } = soundOpened(source, first / masterSampleRate)
  const shape = channels.length === 1 ? 'mono' : channels.length === 2 ? 'stereo' : `${channels.length}c`
  const begin = first - from * masterSampleRate
  const graph = `${wholeSound(source, 0)},pan=${shape}|${channels.map((c, i) => `c${i}=c${c}`).join('|')},aresample=${masterSampleRate},atrim=start_sample=${begin}:end_sample=${last - from * masterSampleRate}[s]`
  const args = ['-nostdin', '-loglevel', 'error', ...(hasSoundFiles(source) ? [] : ['-vn']), ...inputs]
  const width = channels.length * bytesPerSample
  let at = first
  let pending: Buffer = Buffer.alloc(0)
  await streamed(
    [...args, '-filter_complex', graph, '-map', '[s]', '-f', 's32le', '-c:a', 'pcm_s32le', '-'],
    async (piece) => {
      const all = pending.length ? Buffer.concat([pending, piece]) : piece
      const n = Math.floor(all.length / width)
      pending = all.subarray(n * width)
      for (const s of run) {
        const [a, b] = [Math.max(s.in, at), Math.min(s.out, at + n)]
        if (b <= a) continue
        const out = Buffer.allocUnsafe((b - a) * bytesPerSample)
        const c = channels.indexOf(s.channel) * bytesPerSample
        for (let i = a; i < b; i++) all.copy(out, (i - a) * bytesPerSample, (i - at) * width + c, (i - at) * width + c + bytesPerSample)
        await s.file.write(out, 0, out.length, (s.at + a - s.in) * bytesPerSample)
      }
      at += n
    },
    signal,
  )
}

/** Samples of several mono files side by side, piece by piece. */
export async function* interleaved(paths: readonly string[], signal: AbortSignal): AsyncGenerator<Buffer> {
  const files: FileHandle[] = []
  try {
    for (const path of paths) files.push(await open(path, 'r'))
    const block = 16_384
    const blocks = files.map(() => new Int32Array(block))
    for (let at = 0; !signal.aborted; at += block) {
      let n = 0
      for (const [i, file] of files.entries()) {
        const own = blocks[i] as Int32Array
        const { bytesRead } = await file.read(new Uint8Array(own.buffer), 0, block * bytesPerSample, at * bytesPerSample)
        n = Math.floor(bytesRead / bytesPerSample)
      }
      if (n === 0) return
      const out = new Int32Array(n * files.length)
      for (const [i, own] of blocks.entries()) for (let k = 0; k < n; k++) out[k * files.length + i] = own[k] as number
      yield Buffer.from(out.buffer)
    }
  } finally {
    for (const file of files) await file.close()
  }
}

/** Whether every sample of a file's sound is zero. */
export async function isSilent(path: string, signal?: AbortSignal): Promise<boolean> {
  let silent = true
  await streamed(
    ['-nostdin', '-loglevel', 'error', ...fileInput(path), '-map', '0:a:0', '-f', 's32le', '-c:a', 'pcm_s32le', '-'],
    async (piece) => {
      silent &&= piece.every((b) => b === 0)
    },
    signal,
  )
  return silent
}
