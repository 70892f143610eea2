/** Colours of copies: each coding says what it can, leaves out what it cannot, and shows what its original shows. */
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { seenMatrix } from '@naranja/core/clip'
import { type CodingCode, plainSpec, type Spec, type WrapperCode } from '@naranja/core/specs'
import { rate } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Colour } from '../ffmpeg/filters.ts'
import { colourOf } from './args.ts'
import { detail, stills } from '../frames/frames.ts'
import { ffmpeg, output } from '../ffmpeg/run.ts'
import { makeCopy } from './make.ts'
import { probe } from '../probe/probe.ts'
import { mediainfo } from '../mediainfo.testing.ts'
import { copyJobOf } from '../testing.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja colours '))
afterAll(() => rmSync(folder, { recursive: true }))
const pal = { projectRate: rate(25) }
const plain: Spec = {
  ...plainSpec,
  code: 'x',
  name: 'x',
  purpose: '',
  kind: 'intermediate',
  coding: 'prores-hq',
  check: 'six-frames',
  sound: { ...plainSpec.sound, channels: 'none' },
}
const original = (name: string) => join(folder, 'originals', name)

/** A picture whose colours are far apart, tagged as asked. */
async function made(name: string, size: string, tags: Partial<Colour>, coding: readonly string[], pixels = 'yuv422p10le'): Promise<void> {
  const { primaries = 'unknown', transfer = 'unknown', matrix = 'unknown', range = 'unknown' } = tags
  const params = `setparams=color_primaries=${primaries}:color_trc=${transfer}:colorspace=${matrix}:range=${range}`
  await ffmpeg([
    '-y',
    '-f',
    'lavfi',
    '-i',
    `testsrc2=s=${size}:r=25`,
    '-frames:v',
    '3',
    '-vf',
    `gblur=sigma=8,format=${pixels},${params}`,
    ...coding,
    original(name),
  ])
}
const ffv1 = ['-c:v', 'ffv1', '-level', '3']

beforeAll(() => void mkdirSync(join(folder, 'originals')))

const ways: readonly (readonly [CodingCode, WrapperCode])[] = [
  ['prores-hq', 'mov'],
  ['prores-hq', 'mkv'],
  ['dnxhr-hqx', 'mov'],
  ['dnxhr-hqx', 'mxf'],
  ['h264', 'mov'],
  ['h264', 'mp4'],
  ['hevc-10', 'mov'],
  ['ffv1', 'mkv'],
  ['ffv1', 'mov'],
  ['v210', 'mov'],
  ['cfhd', 'mov'],
  ['mjpeg', 'mov'],
]
const tagged: readonly (readonly [string, Partial<Colour>])[] = [
  ['BT.709', { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'tv' }],
  ['625 lines', { primaries: 'bt470bg', transfer: 'smpte170m', matrix: 'bt470bg', range: 'tv' }],
  ['HLG', { primaries: 'bt2020', transfer: 'arib-std-b67', matrix: 'bt2020nc', range: 'tv' }],
  ['odd ones', { primaries: 'film', transfer: 'iec61966-2-1', matrix: 'fcc', range: 'tv' }],
  ['a matrix alone', { matrix: 'bt470bg' }],
  ['nothing', {}],
]

describe.each(ways)('a copy in %s, %s', (coding, wrapper) => {
  it.each(tagged)('of an original tagged with %s says what its check promises, and no tag that is another', async (name, tags) => {
    const file = `${coding} ${wrapper} ${name}.mkv`
    await made(file, '256x144', tags, ffv1)
    for (const written of ['kept', 'written'] as const) {
      const spec: Spec = { ...plain, coding, wrapper, tags: written }
      const to = join(folder, written)
      const job = await copyJobOf(original(file), [spec], to)
      const o = job.outputs[0]
      if (!o) throw new Error('no output')
      expect((await makeCopy(job, 'me', 1000)).faults).toEqual([])
      const { tags: promised } = colourOf(job, o)
      const said = (await probe(Buffer.from(o.target), pal)).colour
      for (const [tag, was] of Object.entries(tags))
        if (tag !== 'range')
          expect([was, promised[tag as keyof Colour], 'unknown'], `${tag} of ${name}`).toContain(
            said[tag as keyof Colour] === promised[tag as keyof Colour] ? said[tag as keyof Colour] : 'another',
          )
      if (written === 'written') expect(promised.matrix).not.toBe('unknown')
    }
  })
})

