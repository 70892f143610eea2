/** How copies are made and judged. */
import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { likeness } from '@naranja/core/picture'
import { type BurnIn, plainSpec, type Spec, specOf } from '@naranja/core/specs'
import { copyFrame, originalFrame, rate } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { checkCopy, leastLikeness } from './check.ts'
import { CheckFailed, copyCommand, makeCopies, makeCopy, PlaceTaken, preview } from './make.ts'
import { clipInput, firstPicture, inputArgs } from '../input/input.ts'
import type { CopyReport } from './model.ts'
import { ffmpeg, output } from '../ffmpeg/run.ts'
import { nativeFrame } from '../frames/deep.ts'
import { SideFile } from '../probe/sidefile.ts'
import { probe } from '../probe/probe.ts'
import { samples } from '../frames/frames.ts'
import { type Asked, copyJobOf } from '../testing.ts'

const folder = mkdtempSync(join(tmpdir(), "naranja's copies "))
afterAll(() => rmSync(folder, { recursive: true }))
const from = join(folder, 'originals')
const to = join(folder, 'copies')
const original = (name: string) => join(from, name)
const copy = (name: string) => join(to, name)
const pal = { projectRate: rate(25) }
const h264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']
const made = (args: readonly string[], name: string) => ffmpeg(['-y', ...args, original(name)])
/** A picture whose number is told by its brightness: 16 + 2n of 219 steps. */
const counting = (r: string, n: number, size = '64x48') => [
  '-f',
  'lavfi',
  '-i',
  `nullsrc=s=${size}:r=${r},geq=lum=16+2*N:cb=128:cr=128,format=yuv420p,trim=end_frame=${n}`,
]
const tones = (n: number, seconds: number) => [
  '-f',
  'lavfi',
  '-i',
  `aevalsrc=${Array.from({ length: n }, (_, c) => `0.1*(${c}+1)`).join('|')}:s=48000:d=${seconds}`,
]

beforeAll(async () => {
  mkdirSync(from)
  mkdirSync(to)
  await made(
    ['-f', 'lavfi', '-i', 'testsrc=s=320x180:r=25', '-frames:v', '50', ...h264, '-timecode', '10:00:00:00', '-metadata:s:v:0', 'reel_name=A001'],
    'a.mov',
  )
})

const spec = specOf('h264-proxy-720') as Spec
const plain: Spec = { ...plainSpec, code: 'plain', name: 'plain', purpose: '', kind: 'intermediate', coding: 'prores-422' }
const lossless: Spec = { ...plain, coding: 'v210' }
const job = (name = 'a.mov', s: Spec = spec, asked: Asked = {}) => copyJobOf(original(name), [s], to, asked)
const nothingElse = () => expect(readdirSync(to).filter((f) => f.includes('.part'))).toEqual([])
/** Makes the copy of a file and gives its report; the copy stands alone in its folder. */
async function copied(name: string, s: Spec, asked: Asked = {}): Promise<CopyReport> {
  rmSync(to, { recursive: true })
  return makeCopy(await job(name, s, asked), 'me', 1000)
}
/** Numbers of a file's pictures, by their brightness. */
async function numbers(path: string, crop = ''): Promise<number[]> {
  const raw = await output('ffmpeg', [
    '-v',
    'error',
    '-i',
    path,
    '-vf',
    `${crop}scale=1:1:flags=area`,
    '-fps_mode',
    'passthrough',
    '-pix_fmt',
    'gray',
    '-f',
    'rawvideo',
    '-',
  ])
  return [...raw].map((v) => Math.round((v * 219) / 255 / 2))
}

