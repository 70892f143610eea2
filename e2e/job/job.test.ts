/** `./naranja job` on folders of its own: the exit codes, the report, and what it leaves behind. */
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { Instance } from '@naranja/command/instance'
import { home } from '@naranja/command/paths'
import { readEdl } from '@naranja/core/edl'
import { ffmpeg } from '@naranja/media'
import { damageFrame } from '@naranja/media/testing'
import { execa } from 'execa'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { emptyFolder, makeClip, rate, readCodes } from '../support.ts'

const folder = emptyFolder('job')
const cards = join(folder, 'cards')
const out = join(folder, 'out')

const Report = z.object({
  format: z.literal(1),
  events: z.array(
    z.object({
      id: z.string(),
      number: z.string(),
      track: z.string(),
      state: z.string(),
      away: z.boolean(),
      original: z.string().nullable(),
      sourceIn: z.number().nullable(),
      sourceOut: z.number().nullable(),
      recordIn: z.number(),
      recordOut: z.number(),
      candidates: z.array(z.object({ path: z.string() })),
      reason: z.string(),
    }),
  ),
  problems: z.array(z.object({ file: z.string(), line: z.number(), message: z.string() })),
  clips: z.array(
    z.object({
      path: z.string(),
      frames: z.number(),
      rate: z.string(),
      timecode: z.string().nullable(),
      reel: z.string().nullable(),
      notices: z.array(z.string()),
    }),
  ),
  copies: z.array(z.object({ path: z.string(), original: z.string(), spec: z.string(), checked: z.boolean() })),
  master: z
    .object({ path: z.string(), frames: z.number(), verified: z.boolean(), checks: z.array(z.object({ code: z.string(), passed: z.boolean() })) })
    .nullable(),
})

let runs = 0
/** Where a running application is found; none at first, so that jobs start and end their own. */
let env: Record<string, string> = {}
let running: Instance | null = null
/** Starts an application that the jobs from here on find: what they do is the same, and soon done. */
async function keepRunning(): Promise<void> {
  const data = emptyFolder('job data')
  running ??= new Instance('own', { roots: [], parents: [], folder: join(data, 'own') })
  await running.start()
  env = { NARANJA_DATA: data }
}
afterAll(() => running?.stop())

async function job(...args: string[]) {
  const report = join(out, `report ${++runs}.json`)
  const end = await execa(join(home, 'naranja'), ['job', ...args, '--report', report], { cwd: out, env, reject: false })
  return {
    code: end.exitCode,
    said: end.stderr,
    lines: end.stdout.split('\n'),
    report: existsSync(report) ? Report.parse(JSON.parse(readFileSync(report, 'utf8'))) : null,
  }
}

const line = (n: number, reel: string, si: string, so: string, ri: string, ro: string, name: string, channel = 'V') =>
  `00${n}  ${reel.padEnd(8)} ${channel.padEnd(5)} C        ${si} ${so} ${ri} ${ro}\n* FROM CLIP NAME: ${name}\n`
const good = `TITLE: X\n${line(1, 'A001', '10:00:00:05', '10:00:01:05', '01:00:00:00', '01:00:01:00', 'A001C001_SF.mov')}${line(2, 'H001', '12:00:00:05', '12:00:01:05', '01:00:01:00', '01:00:02:00', 'H001C001_SF.mov')}`
const unclear = `${good}${line(3, 'AX', '00:00:00:10', '00:00:00:20', '01:00:02:00', '01:00:02:10', 'CLIP0001.mov')}`

beforeAll(async () => {
  mkdirSync(out, { recursive: true })
  await makeClip(join(cards, 'one', 'A001', 'A001C001_SF.mov'), { code: 1, frames: 50, timecode: '10:00:00:00', tone: 440 })
  await makeClip(join(cards, 'one', 'H001', 'H001C001_SF.mov'), { code: 2, frames: 80, rate: rate(50), timecode: '12:00:00:00' })
  await makeClip(join(cards, 'two', 'deck 1', 'CLIP0001.mov'), { code: 3, frames: 40 })
  await makeClip(join(cards, 'two', 'deck 2', 'CLIP0001.mov'), { code: 4, frames: 40 })
  writeFileSync(join(folder, 'good.edl'), good)
  writeFileSync(join(folder, 'unclear.edl'), unclear)
  writeFileSync(join(folder, 'sound.edl'), line(1, 'A001', '10:00:00:05', '10:00:01:05', '01:00:00:00', '01:00:01:00', 'A001C001_SF.mov', 'A'))
  writeFileSync(join(folder, 'picture.edl'), Buffer.from('89504e470d0a1a0a0000000d49484452', 'hex'))
})

