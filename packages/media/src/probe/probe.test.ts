/** What is read of media in the wrappers and codecs the job knows. */
import { mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { noticesOf } from '@naranja/core/clip'
import { likeness } from '@naranja/core/picture'
import { rate } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ffmpeg } from '../ffmpeg/run.ts'
import { probe } from './probe.ts'
import { samples, stills } from '../frames/frames.ts'
import { selectExpression } from '../ffmpeg/filters.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja probe '))
afterAll(() => rmSync(folder, { recursive: true }))
const at = (name: string) => Buffer.from(join(folder, name))
const pal = { projectRate: rate(25) }
const picture = (more: string[], name: string, r = '25', n = 50) =>
  ffmpeg(['-y', '-f', 'lavfi', '-i', `testsrc=s=320x180:r=${r}`, '-frames:v', String(n), ...more, join(folder, name)])
const h264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']

beforeAll(async () => {
  await picture([...h264, '-timecode', '10:00:00:00', '-metadata:s:v:0', 'reel_name=A001'], 'a.mov')
  await picture([...h264, '-timecode', '01:00:00;00'], 'ntsc.mp4', '30000/1001')
  await picture(['-c:v', 'prores', '-profile:v', '3', '-pix_fmt', 'yuv422p10le'], 'p.mov', '24000/1001')
  await picture(['-c:v', 'mpeg2video', '-timecode', '09:59:58:00', '-metadata', 'reel_name=B001_LONG'], 'b.mxf')
  await picture(['-vf', 'setsar=4/3', ...h264], 'wide.mov')
  await ffmpeg([
    '-y',
    '-f',
    'lavfi',
    '-i',
    'sine=440:d=2:sample_rate=48000',
    '-c:a',
    'pcm_s24le',
    '-write_bext',
    '1',
    '-metadata',
    `time_reference=${48000 * 3600 + 960}`,
    join(folder, 's.wav'),
  ])
})

describe('a damaged file', () => {
  it.each([
    ['b.mxf', 4096],
    ['b.mxf', 65_536],
  ])('is told as damaged, never as what is guessed from the rest of it: %s without its first %i bytes', async (name, bytes) => {
    const whole = readFileSync(at(name))
    for (const [how, data] of [
      ['zeros', Buffer.concat([Buffer.alloc(bytes), whole.subarray(bytes)])],
      ['cut', whole.subarray(bytes)],
    ] as const) {
      const path = at(`${how} ${bytes} ${name}`)
      writeFileSync(path, data)
      const t = await probe(path, pal)
      expect([t.fault, t.codec, t.frames]).toEqual([
        expect.stringMatching(/ is damaged: it does not begin as a file of its kind does.* Copy it again from the card\.$/),
        '',
        0,
      ])
    }
  })
  it('is none that is well under another name', async () => {
    writeFileSync(at('really mov.mxf'), readFileSync(at('a.mov')))
    expect(await probe(at('really mov.mxf'), pal)).toMatchObject({ fault: null, frames: 50, codec: 'H.264 Constrained Baseline' })
  })
})

describe('facts', () => {
  it('of a movie with a timecode track and a reel', async () => {
    expect(await probe(at('a.mov'), pal)).toMatchObject({
      wrapper: 'mov',
      codec: 'H.264 Constrained Baseline',
      width: 320,
      height: 180,
      rate: { num: 25, den: 1 },
      frames: 50,
      start: 900000,
      drop: false,
      depth: 8,
      chroma: '4:2:0',
      longGop: true,
      reel: 'A001',
      stamp: null,
      sound: null,
      hasPicture: true,
      fault: null,
    })
  })
  it('of drop-frame timecode', async () =>
    expect(await probe(at('ntsc.mp4'), pal)).toMatchObject({ rate: { num: 30000, den: 1001 }, start: 107892, drop: true, wrapper: 'mp4' }))
  it('of an intra codec in 10 bit', async () =>
    expect(await probe(at('p.mov'), pal)).toMatchObject({
      codec: 'ProRes 422 HQ',
      depth: 10,
      chroma: '4:2:2',
      longGop: false,
      start: null,
      rate: { num: 24000, den: 1001 },
    }))
  it('of an MXF whose header tells no frame count', async () =>
    expect(await probe(at('b.mxf'), pal)).toMatchObject({ wrapper: 'mxf', frames: 50, start: 899950, reel: 'B001_LONG' }))
  it('of a picture in a codec that nobody knows: named, with what can be done', async () => {
    await ffmpeg([
      '-y',
      '-f',
      'lavfi',
      '-i',
      'testsrc=s=320x180:r=25',
      '-f',
      'lavfi',
      '-i',
      'sine=440',
      '-t',
      '1',
      ...h264,
      '-c:a',
      'pcm_s16le',
      join(folder, 'odd.mov'),
    ])
    const data = readFileSync(join(folder, 'odd.mov'))
    const box = data.indexOf('avc1', data.indexOf('stsd'))
    data.write('qx9z', box, 'latin1')
    writeFileSync(join(folder, 'odd.mov'), data)
    expect((await probe(at('odd.mov'), pal)).fault).toBe(
      'odd.mov: its picture is coded in qx9z, which cannot be decoded here; only its sound could be read. Convert it with the software of the camera, and take in what that makes.',
    )
  })
  it('of a clip that was shot at another rate than it plays at', async () => {
    await picture([...h264, '-movflags', 'use_metadata_tags', '-metadata', 'com.maker.capture.fps=100.000000'], 'slow.mov')
    const t = await probe(at('slow.mov'), pal)
    expect(t.captured).toEqual({ rate: rate(100), from: 'file' })
    expect(noticesOf({ technical: t, reel: 'A', start: 1, sameNames: 0, projectRate: rate(25), projectShape: null, peaks: null }).map((n) => n.text)).toContain(
      'Shot at 100 frames a second and kept at 25: it plays 4 times slower than it happened.',
    )
    expect((await probe(at('a.mov'), pal)).captured).toBeUndefined()
  })
  it('of pixels that are not square', async () => expect((await probe(at('wide.mov'), pal)).pixelAspect).toBeCloseTo(4 / 3))
  it('of a recorder’s file: timecode from its samples, to the sample', async () => {
    // 960 samples past the hour is half a frame at 25: the first whole frame is one later, 960 samples into the file.
    expect(await probe(at('s.wav'), pal)).toMatchObject({
      hasPicture: false,
      start: 90001,
      sampleOffset: 960,
      frames: 50,
      sound: { channels: 1, sampleRate: 48000 },
    })
  })
  it('of files that are none: a sentence with the name and what to do', async () => {
    writeFileSync(at('letter.mov'), 'Dear all,\n')
    writeFileSync(at('nothing.mov'), '')
    writeFileSync(at('noise.mov'), Buffer.from(Array.from({ length: 2000 }, (_, i) => (i * 7919) % 256)))
    await picture([...h264, '-movflags', '+faststart'], 'short.mov')
    truncateSync(at('short.mov'), 4000)
    const fault = async (name: string) => (await probe(at(name), pal)).fault
    expect(await fault('letter.mov')).toMatch(/^letter.mov is a text, not a movie/)
    expect(await fault('nothing.mov')).toMatch(/^nothing.mov is empty \(0 bytes\); copy it again/)
    expect(await fault('noise.mov')).toMatch(/^noise.mov/)
    expect(await fault('short.mov')).toMatch(/^short.mov .*cut short/)
    expect(await fault('gone.mov')).toMatch(/^gone.mov is not there any more/)
  })
})