describe('a copy', () => {
  it('is made, checked and put in place; made again it is taken as it stands', async () => {
    const first = await copied('a.mov', spec)
    expect(first).toMatchObject({ frames: 50, faults: [] })
    expect(first.points.filter((p) => [0, 25, 49].includes(p.frame)).map((p) => [p.frame, p.passed, p.offset])).toEqual([
      [0, true, 0],
      [25, true, 0],
      [49, true, 0],
    ])
    expect(first.points.length).toBeGreaterThan(3)
    // What a run killed right after it put the file in place has left behind.
    for (const left of ['a.mov.me.part', 'a.mov.me.part.samples']) writeFileSync(copy(left), 'left')
    expect((await makeCopy(await job(), 'me', 1000)).faults).toEqual([])
    nothingElse()
  })
  it('carries a reel without timecode, and neither where there is none', async () => {
    expect((await copied('a.mov', spec, { start: null, reel: 'N003 Ü' })).faults).toEqual([])
    expect(await probe(Buffer.from(copy('a.mov')), pal)).toMatchObject({ start: null, reel: 'N003 Ü', stamp: '12-ab-cd-32' })
    expect((await copied('a.mov', spec, { start: null, reel: null })).faults).toEqual([])
    expect(await probe(Buffer.from(copy('a.mov')), pal)).toMatchObject({ start: null, reel: null, stamp: '12-ab-cd-32' })
  })
  it('never stands over another file', async () => {
    writeFileSync(copy('a.mov'), 'mine')
    await copied('a.mov', spec)
    rmSync(copy('a.mov'))
    writeFileSync(copy('a.mov'), 'mine')
    await expect(job().then((j) => makeCopy(j, 'me', 1000))).rejects.toThrow(PlaceTaken)
  })
  it('is refused where it is not what its spec promises', async () => {
    const failed = await copied('a.mov', spec, { range: { in: 0, out: 80 } }).catch((e: unknown) => e)
    expect(failed).toBeInstanceOf(CheckFailed)
    expect((failed as CheckFailed).report.faults[0]).toBe('It has 50 frames, the original 80.')
    nothingElse()
    // It can be looked at, under a name that says what it is, until one comes out right.
    expect([(failed as Error).message.split(' It is kept')[1], readdirSync(to)]).toEqual([' aside as a failed check.mov.', ['a failed check.mov']])
    expect((await makeCopy(await job(), 'me', 1000)).faults).toEqual([])
    expect(readdirSync(to)).toEqual(['a.mov'])
  })
  it('that shows other frames is found out, by how many', async () => {
    await copied('a.mov', spec, { range: { in: 2, out: 42 } })
    const whole = await job('a.mov', spec, { range: { in: 0, out: 40 }, start: 900002 })
    const o = whole.outputs[0] as (typeof whole.outputs)[number]
    const list = await samples(
      { path: Buffer.from(original('a.mov')), sequence: null, rate: rate(25) },
      Array.from({ length: 50 }, (_, i) => i),
    )
    const report = await checkCopy({ picture: copy('a.mov'), sound: [], sequence: null }, whole, o, {
      around: new Map(list.map((s, i) => [i, s])),
      trace: null,
    })
    expect(report.points.every((p) => !p.passed)).toBe(true)
    expect(report.faults.filter((f) => /shows the original's frame|only \d+ % like/.test(f))).toHaveLength(report.points.length)
  })
  it('is found out where it is black, frozen, lighter, of other colours or beside itself anywhere, though count and the six frames are right', async () => {
    const from = join(folder, 'moving.mov')
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'testsrc2=s=640x360:r=25', '-frames:v', '100', ...h264, '-crf', '8', from])
    const whole = await copyJobOf(from, [{ ...spec, quality: 12 }], to)
    const o = whole.outputs[0] as (typeof whole.outputs)[number]
    await makeCopy(whole, 'me', 1000)
    const good = join(folder, 'good.mov')
    const trace = await output('ffmpeg', ['-v', 'error', '-i', from, '-vf', 'scale=32:18:flags=neighbor,format=gray', '-f', 'rawvideo', '-'])
    const all = await samples(
      clipInput(Buffer.from(from), await probe(Buffer.from(from), pal)),
      Array.from({ length: 100 }, (_, i) => i),
    )
    const around = new Map(all.map((s, i) => [i, s]))
    const told = async (filter: string): Promise<readonly string[]> => {
      await ffmpeg(['-y', '-i', from, '-vf', filter, ...h264, '-crf', '12', '-metadata', `comment=${o.carried.stamp}`, good])
      return (await checkCopy({ picture: good, sound: [], sequence: null }, whole, o, { around, trace })).faults.filter((f) => !/tagged|timecode|reel/.test(f))
    }
    expect(await told('null')).toEqual([])
    // Between the frames that are looked at more closely, whichever those are, something is left that only the whole tells.
    const gap = [
      ...new Set([0, 100, ...(await checkCopy({ picture: o.target, sound: [], sequence: null }, whole, o, { around, trace })).points.map((p) => p.frame)]),
    ]
      .sort((a, b) => a - b)
      .reduce((best, f, i, list) => (f - (list[i - 1] ?? f) > best.out - best.in ? { in: (list[i - 1] ?? 0) + 2, out: f - 1 } : best), { in: 0, out: 0 })
    const [a, b] = [gap.in, gap.in + 5]
    expect(b).toBeLessThan(gap.out)
    expect(await told(`drawbox=t=fill:color=black:enable='between(n,${a},${b - 1})'`)).toEqual([
      `Frames ${a} to ${b - 1}: black, where the original shows a picture.`,
    ])
    expect(await told(`drawbox=t=fill:color=white:enable='eq(n,${a})'`)).toEqual([`Frame ${a}: it shows something other than the original.`])
    expect(await told(`select='not(between(n,${a + 1},${b}))',setpts='(N+gt(N,${a})*5)/25/TB',fps=25,trim=end_frame=100`)).toEqual([
      `Frames ${a} to ${b}: a still picture, where the original moves.`,
    ])
    expect(await told('lutyuv=y=val*1.02')).toEqual([expect.stringMatching(/^It is lighter than the original by \d\.\d %\.$/)])
    // Brightness as it was, hues turned; and red in blue's place, which bends brightness too.
    const turned = await told('hue=h=40')
    expect(turned.length).toBeGreaterThanOrEqual(3)
    for (const f of turned) expect(f).toMatch(/^Frame \d+ has other colours than the original's\.$/)
    for (const f of await told('colorchannelmixer=rr=0:rb=1:bb=0:br=1'))
      expect(f).toMatch(/^Frame \d+ (has other colours than|is only \d+ % like) the original's\.$|: it shows something other|^It is/)
    expect(await told('colorchannelmixer=rr=0:rb=1:bb=0:br=1')).not.toEqual([])
    expect(await told('format=yuv444p,crop=638:359:0:0:exact=1,pad=640:360:2:1')).toContainEqual(
      expect.stringMatching(/^Its picture lies (1\.[5-9]|2\.[0-5]) pixels to the right and (0\.[7-9]|1\.[0-3]) pixels to the bottom of where it should\.$/),
    )
  })
  it('fails at once where the disk has no room', async () => {
    await expect(job('a.mov', { ...spec, naming: { before: '', after: '_huge' } }).then((j) => makeCopy(j, 'me', 1e18))).rejects.toThrow(
      /The target disk is full: .* are needed/,
    )
  })
  it('is named with what is added, and its command can be pasted', async () => {
    const j = await job('a.mov', { ...spec, naming: { before: 'px_', after: '_720' } })
    expect(j.outputs[0]?.target).toBe(copy('px_a_720.mov'))
    const args = copyCommand(j).join(' ')
    expect(args.match(/-i /g)).toHaveLength(1)
    expect(args).toContain('-timecode 10:00:00:00')
    expect(args).toContain('reel_name=A001')
  })
})

describe('what a wrapper cannot carry', () => {
  it('stands in a small file beside the copy, and tells whose copy it is', async () => {
    const mxf: Spec = { ...plain, coding: 'dnxhr-sq', wrapper: 'mxf' }
    expect((await copied('a.mov', mxf)).faults).toEqual([])
    expect(SideFile.parse(JSON.parse(readFileSync(copy('a.mxf.copy.json'), 'utf8')))).toMatchObject({
      ...{ name: 'a.mov', timecode: '10:00:00:00', reel: 'A001', frames: 50, rate: '25/1', frameMap: null, spec: { name: 'plain', version: 1 } },
    })
    expect((await probe(Buffer.from(copy('a.mxf')), pal)).stamp).toBe('12-ab-cd-32')
    // mov carries all of it.
    await copied('a.mov', plain)
    expect(readdirSync(to)).toEqual(['a.mov'])
    expect((await copied('a.mov', { ...plain, rate: 'project' }, { project: rate(50) })).faults).toEqual([])
    expect(JSON.parse(readFileSync(copy('a.mov.copy.json'), 'utf8'))).toMatchObject({
      timecode: '10:00:00:00',
      frames: 100,
      frameMap: { original: '25/1', copy: '50/1', first: 0 },
    })
  })
})

describe('a copy that hangs', () => {
  it('is ended after its patience, with a sentence that says where to look; one that is held is left alone', async () => {
    const pipe = join(folder, 'pipe')
    execFileSync('mkfifo', [pipe])
    const hanging = ['-y', '-f', 'rawvideo', '-video_size', '64x64', '-pix_fmt', 'gray', '-i', pipe, join(folder, 'hang.mov')]
    await expect(ffmpeg(hanging, { patience: 1500 })).rejects.toThrow(/did not respond for 2 s and was stopped: a drive may not be answering/)
    const ending = new AbortController()
    const held = ffmpeg(hanging, { patience: 600, signal: ending.signal, onStart: (p) => p.kill('SIGSTOP') })
    setTimeout(() => ending.abort(), 2000)
    await expect(held).rejects.toThrow('Cancelled.')
  })
})

describe('several copies', () => {
  it('come from one decode, each as its own spec promises', async () => {
    const small: Spec = { ...spec, code: 'small', frame: { by: 'height', height: 90 } }
    const frames: Spec = { ...plain, code: 'frames', coding: 'dpx-10', wrapper: 'frames' }
    const j = await copyJobOf(original('a.mov'), [small, plain, frames], to)
    expect(copyCommand(j).filter((a) => a === '-i')).toHaveLength(1)
    const reports = await makeCopies(j, 'me', 1000)
    expect(reports.map((r) => (r instanceof Error ? r.message : r.faults))).toEqual([[], [], []])
    expect((await probe(Buffer.from(copy('small/a.mov')), pal)).height).toBe(90)
    expect(readdirSync(copy('frames/a'))).toHaveLength(50)
    expect(readdirSync(copy('frames/a'))[0]).toBe('a.00900000.dpx')
    // One of them taken away is made again; the others are taken as they stand.
    rmSync(copy('plain/a.mov'))
    expect((await makeCopies(j, 'me', 1000)).map((r) => (r instanceof Error ? r.message : r.faults))).toEqual([[], [], []])
    expect(existsSync(copy('plain/a.mov'))).toBe(true)
  })
})

describe('the rate of the project', () => {
  it.each([
    ['50', rate(50), rate(25)],
    ['24000/1001', rate(24000, 1001), rate(25)],
    ['25', rate(25), rate(50)],
    ['60000/1001', rate(60000, 1001), rate(24)],
  ])('gives a copy of %s the frame at or before each of its own in time', async (text, own, project) => {
    const name = `r${own.num}.mov`
    await made(
      [...counting(text, 90), ...tones(1, (90 * own.den) / own.num), '-c:v', 'ffv1', '-pix_fmt', 'yuv420p', '-c:a', 'pcm_s16le', '-timecode', '10:00:00:10'],
      name,
    )
    const s: Spec = { ...lossless, rate: 'project' }
    const j = await job(name, s, { project })
    const o = j.outputs[0] as (typeof j.outputs)[number]
    expect((await copied(name, s, { project })).faults).toEqual([])
    const got = await numbers(copy(name))
    expect(got).toHaveLength(o.frames)
    const map = { original: own, copy: project, first: 0 }
    expect(got).toEqual(got.map((_, n) => Math.min(89, originalFrame(map, n))))
    expect((await probe(Buffer.from(copy(name)), pal)).rate).toEqual(project)
    // Read through its map it gives the original's frames again, from wherever it is opened.
    const through = { path: Buffer.from(copy(name)), sequence: null, rate: own, map }
    for (const m of [0, 1, 2, 3, 24, 25, 47, 80]) {
      const raw = await output('ffmpeg', [
        ...['-v', 'error', ...inputArgs(through, m), '-vf', `${firstPicture(through, m)}trim=end_frame=6,scale=1:1:flags=area`],
        ...['-fps_mode', 'passthrough', '-pix_fmt', 'gray', '-f', 'rawvideo', '-'],
      ])
      const seen = [...raw].map((v) => Math.round((v * 219) / 255 / 2))
      expect([m, seen]).toEqual([m, Array.from({ length: 6 }, (_, k) => Math.min(89, originalFrame(map, copyFrame(map, m + k))))])
    }
  })
})

describe('framing', () => {
  it('of a picture that is turned, with pixels that are not square, comes out upright and square', async () => {
    await ffmpeg(['-y', '-i', original('a.mov'), '-c', 'copy', '-metadata:s:v:0', 'rotate=90', original('turned.mov')])
    expect((await copied('turned.mov', plain)).faults).toEqual([])
    expect(await probe(Buffer.from(copy('turned.mov')), pal)).toMatchObject({ width: 180, height: 320, rotation: 0 })
    await made(['-f', 'lavfi', '-i', 'testsrc=s=720x576:r=25', '-frames:v', '5', '-vf', 'setsar=64/45', '-c:v', 'mpeg2video', '-q:v', '2'], 'sd.mxf')
    expect((await copied('sd.mxf', plain)).faults).toEqual([])
    expect(await probe(Buffer.from(copy('sd.mov')), pal)).toMatchObject({ width: 1024, height: 576, pixelAspect: 1 })
  })
  it('takes the part that was drawn, to the pixel', async () => {
    // Four quarters of brightness 40, 80, 120 and 160.
    await made(
      [
        '-f',
        'lavfi',
        '-i',
        `nullsrc=s=320x180:r=25,geq=lum='40+40*(gte(X,160)+2*gte(Y,90))':cb=128:cr=128`,
        '-frames:v',
        '3',
        '-c:v',
        'ffv1',
        '-pix_fmt',
        'yuv422p',
      ],
      'q.mkv',
    )
    const level = async (file: string, crop: string) =>
      (
        await output('ffmpeg', [
          '-v',
          'error',
          '-i',
          file,
          '-frames:v',
          '1',
          '-vf',
          `${crop},format=yuv422p10le,scale=1:1:flags=area`,
          '-pix_fmt',
          'gray',
          '-f',
          'rawvideo',
          '-',
        ])
      )[0] ?? 0
    expect((await copied('q.mkv', lossless, { crop: { x: 160, y: 90, width: 160, height: 90 } })).faults).toEqual([])
    expect(await probe(Buffer.from(copy('q.mov')), pal)).toMatchObject({ width: 160, height: 90 })
    expect(new Set([await level(copy('q.mov'), 'crop=2:2:0:0'), await level(copy('q.mov'), 'crop=2:2:158:88')]).size).toBe(1)
    // Filled into a square, the sides fall away; fitted, black stands above and below.
    const square: Spec = { ...lossless, frame: { by: 'exact', width: 120, height: 120 } }
    expect((await copied('q.mkv', { ...square, framing: 'fill' })).faults).toEqual([])
    expect(await level(copy('q.mov'), 'crop=2:2:0:0')).toBeGreaterThan(20)
    expect((await copied('q.mkv', { ...square, framing: 'fit' })).faults).toEqual([])
    expect(await level(copy('q.mov'), 'crop=2:2:0:0')).toBeLessThan(3)
    // Never larger than shot unless told.
    expect((await copied('q.mkv', { ...lossless, frame: { by: 'exact', width: 640, height: 360 } })).faults).toEqual([])
    expect(await level(copy('q.mov'), 'crop=2:2:0:0')).toBeLessThan(3)
    expect((await copied('q.mkv', { ...lossless, frame: { by: 'exact', width: 640, height: 360 }, enlarge: true })).faults).toEqual([])
    expect(await level(copy('q.mov'), 'crop=2:2:0:0')).toBeGreaterThan(20)
  })
  it('keeps fields in order, and takes them out only when asked', async () => {
    // The upper field is bright in even frames, the lower one in odd ones: mixed up it would be seen.
    const rows = "nullsrc=s=320x180:r=25,geq=lum='if(mod(Y,2),60,180)':cb=128:cr=128"
    await made(['-f', 'lavfi', '-i', rows, '-frames:v', '6', '-vf', 'setfield=tff', '-c:v', 'ffv1', '-pix_fmt', 'yuv422p'], 'f.mkv')
    const rowsOf = async (file: string) => [
      ...(await output('ffmpeg', [
        '-v',
        'error',
        '-i',
        file,
        '-frames:v',
        '1',
        '-vf',
        'format=yuv422p10le,crop=2:8:0:40,scale=1:8:flags=area',
        '-pix_fmt',
        'gray',
        '-f',
        'rawvideo',
        '-',
      ])),
    ]
    expect((await probe(Buffer.from(original('f.mkv')), pal)).scan).toBe('interlaced, upper field first')
    const kept: Spec = { ...lossless, frame: { by: 'height', height: 90 } }
    expect((await copied('f.mkv', kept)).faults).toEqual([])
    expect((await probe(Buffer.from(copy('f.mov')), pal)).scan).toBe('interlaced, upper field first')
    const alternating = await rowsOf(copy('f.mov'))
    expect(Math.abs((alternating[2] ?? 0) - (alternating[3] ?? 0))).toBeGreaterThan(100)
    expect((await copied('f.mkv', { ...kept, fields: 'deinterlaced' })).faults).toEqual([])
    expect((await probe(Buffer.from(copy('f.mov')), pal)).scan).toBe('progressive')
    const even = await rowsOf(copy('f.mov'))
    expect(Math.abs((even[2] ?? 0) - (even[3] ?? 0))).toBeLessThan(10)
  })
})

describe('sound', () => {
  /** Mean level of every channel of every stream, in tenths of full scale. */
  const levels = async (path: string): Promise<number[][]> => {
    const { sound } = await probe(Buffer.from(path), pal)
    const out: number[][] = []
    for (const [i, n] of (sound?.streams ?? []).entries()) {
      const raw = await output('ffmpeg', ['-v', 'error', '-i', path, '-map', `0:a:${i}`, '-f', 'f32le', '-c:a', 'pcm_f32le', '-'])
      const all = new Float32Array(raw.buffer, raw.byteOffset, raw.length / 4)
      out.push(Array.from({ length: n }, (_, c) => Math.round((all[Math.floor(all.length / n / 2) * n + c] ?? 0) * 100) / 10))
    }
    return out
  }
  beforeAll(async () => {
    const two = [...counting('25', 25), ...tones(2, 1), '-f', 'lavfi', '-i', 'aevalsrc=0.3|0|0.5:s=48000:d=0.9']
    await made([...two, '-map', '0', '-map', '1', '-map', '2', '-c:v', 'ffv1', '-c:a', 'pcm_s24le'], 's.mov')
  })
  it('stays in streams as it was, or gets a stream for each channel, or one for all', async () => {
    expect((await copied('s.mov', plain)).faults).toEqual([])
    expect(await levels(copy('s.mov'))).toEqual([
      [1, 2],
      [3, 0, 5],
    ])
    expect((await copied('s.mov', { ...plain, sound: { ...plain.sound, streams: 'each-alone' } })).faults).toEqual([])
    expect(await levels(copy('s.mov'))).toEqual([[1], [2], [3], [0], [5]])
    expect((await copied('s.mov', { ...plain, sound: { ...plain.sound, streams: 'together' } })).faults).toEqual([])
    expect(await levels(copy('s.mov'))).toEqual([[1, 2, 3, 0, 5]])
  })
  it('is what is chosen, what is not silent, a mix-down, or none', async () => {
    const s = (more: Partial<Spec['sound']>): Spec => ({ ...plain, sound: { ...plain.sound, ...more } })
    expect((await copied('s.mov', s({ channels: 'chosen', chosen: [2, 5, 9] }))).faults).toEqual([])
    expect(await levels(copy('s.mov'))).toEqual([[2], [5]])
    expect((await copied('s.mov', s({ channels: 'unsilent' }), { silent: [3] })).faults).toEqual([])
    expect(await levels(copy('s.mov'))).toEqual([
      [1, 2],
      [3, 5],
    ])
    expect((await copied('s.mov', s({ channels: 'mix' }), { silent: [3] })).faults).toEqual([])
    // (1 + 2 + 3 + 5) / 4 of a tenth.
    expect(await levels(copy('s.mov'))).toEqual([[2.8, 2.8].map((v) => expect.closeTo(v, 0))])
    expect((await copied('s.mov', s({ channels: 'none' }))).faults).toEqual([])
    expect(await levels(copy('s.mov'))).toEqual([])
  })
  it('lasts as long as the picture, at the rate and depth that are asked for', async () => {
    expect((await copied('s.mov', { ...plain, sound: { ...plain.sound, rate: 44100, coding: 'pcm16' } })).faults).toEqual([])
    expect((await probe(Buffer.from(copy('s.mov')), pal)).sound).toMatchObject({ sampleRate: 44100, depth: 16 })
    const lasting = await output('ffprobe', ['-v', 'error', '-select_streams', 'a', '-show_entries', 'stream=duration_ts', '-of', 'csv=p=0', copy('s.mov')])
    expect(lasting.toString().trim().split(/\s+/)).toEqual(['44100', '44100'])
  })
  it.each(['mov', 'mkv', 'avi'])('of a part begins with the very sample that its first frame begins with: %s', async (ending) => {
    // Every sample tells where it stands: 40 seconds of it.
    const n = 40 * 48_000
    const raw = join(from, 'ramp.raw')
    const at = (i: number) => ((i * 7919) % 60_000) - 30_000
    writeFileSync(raw, Buffer.from(Int16Array.from({ length: n }, (_, i) => at(i)).buffer))
    const sound = ['-f', 's16le', '-ar', '48000', '-ac', '1', '-i', raw, '-c:a', 'pcm_s16le']
    await made([...counting('30000/1001', 1198), ...sound, '-c:v', 'ffv1'], `ramp.${ending}`)
    for (const [first, count] of [
      [23, 31],
      [50, 33],
      [1100, 40],
    ] as const) {
      await copied(`ramp.${ending}`, { ...lossless, sound: { ...lossless.sound, coding: 'pcm24' } }, { range: { in: first, out: first + count } })
      const heard = await output('ffmpeg', ['-v', 'error', '-i', copy('ramp.mov'), '-map', '0:a', '-f', 's16le', '-'])
      const begin = Math.round(first * 1601.6)
      const samples = new Int16Array(heard.buffer.slice(heard.byteOffset, heard.byteOffset + heard.byteLength))
      expect(samples.length).toBe(Math.round(count * 1601.6))
      expect(samples.findIndex((s, i) => s !== at(begin + i))).toBe(-1)
    }
  })
  it('stands in a file for each track where the wrapper is so', async () => {
    expect((await copied('s.mov', { ...plain, coding: 'dnxhr-sq', wrapper: 'mxf-atom' })).faults).toEqual([])
    expect(readdirSync(to).sort()).toEqual(['s.mxf', 's.mxf.copy.json', 's_A1.mxf', 's_A2.mxf', 's_A3.mxf', 's_A4.mxf', 's_A5.mxf'])
    expect(await levels(copy('s_A5.mxf'))).toEqual([[5]])
  })
})

describe('a frame that is the right one', () => {
  it.each([
    [256, 144],
    [640, 360],
  ])('is taken for it at the usual quality of the coarsest coding, at %i×%i', async (width, height) => {
    const n = 130
    await made(['-f', 'lavfi', '-i', `testsrc2=s=${width}x${height}:r=60`, '-frames:v', String(n), '-c:v', 'ffv1', '-pix_fmt', 'yuv420p'], 'fine.mkv')
    const report = await copied('fine.mkv', { ...plain, coding: 'hevc-10' })
    const all = Array.from({ length: n }, (_, i) => i)
    const of = (path: string) => samples({ path: Buffer.from(path), sequence: null, rate: rate(60) }, all)
    const [before, after] = [await of(original('fine.mkv')), await of(copy('fine.mov'))]
    expect(report.faults).toEqual([])
    // Any of them may be looked at.
    expect(Math.min(...all.map((i) => likeness(before[i] as Uint8Array, after[i] as Uint8Array)))).toBeGreaterThan(leastLikeness({ width, height }))
  })
})

describe('rewrapping', () => {
  const spec: Spec = { ...plain, coding: 'unchanged' }
  beforeAll(async () => {
    const two = ['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25', ...tones(1, 2), '-f', 'lavfi', '-i', 'anullsrc=r=48000:cl=mono']
    const streams = ['-map', '0', '-map', '1', '-map', '2', '-t', '2', '-c:a', 'pcm_s24le', '-timecode', '09:00:00:00']
    await made([...two, ...streams, '-c:v', 'dnxhd', '-profile:v', 'dnxhr_sq', '-pix_fmt', 'yuv422p'], 'w.mxf')
    await made([...two, ...streams, '-c:v', 'prores', '-pix_fmt', 'yuv422p10le'], 'p.mov')
    await made([...two, ...streams, '-c:v', 'prores', '-pix_fmt', 'yuv422p10le'], 'q.mxf')
    await made([...two, ...streams, '-c:v', 'jpeg2000', '-pix_fmt', 'yuv422p10le'], 'j.mxf')
  })
  it.each([
    ['w.mxf', 'mov'],
    ['q.mxf', 'mov'],
    ['j.mxf', 'mov'],
    ['p.mov', 'mkv'],
    ['p.mov', 'mxf'],
  ] as const)('of %s into %s leaves picture and sound bit for bit the same, with name, timecode and reel written', async (name, wrapper) => {
    const report = await copied(name, { ...spec, wrapper }, { reel: 'W001' })
    expect([report.faults, report.hashes?.length, new Set(report.hashes).size]).toEqual([[], 3, 3])
    const t = await probe(Buffer.from(copy(`${name[0]}.${wrapper}`)), pal)
    expect(t).toMatchObject({ start: 810000, reel: 'W001', frames: 50, width: 320 })
    const hash = async (path: string) =>
      (await output('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:v', '-map', '0:a', '-c', 'copy', '-f', 'streamhash', '-'])).toString()
    expect(await hash(copy(`${name[0]}.${wrapper}`))).toBe(await hash(original(name)))
    expect((await makeCopy(await job(name, { ...spec, wrapper }, { reel: 'W001' }), 'me', 1000)).faults).toEqual([])
  })
  it('takes only the streams in which something is heard, when asked', async () => {
    expect((await copied('p.mov', { ...spec, sound: { ...spec.sound, channels: 'unsilent' } }, { silent: [1] })).hashes).toHaveLength(2)
    expect((await probe(Buffer.from(copy('p.mov')), pal)).sound?.streams).toEqual([1])
  })
})

describe('burn-ins', () => {
  const burnIn = (more: Partial<BurnIn>): BurnIn => ({ what: 'text', text: '', image: null, place: 'bottom', size: 8, opacity: 100, ground: true, ...more })
  const all: BurnIn[] = [
    burnIn({ what: 'timecode' }),
    burnIn({ what: 'name', place: 'top left' }),
    burnIn({ what: 'reel', place: 'top left', ground: false, opacity: 60 }),
    burnIn({ what: 'frame', place: 'top right' }),
    burnIn({ what: 'text', text: `It's 50 %: [draft]; a, b\\c`, place: 'middle', size: 6 }),
  ]
  it('stand in the copy as the preview shows them, to the pixel', async () => {
    const red = join(folder, 'red.png')
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'color=red:s=40x20', '-frames:v', '1', '-update', '1', red])
    const image = (await output('ffmpeg', ['-v', 'error', '-i', red, '-f', 'image2pipe', '-c:v', 'png', '-'])).toString('base64')
    const s: Spec = { ...lossless, burnIns: [...all, burnIn({ what: 'image', image, place: 'bottom right', size: 12, opacity: 70 })] }
    const j = await job('a.mov', s)
    expect((await copied('a.mov', s)).faults).toEqual([])
    for (const frame of [0, 13, 49]) {
      const shown = await preview(j, j.outputs[0] as (typeof j.outputs)[number], frame)
      writeFileSync(join(folder, 'shown.png'), shown)
      const pixels = (args: string[], filter: string) =>
        output('ffmpeg', ['-v', 'error', ...args, '-vf', filter, '-frames:v', '1', '-pix_fmt', 'rgb24', '-f', 'rawvideo', '-'])
      const a = await pixels(['-i', join(folder, 'shown.png')], 'null')
      const b = await pixels(['-i', copy('a.mov')], `select=eq(n\\,${frame}),scale=in_color_matrix=bt601:in_range=tv`)
      expect(a.length).toBe(b.length)
      const off = a.reduce((most, v, i) => Math.max(most, Math.abs(v - (b[i] ?? 0))), 0)
      expect([frame, off <= 1]).toEqual([frame, true])
    }
  })
  it('count as the original does: the picture with its timecode differs from the one without, and from its neighbour only there', async () => {
    const s: Spec = { ...lossless, burnIns: [burnIn({ what: 'timecode', size: 20 })] }
    await made(['-f', 'lavfi', '-i', 'color=gray:s=320x180:r=25', '-frames:v', '10', '-c:v', 'ffv1', '-timecode', '10:00:00:00'], 'grey.mov')
    expect((await copied('grey.mov', s)).faults).toEqual([])
    const at = async (n: number) => (await samples({ path: Buffer.from(copy('grey.mov')), sequence: null, rate: rate(25) }, [n]))[0] as Uint8Array
    expect(likeness(await at(0), await at(1))).toBeLessThan(1)
    expect((await probe(Buffer.from(copy('grey.mov')), pal)).start).toBe(900000)
  })
})

describe('colours', () => {
  it('keep their code values and tags; only where a coding cannot say them they are brought over', async () => {
    const hlg = ['-color_primaries', 'bt2020', '-color_trc', 'arib-std-b67', '-colorspace', 'bt2020nc', '-color_range', 'tv']
    await made(
      ['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25', '-frames:v', '5', '-vf', 'scale=out_color_matrix=bt2020,format=yuv422p10le', '-c:v', 'v210', ...hlg],
      'hlg.mov',
    )
    expect((await copied('hlg.mov', lossless)).faults).toEqual([])
    const t = await probe(Buffer.from(copy('hlg.mov')), pal)
    expect(t.colour).toMatchObject({ primaries: 'bt2020', transfer: 'arib-std-b67', matrix: 'bt2020nc' })
    const codes = async (path: string) => nativeFrame(clipInput(Buffer.from(path), t), 2, t)
    expect(await codes(copy('hlg.mov'))).toEqual(await codes(original('hlg.mov')))
    expect((await copied('hlg.mov', { ...plain, coding: 'mjpeg' })).faults).toEqual([])
    expect((await probe(Buffer.from(copy('hlg.mov')), pal)).colour).toMatchObject({ matrix: 'bt470bg', range: 'pc' })
  })
})
