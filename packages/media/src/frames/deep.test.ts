/** Pixel values are those that the file holds, to the code. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { codesToRgb, type Rgb, waveform } from '@naranja/core/look'
import { rate } from '@naranja/core/time'
import { afterAll, describe, expect, it } from 'vitest'
import { asRgb, codesAt, nativeFrame } from './deep.ts'
import { ffmpeg } from '../ffmpeg/run.ts'
import { probe } from '../probe/probe.ts'

const folder = mkdtempSync(join(tmpdir(), "it's deep "))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** A losslessly coded picture whose luma rises by a code with every pixel, from `from` on. */
async function ramp(name: string, format: string, expr: string): Promise<Buffer> {
  const path = join(folder, name)
  const chroma = /10/.test(format) ? 512 : 128
  await ffmpeg([
    '-y',
    '-f',
    'lavfi',
    '-i',
    `nullsrc=s=256x32:r=25,format=${format},geq=lum='${expr}':cb=${chroma}:cr=${chroma}`,
    '-frames:v',
    '3',
    '-c:v',
    'ffv1',
    path,
  ])
  return Buffer.from(path)
}

describe.each([
  ['eight.mkv', 'yuv420p', 'mod(X,220)+16', (x: number) => (x % 220) + 16, 8],
  ['ten.mkv', 'yuv422p10le', 'X+300+N', (x: number) => x + 301, 10],
  ['four.mkv', 'yuv444p10le', 'X+300+N', (x: number) => x + 301, 10],
])('a frame of %s', (name, format, expr, wanted, depth) => {
  it('has the codes that were written', async () => {
    const path = await ramp(name, format, expr)
    const t = await probe(path, { projectRate: rate(25) })
    const f = await nativeFrame({ path, sequence: null, rate: t.rate }, 1, t)
    expect([f.width, f.height, f.depth, f.kind]).toEqual([256, 32, depth, 'ycbcr'])
    for (const x of [0, 1, 17, 128, 199, 255]) expect(codesAt(f, x, 20), `at ${x}`).toEqual([wanted(x), 2 ** (depth - 1), 2 ** (depth - 1)])
    // A part of it, from an odd place on, is the same pixels.
    const part = await nativeFrame({ path, sequence: null, rate: t.rate }, 1, t, { part: { x: 101, y: 7, width: 33, height: 9 } })
    expect([part.width, part.height]).toEqual([33, 9])
    for (let x = 0; x < 33; x++) expect(codesAt(part, x, x % 9)).toEqual(codesAt(f, 101 + x, 7 + (x % 9)))
    // And one of every four in both directions are pixels that stand there, to the code.
    const some = await nativeFrame({ path, sequence: null, rate: t.rate }, 1, t, { step: 4 })
    expect([some.width, some.height]).toEqual([64, 8])
    for (let x = 0; x < 64; x++) {
      const near = [0, 1, 2, 3].map((k) => wanted(4 * x + k))
      expect(near, `at ${x}`).toContain(codesAt(some, x, 3)[0])
      expect(codesAt(some, x, 3).slice(1)).toEqual([2 ** (depth - 1), 2 ** (depth - 1)])
    }
  })
})

describe.each([8, 10, 12, 16])('a grey frame of %i bits', (depth) => {
  it('has the codes that were written, black to white', async () => {
    const form = depth === 8 ? 'gray' : `gray${depth}le`
    const most = 2 ** depth - 1
    const path = join(folder, `grey ${depth}.mkv`)
    const source = `nullsrc=s=256x32:r=25,format=${form},geq=lum='floor(X*${most}/255)'`
    await ffmpeg(['-y', '-f', 'lavfi', '-i', source, '-frames:v', '3', '-c:v', 'ffv1', path])
    const file = Buffer.from(path)
    const t = await probe(file, { projectRate: rate(25) })
    expect([t.depth, t.chroma]).toEqual([depth, 'grey'])
    const f = await nativeFrame({ path: file, sequence: null, rate: t.rate }, 1, t)
    const middle = 2 ** (depth - 1)
    for (const x of [0, 1, 17, 128, 199, 255]) expect(codesAt(f, x, 20), `at ${x}`).toEqual([Math.floor((x * most) / 255), middle, middle])
    const { rgb } = asRgb(f)
    for (const [x, wanted] of [
      [0, 0],
      [255, 65_535],
    ] as const)
      for (let c = 0; c < 3; c++) expect(rgb[(20 * 256 + x) * 3 + c]).toBe(wanted)
  })
})

