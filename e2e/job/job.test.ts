/** `./naranja job` on folders of its own: the exit codes, the report, and what it leaves behind. */
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { home } from '@naranja/command/paths'
import { readEdl } from '@naranja/core/edl'
import { execa } from 'execa'
import { beforeAll, describe, expect, it } from 'vitest'
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
async function job(...args: string[]) {
  const report = join(out, `report ${++runs}.json`)
  const end = await execa(join(home, 'naranja'), ['job', ...args, '--report', report], { cwd: out, reject: false })
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
    expect(r.lines.filter((l) => /^[VA]\d\/00\d +certain/.test(l))).toHaveLength(3)
    expect(r.report?.events.map((e) => [e.id, e.state, e.sourceIn, e.sourceOut, e.recordIn, e.recordOut])).toEqual([
      ['good/V1/001', 'certain', 5, 30, 0, 25],
      ['good/V1/002', 'certain', 10, 60, 25, 50],
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

describe('what cannot be used is told, with exit 2', () => {
  it.each([
    ['no folder', ['--originals', '/nowhere/at/all', '--cut', 'good.edl'], /\/nowhere\/at\/all .* is not there/],
    ['no cut list', [...one], /--cut is missing/],
    ['a cut list that is a picture', [...one, '--cut', 'picture.edl'], /picture.edl is a PNG picture, not a cut list/],
    ['a cut list that is not there', [...one, '--cut', 'no.edl'], /no.edl .* is not there/],
    ['an unknown spec', [...one, '--cut', 'good.edl', '--copies', 'best'], /no spec "best"/],
    ['a rate that is none', [...one, '--cut', 'good.edl', '--rate', 'fast'], /"fast" .* is no frame rate/],
    ['a raster that is none', [...one, '--cut', 'good.edl', '--raster', 'big'], /"big" .* is no raster/],
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
