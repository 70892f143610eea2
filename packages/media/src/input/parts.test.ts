/** A recording that a camera split is read as one: every frame across its joins, from any frame on. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { rate } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ffmpeg, output } from '../ffmpeg/run.ts'
import { inputArgs, type MediaInput } from './input.ts'
import { listenThrough } from '../listen/listen.ts'
import { samples } from '../frames/frames.ts'

const folder = mkdtempSync(join(tmpdir(), "it's parts "))
const lengths = [30, 25, 40]
const codings: [string, string, string[]][] = [
  ['mov', 'long-GOP', ['-c:v', 'libx264', '-preset', 'veryfast', '-g', '24', '-bf', '2', '-pix_fmt', 'yuv420p']],
  ['mov', 'intra', ['-c:v', 'prores']],
  ['mxf', 'long-GOP', ['-c:v', 'mpeg2video', '-g', '12', '-bf', '2', '-q:v', '2', '-pix_fmt', 'yuv420p']],
  ['mxf', 'intra', ['-c:v', 'mpeg2video', '-g', '1', '-b:v', '20M', '-pix_fmt', 'yuv420p']],
]
const inputOf = (ext: string, what: string): MediaInput => ({
  path: Buffer.from(join(folder, `${what} A1C1_001.${ext}`)),
  sequence: null,
  rate: rate(25),
  parts: lengths.map((frames, i) => ({ name: `${what} A1C1_00${i + 1}.${ext}`, frames })),
})

beforeAll(async () => {
  for (const [ext, what, coding] of codings) {
    let from = 0
    for (const [i, n] of lengths.entries()) {
      // The brightness of a picture tells its number over the whole recording: 16 and 2 for each frame.
      await ffmpeg([
        ...['-y', '-f', 'lavfi', '-i', `nullsrc=s=64x48:r=25,geq=lum=16+2*(N+${from}):cb=128:cr=128,format=yuv420p,trim=end_frame=${n}`],
        ...['-f', 'lavfi', '-i', 'sine=f=500:r=48000', '-t', String(n / 25), ...coding, '-c:a', 'pcm_s16le'],
        join(folder, `${what} A1C1_00${i + 1}.${ext}`),
      ])
      from += n
    }
  }
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe.each(codings)('parts in %s, %s', (ext, what) => {
  it('hold every frame in order, from each frame on', async () => {
    const input = inputOf(ext, what)
    for (const from of [0, 1, 29, 30, 31, 54, 55, 56, 94]) {
      const raw = await output('ffmpeg', [
        '-v',
        'error',
        ...inputArgs(input, from),
        '-map',
        '0:v:0',
        '-vf',
        'scale=1:1:flags=area',
        '-fps_mode',
        'passthrough',
        '-pix_fmt',
        'gray',
        '-f',
        'rawvideo',
        '-',
      ])
      const numbers = [...raw].map((v) => Math.round(((v * 219) / 255 + 16 - 16) / 2))
      expect(numbers, `from ${from}`).toEqual(Array.from({ length: 95 - from }, (_, i) => from + i))
    }
  })
  it('give single frames on both sides of a join', async () => {
    const got = await samples(inputOf(ext, what), [29, 30, 54, 55])
    const bright = got.map((s) => s.reduce((n, v) => n + v, 0) / s.length)
    expect(bright[1]).toBeGreaterThan(bright[0] as number)
    expect(bright[3]).toBeGreaterThan(bright[2] as number)
  })
  it('are listened to from the first to the last', async () => {
    const l = await listenThrough(inputOf(ext, what))
    expect(l.rates.length).toBe(4)
    expect(l.peaks.length).toBe(1)
  })
})
