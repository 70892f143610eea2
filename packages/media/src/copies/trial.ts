/** What a file plays like here: frames decoded in a second, frames dropped by so many streams at once, bytes read from its drive. */
import { open, rm } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import type { Rate } from '@naranja/core/time'
import { openOnDisk, readBlocks } from '../bytes/index.ts'
import { inputArgs, type MediaInput } from '../input/index.ts'
import { ffmpeg } from '../ffmpeg/index.ts'

/** Reads a file again and again, as many frames as are asked for; files of numbered pictures are read once. */
function decoding(input: MediaInput, frames: number, how: { realTime?: boolean; threads?: number }): string[] {
  const loop = input.sequence ? ['-loop', '1'] : ['-stream_loop', '-1']
  const limits = how.threads ? ['-threads', String(how.threads)] : []
  return [...limits, ...loop, ...(how.realTime ? ['-re'] : []), ...inputArgs(input), '-map', '0:v:0', '-frames:v', String(frames), '-f', 'null', '-']
}

/** Frames per second that all cores of this machine decode together. */
export async function decodeSpeed(input: MediaInput, frames: number, signal?: AbortSignal): Promise<number> {
  const cores = availableParallelism()
  // A process of its own on each core: streams that play at once are such.
  const each = Math.max(frames, 25)
  const began = performance.now()
  await Promise.all(Array.from({ length: cores }, () => ffmpeg(decoding(input, each, { threads: 1 }), signal ? { signal } : {})))
  return (cores * each * 1000) / (performance.now() - began)
}

/**
 * Plays so many streams at once for `seconds` at their rate, and counts the frames that come too late. A first moment, in which every
 * process starts, is not counted.
 */
export async function droppedFrames(input: MediaInput, rate: Rate, streams: number, seconds: number, signal?: AbortSignal): Promise<number> {
  const wanted = Math.round((seconds * rate.num) / rate.den)
  const late = new AbortController()
  const stop = () => late.abort()
  signal?.addEventListener('abort', stop, { once: true })
  // What has not come a quarter of a second after its time is dropped.
  const grace = 250 + 40 * streams
  const timer = setTimeout(stop, seconds * 1000 + grace)
  const done = await Promise.all(
    Array.from({ length: streams }, async () => {
      let frame = 0
      await ffmpeg(decoding(input, wanted, { realTime: true, threads: 1 }), {
        signal: late.signal,
        onProgress: (p) => {
          frame = p.frame
        },
      }).then(
        () => {
          frame = wanted
        },
        () => {},
      )
      return frame
    }),
  )
  clearTimeout(timer)
  signal?.removeEventListener('abort', stop)
  signal?.throwIfAborted()
  return done.reduce((n, f) => n + Math.max(0, wanted - f), 0)
}

const scratch = 64 * 1024 * 1024

/** Bytes per second that a folder's drive gives, past the cache where the system allows it: a file is written there, read, and taken away. */
export async function readSpeed(folder: string, who: string, signal?: AbortSignal): Promise<number> {
  const path = join(folder, `.speed.${who}.part`)
  try {
    const file = await open(path, 'w')
    try {
      const block = Buffer.alloc(4 * 1024 * 1024, 0x5a)
      for (let n = 0; n < scratch; n += block.length) await file.write(block)
      await file.sync()
    } finally {
      await file.close()
    }
    const opened = await openOnDisk(Buffer.from(path))
    try {
      const began = performance.now()
      await readBlocks(opened, () => {}, { size: scratch, ...(signal ? { signal } : {}) })
      return (scratch * 1000) / Math.max(1, performance.now() - began)
    } finally {
      await opened.file.close()
    }
  } finally {
    await rm(path, { force: true })
  }
}