const one = ['--originals', join(cards, 'one')]
const both = [...one, '--originals', join(cards, 'two')]

describe('a job', () => {
  it('is done and verified: exit 0, copies, pulls with lists, and a master that is right in every frame', async () => {
    const r = await job(
      ...one,
      '--cut',
      join(folder, 'good.edl'),
      '--cut',
      join(folder, 'sound.edl'),
      '--copies',
      'h264-proxy-720',
      '--copies-to',
      join(out, 'copies'),
      '--pulls',
      join(out, 'pulls'),
      '--handles',
      '3',
      '--master',
      join(out, 'master.mov'),
      '--raster',
      '640x360',
    )
    expect([r.code, r.said]).toEqual([0, expect.stringContaining('it is what the cut says')])
    expect(r.lines.filter((l) => /^[VA]\d\/00\d +(certain|likely)/.test(l))).toHaveLength(3)
    expect(r.report?.events.map((e) => [e.id, e.state, e.sourceIn, e.sourceOut, e.recordIn, e.recordOut])).toEqual([
      ['good/V1/001', 'certain', 5, 30, 0, 25],
      // Shot at 50: its timecode could be counted so, or as the list counts.
      ['good/V1/002', 'likely', 10, 60, 25, 50],
      ['good/A1/001', 'certain', 5, 30, 0, 25],
    ])
    expect(r.report?.events[0]?.original).toBe(join(cards, 'one', 'A001', 'A001C001_SF.mov'))
    expect(r.report?.clips.map((c) => [c.rate, c.timecode, c.reel])).toEqual([
      ['25', '10:00:00:00', 'A001'],
      ['50', '12:00:00:00', 'H001'],
    ])
    expect(r.report?.copies.every((c) => c.checked && existsSync(c.path))).toBe(true)
    expect(r.report?.master).toMatchObject({ frames: 50, verified: true })
    const codes = await readCodes(join(out, 'master.mov'), { width: 640, height: 360 }, [{ width: 640, height: 360 }])
    expect(codes).toEqual(Array.from({ length: 50 }, (_, f) => (f < 25 ? { clip: 1, frame: 5 + f } : { clip: 2, frame: 10 + (f - 25) * 2 })))
    const list = readEdl(readFileSync(join(out, 'pulls', 'good.edl'), 'utf8'), { rate: rate(25), file: 'x' })
    expect(list.value.events.map((e) => e.sourceFile && existsSync(e.sourceFile))).toEqual([true, true, true])
    expect(readdirSync(join(home, '.naranja')).filter((f) => f.startsWith('job-'))).toEqual([])
  })

  it('with an open event renders no master, makes the copies all the same, and lists the candidates: exit 3', async () => {
    const r = await job(
      ...both,
      '--cut',
      join(folder, 'unclear.edl'),
      '--rate',
      '25',
      '--copies',
      'prores-proxy-1080',
      '--copies-to',
      join(out, 'copies 3'),
      '--master',
      join(out, 'never.mov'),
    )
    expect(r.code).toBe(3)
    expect(existsSync(join(out, 'never.mov'))).toBe(false)
    expect(r.report?.copies.filter((c) => c.checked)).toHaveLength(4)
    const open = r.report?.events.find((e) => e.number === '003')
    expect(open?.state).toBe('several')
    expect(open?.candidates.map((c) => c.path).sort()).toEqual([join(cards, 'two', 'deck 1', 'CLIP0001.mov'), join(cards, 'two', 'deck 2', 'CLIP0001.mov')])
  })

  it('takes a choice by --set', async () => {
    const r = await job(
      ...both,
      '--cut',
      join(folder, 'unclear.edl'),
      '--rate',
      '25',
      '--set',
      '3=deck 2/CLIP0001.mov',
      '--raster',
      '320x180',
      '--master',
      join(out, 'set.mov'),
    )
    expect([r.code, r.report?.events[2]?.state, r.report?.events[2]?.original]).toEqual([0, 'set-by-hand', join(cards, 'two', 'deck 2', 'CLIP0001.mov')])
    const codes = await readCodes(join(out, 'set.mov'), { width: 320, height: 180 }, [{ width: 320, height: 180 }])
    expect(codes.slice(50)).toEqual(Array.from({ length: 10 }, (_, i) => ({ clip: 4, frame: 10 + i })))
  })
})

