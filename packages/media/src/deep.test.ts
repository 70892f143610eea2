/** Pixel values are those that the file holds, to the code. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { codesToRgb, waveform } from '@naranja/core/look'
import { rate } from '@naranja/core/time'
import { afterAll, describe, expect, it } from 'vitest'
import { codesAt, ffmpeg, nativeFrame, probe, sparse } from './index.ts'

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
  })
})

describe('a frame in red, green and blue', () => {
  it('has codes of 16 bits', async () => {
    const path = join(folder, 'rgb_001.png')
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'color=c=#ff8000:s=64x48:r=25,format=gbrp', '-frames:v', '3', '-pix_fmt', 'rgb24', join(folder, 'rgb_%03d.png')])
    const sequence = { base: 'rgb_', ext: 'png', digits: 3, first: 1, last: 3, missing: [] }
    const t = await probe(Buffer.from(path), { projectRate: rate(25), sequence })
    const f = await nativeFrame({ path: Buffer.from(path), sequence, rate: t.rate }, 2, t)
    const codes = codesAt(f, 10, 10)
    expect(codes.map((c) => Math.round(c / 257))).toEqual([255, 128, 0])
    expect(codesToRgb(codes, f)[0]).toBe(1)
  })
})

describe('scopes', () => {
  it('are read from the codes', async () => {
    const path = await ramp('scope.mkv', 'yuv420p', '16+219*gte(X,128)')
    const t = await probe(path, { projectRate: rate(25) })
    const deep = sparse(await nativeFrame({ path, sequence: null, rate: t.rate }, 0, t), 64)
    const w = waveform(deep, 2, 'luma')
    expect([w.counts[0], w.counts[1], w.counts.at(-2), w.counts.at(-1)].map((c) => (c ?? 0) > 0)).toEqual([true, false, false, true])
  })
})
