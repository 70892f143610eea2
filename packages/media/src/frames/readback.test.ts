/** What a finished file is found to hold when it is read back. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { likeness } from '@naranja/core/picture'
import { rate } from '@naranja/core/time'
import { afterAll, describe, expect, it } from 'vitest'
import { endsInTime, readBack, readPackets, readTags } from './readback.ts'
import { ffmpeg } from '../ffmpeg/run.ts'
import { MediaError } from '../disk/error.ts'
import { samples } from './frames.ts'
import { damageFrame } from '../testing.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja readback '))
afterAll(() => rmSync(folder, { recursive: true }))
const prores = ['-c:v', 'prores', '-profile:v', '2', '-pix_fmt', 'yuv422p10le']
const film = rate(24000, 1001)
const input = (path: string) => ({ path: Buffer.from(path), sequence: null, rate: film })
const make = async (name: string, ...more: string[]): Promise<string> => {
  const path = join(folder, name)
  await ffmpeg(['-y', '-f', 'lavfi', '-i', 'testsrc=s=320x180:r=24000/1001', '-f', 'lavfi', '-i', 'sine=440', '-frames:v', '48', '-t', '2.002', ...more, path])
  return path
}

describe('a file read back', () => {
  it('tells size, pixels, every frame’s time, sound, tags, and the pictures asked for, in order', async () => {
    const path = await make('a.mov', ...prores, '-timecode', '10:00:00:00', '-metadata', 'comment=a; b = c\\d', '-metadata:s:v:0', 'reel_name=A001_X')
    const b = await readBack(input(path), [0, 24, 47])
    expect(b).toMatchObject({ width: 320, height: 180, pixelAspect: 1, codec: 'prores', sound: [{ channels: 1, rate: 44100 }], fields: null })
    expect(b.times).toHaveLength(48)
    for (const [i, t] of b.times.entries()) expect(t * b.tick.den * film.num).toBe(i * film.den * b.tick.num)
    expect([b.tags.get('timecode'), b.tags.get('comment'), b.tags.get('reel_name')]).toEqual(['10:00:00:00', 'a; b = c\\d', 'A001_X'])
    const one = await samples({ path: Buffer.from(path), sequence: null, rate: film }, [24])
    expect([b.samples.length, likeness(b.samples[1] as Uint8Array, one[0] as Uint8Array)]).toEqual([3, 1])
  })
  it('without sound or tags has none', async () => {
    const b = await readBack(input(await make('quiet.mov', '-an', ...prores)), [0])
    expect([b.sound, b.tags.has('timecode'), b.samples.length]).toEqual([[], false, 1])
  })
  it('gives every picture whole, also where the last byte of one is that of a line end', async () => {
    // Of a plain picture whose red difference is 24 in limited range every sample ends in ten, the code of a line end.
    const path = join(folder, 'line end.mkv')
    const raw = join(folder, 'line end.yuv')
    writeFileSync(raw, Buffer.concat([100, 110, 24].map((v) => Buffer.alloc(96 * 54, v))))
    const frames = ['-f', 'rawvideo', '-pix_fmt', 'yuv444p', '-video_size', '96x54', '-framerate', '24000/1001', '-stream_loop', '2', '-i', raw]
    await ffmpeg(['-y', ...frames, '-c:v', 'ffv1', path])
    const b = await readBack(input(path), [0, 1, 2])
    expect(b.samples.map((s) => s.at(-1))).toEqual([10, 10, 10])
  })
  it('that is none is told with what stands in the way', async () => {
    writeFileSync(join(folder, 'no.mov'), 'This is a text.')
    await expect(readBack(input(join(folder, 'no.mov')), [0])).rejects.toThrow(MediaError)
  })
})

describe('the packet list', () => {
  it('is read in the order of showing, whatever the order in the file', () => {
    const text =
      '#tb 0: 1/25\n#media_type 0: video\n#codec_id 0: h264\n#dimensions 0: 720x576\n#sar 0: 16/15\n0, -1, 0, 1, 9, 0x1\n0, 0, 2, 1, 9, 0x2\n0, 1, 1, 1, 9, 0x3\n1, 0, 0, 960, 1, 0x4\n'
    expect(readPackets(text)).toEqual({ width: 720, height: 576, pixelAspect: 16 / 15, codec: 'h264', times: [0, 1, 2], tick: rate(25), end: 3 })
  })
  it('of nothing is empty', () => expect(readPackets('')).toMatchObject({ width: 0, times: [] }))
})

describe('the end of a picture', () => {
  it('is right after any number of frames where times and lengths are whole milliseconds, and wrong where the last frame lasts too long or too short', () => {
    for (const r of [film, rate(30000, 1001), rate(60000, 1001), rate(24)])
      for (let n = 1; n < 1000; n++) {
        const at = (i: number) => Math.round((i * 1000 * r.den) / r.num)
        // Matroska says the length of a frame in nanoseconds, of which readers make whole milliseconds.
        const lasting = (ms: number) => endsInTime({ times: Array.from({ length: n }, (_, i) => at(i)), tick: rate(1000), end: at(n - 1) + ms }, r)
        const length = Math.floor((1000 * r.den) / r.num)
        expect([n, lasting(length), lasting(length + 4), lasting(length - 4)]).toEqual([n, true, false, false])
      }
  })
  it('of 99 frames at 23.976 in Matroska is right', async () => {
    const path = join(folder, 'end.mkv')
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'testsrc=s=32x32:r=24000/1001', '-frames:v', '99', '-c:v', 'ffv1', path])
    expect(endsInTime(await readBack(input(path), [0]), film)).toBe(true)
  })
})

describe('tags', () => {
  it('are read with their escapes, the first of a name counting', () => {
    const text = ';FFMETADATA1\ncomment=one\\; two\\= three\\\nfour\n[STREAM]\ntimecode=01:00:00\\;00\n[STREAM]\ntimecode=02:00:00:00\nempty=\n'
    expect([...readTags(text)]).toEqual([
      ['comment', 'one; two= three\nfour'],
      ['timecode', '01:00:00;00'],
      ['empty', ''],
    ])
  })
})

describe('a run over damaged media', () => {
  it.each([
    ['every frame on its own', prores],
    ['frames that lean on others', ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-g', '48']],
  ])('of %s fails and names the file, for a frame that is left out moves all that follow', async (_what, coding) => {
    const path = await make(`d${coding.length}.mov`, '-an', ...coding)
    await damageFrame(path, 20)
    await expect(ffmpeg(['-i', path, '-f', 'null', '-'])).rejects.toThrow(`${path} is damaged: a frame of it cannot be decoded`)
    // Of two inputs the one that is hurt is named.
    await expect(ffmpeg(['-f', 'lavfi', '-i', 'color=d=1', '-i', path, '-map', '0:v', '-map', '1:v', '-f', 'null', '-'])).rejects.toThrow(path)
  })
})