/** Pixels of a frame as they are shown, small and as a detail. */
async function shown(path: string, frame: number, matrix: string): Promise<Uint8Array[]> {
  const t = await probe(Buffer.from(path), pal)
  const input = { path: Buffer.from(path), sequence: null, rate: rate(25), reading: t.reading }
  const grey = async (picture: Buffer) => {
    const file = join(folder, `shown ${Math.random()}`)
    await import('node:fs/promises').then((f) => f.writeFile(file, picture))
    return new Uint8Array(
      await output('ffmpeg', ['-v', 'error', '-i', `file:${file}`, '-vf', 'scale=32:18:flags=area', '-pix_fmt', 'rgb24', '-f', 'rawvideo', '-']),
    )
  }
  let jpeg: Buffer = Buffer.alloc(0)
  await stills(input, frame, 1, { width: t.width, matrix }, (_, j) => {
    jpeg = j
  })
  const part = { x: 0, y: 0, width: t.width, height: t.height }
  const png = await detail(input, frame, { part, pixelAspect: 1, matrix, most: t.width, layout: null })
  return [await grey(jpeg), await grey(png)]
}

describe('untagged footage', () => {
  const sources: readonly (readonly [string, string, readonly string[], string])[] = [
    ['h264.mp4', '1280x720', ['-c:v', 'libx264', '-qp', '1'], 'yuv420p'],
    ['h264 small.mp4', '640x360', ['-c:v', 'libx264', '-qp', '1'], 'yuv420p'],
    ['prores.mov', '1280x720', ['-c:v', 'prores', '-profile:v', '3'], 'yuv422p10le'],
    ['prores small.mov', '720x576', ['-c:v', 'prores', '-profile:v', '3'], 'yuv422p10le'],
    ['dnxhr.mov', '1280x720', ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx'], 'yuv422p10le'],
    ['mjpeg.mov', '1280x720', ['-c:v', 'mjpeg', '-q:v', '1', '-qmin', '1'], 'yuvj422p'],
    ['rgb.mov', '1280x720', ['-c:v', 'png'], 'rgb24'],
    ['grey.mov', '1280x720', ['-c:v', 'png'], 'gray'],
    ['grey 12.mkv', '1280x720', ['-c:v', 'ffv1'], 'gray12le'],
  ]
  const copies: readonly (readonly [CodingCode, WrapperCode])[] = [
    ['prores-hq', 'mov'],
    ['dnxhr-hqx', 'mov'],
    ['h264', 'mp4'],
    ['mjpeg', 'mov'],
    ['png-8', 'mov'],
  ]
  it.each(sources)('in %s at %s and its copies are shown alike, within one code value', async (name, size, coding, pixels) => {
    await made(name, size, {}, coding, pixels)
    const t = await probe(Buffer.from(original(name)), pal)
    const own = await shown(original(name), 1, seenMatrix(t))
    for (const [code, wrapper] of copies) {
      const quality = code === 'h264' ? 4 : code === 'mjpeg' ? 1 : null
      const job = await copyJobOf(original(name), [{ ...plain, coding: code, wrapper, quality }], join(folder, `alike ${code}`))
      const o = job.outputs[0]
      if (!o) throw new Error('no output')
      expect((await makeCopy(job, 'me', 1000)).faults, code).toEqual([])
      const copy = await shown(o.target, 1, colourOf(job, o).values.matrix)
      for (const [i, picture] of own.entries()) {
        // What the viewer's own coding and chroma of less samples add is the same noise for all: the mean of each field of the picture is compared.
        const off = picture.map((v, k) => Math.abs(v - (copy[i]?.[k] ?? 999)))
        const mean = off.reduce((a, b) => a + b, 0) / off.length
        expect(mean, `${name} as ${code}, ${i === 0 ? 'still' : 'detail'}`).toBeLessThanOrEqual(1)
      }
    }
  })
  it('stays untagged in its copies, as another reader says too, or is tagged as it is read', async () => {
    await made('plain.mp4', '1280x720', {}, ['-c:v', 'libx264'], 'yuv420p')
    for (const tags of ['kept', 'written'] as const) {
      const job = await copyJobOf(original('plain.mp4'), [{ ...plain, tags }], join(folder, `tags ${tags}`))
      await makeCopy(job, 'me', 1000)
      const { Video: v } = await mediainfo(job.outputs[0]?.target ?? '')
      expect([v?.colour_primaries, v?.matrix_coefficients]).toEqual(tags === 'kept' ? [undefined, undefined] : ['BT.709', 'BT.709'])
    }
  })
})