describe('a frame in red, green and blue', () => {
  const frameOf = async (ext: string, format: string) => {
    const base = `${format}_`
    const source = `nullsrc=s=64x48:r=25,format=gbrp${ext === 'dpx' ? '10' : ''},geq=r='X*${ext === 'dpx' ? 16 : 4}':g='Y*5':b='${ext === 'dpx' ? 1023 : 255}'`
    await ffmpeg(['-y', '-f', 'lavfi', '-i', source, '-frames:v', '3', '-pix_fmt', format, join(folder, `${base}%03d.${ext}`)])
    const sequence = { base, ext, digits: 3, first: 1, last: 3, missing: [] }
    const path = Buffer.from(join(folder, `${base}001.${ext}`))
    const t = await probe(path, { projectRate: rate(25), sequence })
    return nativeFrame({ path, sequence, rate: t.rate }, 2, t)
  }
  it('of 8 bits has the codes that were written', async () => {
    const f = await frameOf('png', 'rgb24')
    expect([f.kind, f.depth]).toEqual(['rgb', 8])
    for (const [x, y] of [
      [0, 0],
      [63, 47],
      [31, 9],
    ] as const)
      expect(codesAt(f, x, y)).toEqual([x * 4, y * 5, 255])
    expect(codesToRgb(codesAt(f, 0, 0), f)).toEqual([0, 0, 1])
  })
  it('of 10 bits likewise', async () => {
    const f = await frameOf('dpx', 'gbrp10be')
    expect([f.kind, f.depth]).toEqual(['rgb', 10])
    for (const [x, y] of [
      [0, 0],
      [63, 47],
      [31, 9],
    ] as const)
      expect(codesAt(f, x, y)).toEqual([x * 16, y * 5, 1023])
  })
})

describe('scopes', () => {
  it('are read from the codes', async () => {
    const path = await ramp('scope.mkv', 'yuv420p', '16+219*gte(X,128)')
    const t = await probe(path, { projectRate: rate(25) })
    const deep = asRgb(await nativeFrame({ path, sequence: null, rate: t.rate }, 0, t, { step: 4 }))
    const w = waveform(deep, 2, 'luma')
    expect([w.counts[0], w.counts[1], w.counts.at(-2), w.counts.at(-1)].map((c) => (c ?? 0) > 0)).toEqual([true, false, false, true])
  })
})

it.each([
  ['ycbcr', 'bt709', 10, false],
  ['ycbcr', 'smpte170m', 8, true],
  ['ycbcr', 'bt2020nc', 12, false],
  ['rgb', '', 16, true],
] as const)('codes of %s %s with %i bits come to the same red, green and blue all at once as pixel by pixel', (kind, matrix, depth, full) => {
  const [width, height] = [61, 7]
  const planes = Uint16Array.from({ length: width * height * 3 }, (_, i) => (i * 7919) % 2 ** depth)
  const f = { kind, matrix, depth, full, width, height, planes }
  const one = (i: number) => codesToRgb([0, 1, 2].map((c) => planes[c * width * height + i] as number) as unknown as Rgb, f)
  const each = Array.from({ length: width * height }, (_, i) => one(i)).flat()
  expect(asRgb(f).rgb).toEqual(Uint16Array.from(each, (v) => Math.round(65_535 * Math.max(0, Math.min(1, v)))))
})