describe('frames', () => {
  it('are the same picture whether reached by seeking or in one go', async () => {
    const input = { path: at('a.mov'), sequence: null, rate: rate(25) }
    const all = await samples(
      input,
      Array.from({ length: 50 }, (_, i) => i),
    )
    expect(all).toHaveLength(50)
    for (const f of [1, 17, 49]) expect((await samples(input, [f]))[0]).toEqual(all[f])
    const far = await samples({ ...input, path: at('ntsc.mp4'), rate: rate(30000, 1001) }, [0, 49])
    expect(far).toHaveLength(2)
  })
  it('come as JPEG one by one', async () => {
    const got: number[] = []
    await stills({ path: at('p.mov'), sequence: null, rate: rate(24000, 1001) }, 10, 5, { width: 160 }, (i, jpeg) => {
      expect([jpeg[0], jpeg[1], jpeg.at(-2), jpeg.at(-1)]).toEqual([0xff, 0xd8, 0xff, 0xd9])
      got.push(i)
    })
    expect(got).toEqual([0, 1, 2, 3, 4])
  })
  it('are asked for in short expressions', () => expect(selectExpression([0, 1, 2, 7, 9, 10])).toBe('between(n,0,2)+eq(n,7)+between(n,9,10)'))
})

describe('a picture that is turned', () => {
  it('is described, shown and copied as it is seen', async () => {
    await ffmpeg(['-y', '-i', join(folder, 'a.mov'), '-c', 'copy', '-metadata:s:v:0', 'rotate=90', join(folder, 'turned.mov')])
    await ffmpeg(['-y', '-i', join(folder, 'turned.mov'), '-c:v', 'prores', '-pix_fmt', 'yuv422p10le', join(folder, 'upright.mov')])
    const [t, upright] = [await probe(at('turned.mov'), pal), await probe(at('upright.mov'), pal)]
    expect([t.width, t.height, upright.width, upright.height, upright.rotation]).toEqual([180, 320, 180, 320, 0])
    expect([90, 270]).toContain(t.rotation)
    const picture = (name: string) => samples({ path: at(name), sequence: null, rate: rate(25) }, [10])
    expect(likeness((await picture('turned.mov'))[0] as Uint8Array, (await picture('upright.mov'))[0] as Uint8Array)).toBeGreaterThan(0.99)
  })
})

describe('a rate', () => {
  it('that is not constant is noticed, at its beginning and later; one that is, in any wrapper, is not', async () => {
    const picture = ['-f', 'lavfi', '-i', 'testsrc=s=160x90:r=30:d=4']
    const coded = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p']
    await ffmpeg(['-y', ...picture, '-vf', "select='gt(mod(n,3),0)'", '-fps_mode', 'vfr', ...coded, join(folder, 'early.mp4')])
    await ffmpeg(['-y', ...picture, '-vf', "select='lt(n,60)+not(mod(n,3))'", '-fps_mode', 'vfr', ...coded, join(folder, 'late.mp4')])
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'testsrc=s=160x90:r=24000/1001:d=4', ...coded, join(folder, 'even.mkv')])
    await ffmpeg(['-y', ...picture, ...coded, '-bf', '3', join(folder, 'even.mp4')])
    const variable = async (name: string) => (await probe(at(name), pal)).variable
    expect(await Promise.all(['early.mp4', 'late.mp4', 'even.mkv', 'even.mp4', 'a.mov'].map(variable))).toEqual([true, true, false, false, false])
  })
})