describe('awkward material', () => {
  beforeAll(keepRunning)
  const prores = ['-c:v', 'prores', '-profile:v', '1', '-pix_fmt', 'yuv422p10le']
  it('of drop-frame rates, with names that shells and filters trip over, comes out right in every frame', async () => {
    const odd = join(folder, "it's 100% odd")
    const at = (...path: string[]) => join(odd, 'cards', ...path)
    await makeClip(at('N001', 'N001C001_XY.mov'), { code: 1, frames: 100, rate: rate(30000, 1001), timecode: '01:00:58;00', coding: prores, tone: 300 })
    const hevc = ['-c:v', 'libx265', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-x265-params', 'log-level=error']
    await makeClip(at('N002', 'N002C001_XY.mp4'), { code: 2, frames: 200, rate: rate(60000, 1001), timecode: '02:00:00;00', coding: hevc })
    await makeClip(at('N003', 'Ünïcode & Co #1.mkv'), { code: 3, frames: 100, rate: rate(24000, 1001) })
    const drop = `TITLE: NTSC
FCM: DROP FRAME
001  N001     B     C        01:00:59;20 01:01:00;12 10:00:00;00 10:00:00;20
* FROM CLIP NAME: N001C001_XY.mov
002  N002     V     C        02:00:00;10 02:00:01;10 10:00:00;20 10:00:01;20
* FROM CLIP NAME: N002C001_XY.MP4
003  AX       V     C        00:00:01:00 00:00:02:00 10:00:01;20 10:00:02;20
* FROM CLIP NAME: Ünïcode & Co #1.mkv
`
    writeFileSync(join(odd, 'drop.edl'), drop)
    const r = await job(
      // One folder lies inside the other: its clips are there once.
      ...['--originals', at(), '--originals', at('N001'), '--cut', join(odd, 'drop.edl'), '--rate', '29.97', '--raster', '320x180'],
      ...['--copies', 'h264-proxy-720', '--copies-to', join(odd, 'copies'), '--pulls', join(odd, 'pulls'), '--master', join(odd, 'out', 'm.mov')],
    )
    expect([r.code, r.said]).toEqual([0, expect.stringContaining('it is what the cut says')])
    expect(r.report?.clips.map((c) => [c.path, c.timecode, c.reel])).toEqual([
      [at('N001', 'N001C001_XY.mov'), '01:00:58;00', 'N001'],
      [at('N002', 'N002C001_XY.mp4'), '02:00:00;00', 'N002'],
      [at('N003', 'Ünïcode & Co #1.mkv'), null, 'N003'],
    ])
    expect(r.report?.copies.map((c) => c.checked)).toEqual([true, true, true])
    const size = { width: 320, height: 180 }
    // 01:00:59;20 to 01:01:00;12 skips two labels and no frame.
    expect(await readCodes(join(odd, 'out', 'm.mov'), size, [size])).toEqual([
      ...Array.from({ length: 20 }, (_, i) => ({ clip: 1, frame: 50 + i })),
      ...Array.from({ length: 30 }, (_, i) => ({ clip: 2, frame: 20 + 2 * i })),
      ...Array.from({ length: 30 }, (_, i) => ({ clip: 3, frame: 24 + Math.floor((i * 4) / 5) })),
    ])
  })
  it('of other speeds, backwards, frozen and with a wipe is what the list says', async () => {
    const fast = join(folder, 'speed')
    await makeClip(join(fast, 'A001', 'A001C001_XY.mov'), { code: 1, frames: 200, timecode: '10:00:00:00' })
    const name = '* FROM CLIP NAME: A001C001_XY.mov\n'
    const row = (n: number, code: string, si: string, so: string, ri: string, ro: string, m2 = '') =>
      `00${n}  A001     V     ${code.padEnd(8)} ${si} ${so} ${ri} ${ro}\n${m2 ? `M2   A001       ${m2}      ${si}\n` : ''}${name}`
    writeFileSync(
      join(folder, 'speed.edl'),
      row(1, 'C', '10:00:01:00', '10:00:02:00', '00:00:00:00', '00:00:01:00', '050.0') +
        row(2, 'C', '10:00:04:00', '10:00:05:00', '00:00:01:00', '00:00:02:00', '-025.0') +
        row(3, 'C', '10:00:05:00', '10:00:05:10', '00:00:02:00', '00:00:02:10', '000.0') +
        row(4, 'W001 010', '10:00:06:00', '10:00:07:00', '00:00:02:10', '00:00:03:10'),
    )
    const r = await job('--originals', fast, '--cut', join(folder, 'speed.edl'), '--raster', '320x180', '--master', join(out, 'speed.mov'))
    expect([r.code, r.report?.master?.verified]).toEqual([0, true])
    // Who asks for no copies gets no folder for them.
    expect(readdirSync(out)).not.toContain('Edit copies')
    expect(r.report?.problems.map((p) => [p.line, p.message])).toEqual([[10, 'The wipe W001 is kept and rendered as a dissolve.']])
    const size = { width: 320, height: 180 }
    const frames = (await readCodes(join(out, 'speed.mov'), size, [size])).map((c) => c?.frame)
    expect(frames.slice(0, 60)).toEqual([
      ...Array.from({ length: 25 }, (_, i) => 25 + 2 * i),
      ...Array.from({ length: 25 }, (_, i) => 124 - i),
      ...Array.from({ length: 10 }, () => 125),
    ])
    expect(frames.slice(70)).toEqual(Array.from({ length: 15 }, (_, i) => 160 + i))
  })
  it('of films in frames and of tape wrappers is found by reel and timecode', async () => {
    const lab = join(folder, 'lab')
    const film = await makeClip(join(folder, 'film.mov'), { code: 5, frames: 40 })
    mkdirSync(join(lab, 'Z001'), { recursive: true })
    await ffmpeg(['-y', '-i', film.path, '-start_number', '86400', '-pix_fmt', 'gbrp10be', join(lab, 'Z001', 'Z001C001_%07d.dpx')])
    const dnxhd = ['-c:v', 'dnxhd', '-b:v', '120M', '-pix_fmt', 'yuv422p', '-metadata', 'reel_name=B001_TEST_LONG']
    await makeClip(join(lab, 'B001', 'B001C001.mxf'), { code: 6, frames: 50, timecode: '05:00:00:00', size: { width: 1920, height: 1080 }, coding: dnxhd })
    writeFileSync(
      join(folder, 'lab.edl'),
      line(1, 'Z001', '00:00:00:10', '00:00:01:10', '01:00:00:00', '01:00:01:00', 'Z001C001') +
        line(2, 'B001_TES', '05:00:00:10', '05:00:01:10', '01:00:01:00', '01:00:02:00', 'B001C001.new.01'),
    )
    const r = await job('--originals', lab, '--cut', join(folder, 'lab.edl'), '--rate', '25', '--raster', '640x360', '--master', join(out, 'lab.mov'))
    expect([r.code, r.report?.events.map((e) => [e.state, e.sourceIn, e.sourceOut])]).toEqual([
      0,
      [
        ['certain', 10, 35],
        ['likely', 10, 35],
      ],
    ])
    const size = { width: 640, height: 360 }
    expect(await readCodes(join(out, 'lab.mov'), size, [size])).toEqual([
      ...Array.from({ length: 25 }, (_, i) => ({ clip: 5, frame: 10 + i })),
      ...Array.from({ length: 25 }, (_, i) => ({ clip: 6, frame: 10 + i })),
    ])
  })
})

describe('a master that is not what the cut says: exit 4', () => {
  const worn = join(folder, 'worn')
  const list = (name: string) => {
    const path = join(folder, `${name}.edl`)
    writeFileSync(path, line(1, 'W001', '10:00:00:10', '10:00:02:10', '01:00:00:00', '01:00:02:00', 'W001C001_SF.mov'))
    return path
  }
  it('comes out right where the original leaves frames out: what is shown at a time is one thing, however it is found', async () => {
    const even = await makeClip(join(folder, 'even.mov'), { code: 9, frames: 120 })
    const uneven = join(worn, 'uneven', 'W001', 'W001C001_SF.mov')
    mkdirSync(dirname(uneven), { recursive: true })
    const leaves = ['-vf', "select='not(eq(mod(n,6),3))'", '-fps_mode', 'vfr']
    await ffmpeg(['-y', '-i', even.path, ...leaves, '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-timecode', '10:00:00:00', uneven])
    const r = await job(
      '--originals',
      join(worn, 'uneven'),
      '--cut',
      list('uneven'),
      '--rate',
      '25',
      '--raster',
      '320x180',
      '--master',
      join(out, 'uneven.mov'),
    )
    expect(r.code).toBe(0)
    const kept = Array.from({ length: 120 }, (_, n) => n).filter((n) => n % 6 !== 3)
    const raster = { width: 320, height: 180 }
    const shown = Array.from({ length: 50 }, (_, k) => ({ clip: 9, frame: kept.filter((n) => n <= 10 + k).at(-1) }))
    expect(await readCodes(join(out, 'uneven.mov'), raster, [raster])).toEqual(shown)
  })
  it('is not rendered from an original that is damaged where the cut uses it; the file is named, and its copy fails too', async () => {
    const path = join(worn, 'damaged', 'W001', 'W001C001_SF.mov')
    await makeClip(path, { code: 8, frames: 100, timecode: '10:00:00:00', coding: ['-c:v', 'prores', '-profile:v', '1', '-pix_fmt', 'yuv422p10le'] })
    await damageFrame(path, 30)
    const r = await job(
      ...['--originals', join(worn, 'damaged'), '--cut', list('damaged'), '--raster', '320x180'],
      ...['--copies', 'h264-proxy-720', '--copies-to', join(out, 'worn copies'), '--master', join(out, 'damaged.mov')],
    )
    expect([r.code, r.said]).toEqual([4, expect.stringContaining(`${path} is damaged: a frame of it cannot be decoded`)])
    expect(r.report?.copies.map((c) => c.checked)).toEqual([false])
    expect(r.report?.master).toMatchObject({ frames: 0, verified: false, checks: [{ code: 'rendered', passed: false }] })
    const files = readdirSync(out, { recursive: true, withFileTypes: true }).filter((f) => f.isFile())
    expect(files.filter((f) => /damaged|\.part/.test(join(f.parentPath, f.name)))).toEqual([])
  })
})

describe('what cannot be used is told, with exit 2', () => {
  it.each([
    ['no folder', ['--originals', '/nowhere/at/all', '--cut', 'good.edl'], /\/nowhere\/at\/all .* is not there/],
    ['no cut list', [...one], /--cut is missing/],
    ['a cut list that is a picture', [...one, '--cut', 'picture.edl'], /picture.edl is a PNG picture, not a cut list/],
    ['a cut list that is not there', [...one, '--cut', 'no.edl'], /no.edl .* is not there/],
    ['an unknown spec', [...one, '--cut', 'good.edl', '--copies', 'best'], /no spec "best"/],
    ['a rate that is none', [...one, '--cut', 'good.edl', '--rate', 'fast'], /"fast" .* is not a frame rate/],
    ['a raster that is none', [...one, '--cut', 'good.edl', '--raster', 'big'], /"big" .* is not a raster/],
    ['an option nobody knows', [...one, '--cut', 'good.edl', '--frobnicate'], /frobnicate/],
    ['an event the cut has not', [...one, '--cut', 'good.edl', '--set', '77=x.mov'], /the cut has no event 77/],
    ['a path that is no original', [...one, '--cut', 'good.edl', '--set', '1=x.mov'], /x.mov is not among the originals/],
    ['a path that could be two', [...both, '--cut', 'good.edl', '--set', '1=CLIP0001.mov'], /could be .*deck 1.* or .*deck 2/],
    [
      'an event that could be two',
      [...one, '--cut', 'good.edl', '--cut', 'sound.edl', '--set', '1=A001C001_SF.mov'],
      /could be good\/V1\/001 or good\/A1\/001/,
    ],
    ['a master that stands there', [...one, '--cut', 'good.edl', '--master', 'set.mov'], /never overwrites/],
  ])('%s', async (_what, args, sentence) => {
    const r = await job(...args.map((a) => (/\.edl$/.test(a) ? join(folder, a) : a === 'set.mov' ? join(out, 'set.mov') : a)))
    expect(r.said).toMatch(sentence)
    expect(r.code).toBe(2)
  })
})
