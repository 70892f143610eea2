/** What a render shows, read frame by frame from edge codes of made-up media. */
import { createHash } from 'node:crypto'
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { edgeBlocks, edgeCode, edgeStrip, readEdgeCode } from '@naranja/core/edgecode'
import type { Layer, PlanPart } from '@naranja/core/plan'
import { specOf } from '@naranja/core/specs'
import { type Rate, rate, rateFraction, rateText, sourceFrame, type Step, stepOf } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ffmpeg, output } from '../ffmpeg/run.ts'
import { plainName } from '../input/index.ts'
import { partGraph, renderedBy, type RenderSource, type RenderTarget, renderPart, renderParts, renderVersion, segmentKey } from './render.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja render '))
const size = { width: 640, height: 360 }
const cut = rate(25)
const font = createRequire(import.meta.url).resolve('@fontsource-variable/hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2')
const target: RenderTarget = { ...size, rate: cut, work: folder, font }
const spec = specOf('master-prores-hq')
if (!spec) throw new Error('no master spec')

/** A clip whose only picture is its edge code on grey. */
async function clip(code: number, r: Rate, frames: number, coding: string[], name: string): Promise<RenderSource> {
  const strip = edgeStrip(size.width, size.height)
  const raw = Buffer.concat(Array.from({ length: frames }, (_, f) => Buffer.from(edgeCode(code, f).map((b) => (b ? 235 : 16)))))
  writeFileSync(join(folder, `${name}.raw`), raw)
  const path = join(folder, name)
  const graph = `[0:v]scale=${strip.width}:${strip.height}:flags=neighbor:in_range=tv:out_range=tv,format=yuv420p[s];color=gray:s=${size.width}x${size.height}:r=${rateFraction(r)}[b];[b][s]overlay=${strip.x}:${strip.y}:shortest=1:format=yuv420[v]`
  await ffmpeg([
    '-y',
    '-f',
    'rawvideo',
    '-pix_fmt',
    'gray',
    '-video_size',
    `${edgeBlocks}x1`,
    '-framerate',
    rateFraction(r),
    '-i',
    join(folder, `${name}.raw`),
    '-filter_complex',
    graph,
    '-map',
    '[v]',
    '-frames:v',
    String(frames),
    ...coding,
    path,
  ])
  return { path: Buffer.from(path), sequence: null, rate: r, ...size, pixelAspect: 1, matrix: 'bt709', offset: 0 }
}

async function read(path: string): Promise<({ clip: number; frame: number } | null)[]> {
  const raw = await output('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:v', '-fps_mode', 'passthrough', '-pix_fmt', 'gray', '-f', 'rawvideo', '-'])
  const n = size.width * size.height
  return Array.from({ length: raw.length / n }, (_, i) => readEdgeCode(raw.subarray(i * n, (i + 1) * n), size.width, { x: 0, y: 0, ...size }))
}

const longGop = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '48', '-bf', '2', '-pix_fmt', 'yuv420p']
const sources = new Map<string, RenderSource>()
beforeAll(async () => {
  sources.set('25', await clip(1, rate(25), 90, longGop, 'a 25.mp4'))
  sources.set('50', await clip(2, rate(50), 160, longGop, 'b 50.mp4'))
  sources.set('23.976', await clip(3, rate(24000, 1001), 90, longGop, 'c 23.mov'))
  sources.set('29.97', await clip(4, rate(30000, 1001), 90, longGop, 'd 29.mp4'))
})
afterAll(() => rmSync(folder, { recursive: true }))

const layer = (clipId: string, first: number, k: number, speed?: Step): Extract<Layer, { kind: 'clip' }> => ({
  kind: 'clip',
  eventId: 'e',
  clipId,
  first,
  k,
  step: stepOf((sources.get(clipId) as RenderSource).rate, cut, speed),
})
const part = (n: number, l: Layer): PlanPart => ({ in: 0, out: n, layers: [l], mix: null })

it('names what is missing, wherever the font stands', async () => {
  const odd = join(folder, "it's [odd], fonts: here")
  mkdirSync(odd)
  copyFileSync(font, join(odd, 'a.woff2'))
  const path = join(folder, 'placeholder.mov')
  await renderPart(
    part(6, { kind: 'placeholder', eventId: 'e', code: 77, text: "Event 005: it's not found", k: 0 }),
    path,
    spec,
    { ...target, font: join(odd, 'a.woff2') },
    new Map(),
  )
  expect(await read(path)).toEqual(Array.from({ length: 6 }, (_, frame) => ({ clip: 77, frame })))
})

async function shows(l: Extract<Layer, { kind: 'clip' }>, n: number): Promise<[number[], number[]]> {
  const path = join(folder, `${JSON.stringify(l).replace(/\W+/g, '-')}.mov`)
  await renderPart(part(n, l), path, spec as NonNullable<typeof spec>, target, sources)
  const seen = (await read(path)).map((c) => c?.frame ?? -1)
  return [seen, Array.from({ length: n }, (_, j) => sourceFrame(l.first, l.k + j, l.step))]
}

describe('a part of one source', () => {
  it.each([
    ['at the cut’s own rate', '25', 31, 0, undefined],
    ['from its middle on', '25', 31, 17, undefined],
    ['at twice the rate', '50', 40, 0, undefined],
    ['at twice the rate, in its middle', '50', 41, 7, undefined],
    ['at 23.976 in real time', '23.976', 10, 0, undefined],
    ['at 23.976, in its middle', '23.976', 10, 13, undefined],
    ['at 29.97 in real time', '29.97', 5, 3, undefined],
    ['at half speed', '25', 20, 5, { num: 1, den: 2 }],
    ['at double speed', '25', 20, 4, { num: 2, den: 1 }],
    ['backwards', '25', 60, 3, { num: -1, den: 1 }],
    ['frozen', '25', 44, 2, { num: 0, den: 1 }],
  ] as const)('shows for each record frame the source frame at or before it in time: %s', async (_name, id, first, k, speed) => {
    const [seen, expected] = await shows(layer(id, first, k, speed), 24)
    expect(seen).toEqual(expected)
  })

  const speeds: Step[] = [
    { num: 1, den: 1 },
    { num: 1, den: 2 },
    { num: 2, den: 1 },
    { num: 4, den: 1 },
    { num: 1, den: 3 },
    { num: 3, den: 2 },
    { num: 14386, den: 24000 },
    { num: 0, den: 1 },
  ]
  const cutRates = [rate(24000, 1001), rate(25), rate(30000, 1001), rate(60000, 1001)]
  it.each(cutRates.map((r) => [rateText(r), r] as const))('is any source at any speed, forwards and backwards, in a cut at %s', async (_text, r) => {
    const wrong: string[] = []
    for (const id of ['23.976', '50'])
      for (const speed of speeds)
        for (const sign of [1, -1]) {
          if (speed.num === 0 && sign < 0) continue
          const step = stepOf((sources.get(id) as RenderSource).rate, r, { num: sign * speed.num, den: speed.den })
          const [n, k] = [9, 4]
          const l: Layer = { kind: 'clip', eventId: 'e', clipId: id, first: sign < 0 ? (id === '50' ? 158 : 88) : 2, k, step }
          const path = join(folder, `${id} ${rateText(r)} ${sign * speed.num} ${speed.den}.mov`)
          const expected = Array.from({ length: n }, (_, j) => sourceFrame(l.first, k + j, step))
          const seen = await renderPart(part(n, l), path, spec, { ...target, rate: r }, sources)
            .then(() => read(path))
            .then((codes) => codes.map((c) => c?.frame ?? -1).join(' '))
            .catch((e: Error) => e.message)
          if (seen !== expected.join(' ')) wrong.push(`${id} at ${sign * speed.num}/${speed.den}: ${seen}, not ${expected.join(' ')}`)
        }
    expect(wrong).toEqual([])
  })

  it('fails where the source ends before the part does', async () => {
    await expect(renderPart(part(24, layer('25', 80, 0)), join(folder, 'short.mov'), spec, target, sources)).rejects.toThrow(/10 of 24 frames/)
  })
})

describe('several parts by one process', () => {
  it('are each what they are alone, and one that cannot be made fails no other', async () => {
    writeFileSync(join(folder, 'no picture.mov'), 'nothing that could be read')
    const broken = { ...(sources.get('25') as RenderSource), path: Buffer.from(join(folder, 'no picture.mov')) }
    const all = new Map([...sources, ['broken', broken]])
    const placeholder: Layer = { kind: 'placeholder', eventId: 'e', code: 9, k: 3, text: 'Not here' }
    const parts: PlanPart[] = [
      part(7, layer('25', 31, 0)),
      { in: 7, out: 12, layers: [layer('50', 20, 2), layer('23.976', 40, 0)], mix: { from: 0, of: 5 } },
      { in: 12, out: 15, layers: [{ kind: 'black' }], mix: null },
      { in: 15, out: 19, layers: [placeholder], mix: null },
      { in: 19, out: 30, layers: [layer('25', 85, 0)], mix: null },
      { in: 30, out: 33, layers: [layer('29.97', 5, 3)], mix: null },
    ]
    const files = (name: string) => parts.map((p, i) => ({ part: p, path: join(folder, name, `${i}.mov`) }))
    const short = 'Frames 19 to 29 of the cut: 5 of 11 frames could be rendered. The source may be cut short; check it in Originals.'
    const [one, several] = [files('alone'), files('together')]
    for (const s of one) await renderParts([s], spec, target, all)
    let processes = 0
    const made = await renderParts(several, spec, target, all, { onStart: () => void processes++ })
    expect(processes).toBe(1)
    expect([...made].map(([path, e]) => [path, e.message])).toEqual([[several[4]?.path, short]])
    const bytes = (list: readonly { path: string }[]) => list.flatMap((s, i) => (i === 4 ? [] : [readFileSync(s.path).toString('base64')]))
    expect(bytes(several)).toEqual(bytes(one))
    // Nothing of one that failed stands there, not even under another name.
    expect(readdirSync(join(folder, 'together'))).toHaveLength(5)
    // Where the process itself fails, the others are made all the same, and those that stand there are not made again.
    const wrong = { part: part(3, { ...layer('25', 0, 0), clipId: 'broken' }), path: join(folder, 'with it', 'wrong.mov') }
    const withIt = files('with it')
    const failed = await renderParts([wrong, ...withIt.slice(0, 4)], spec, target, all)
    expect([...failed].map(([path, e]) => [path, e.message])).toEqual([[wrong.path, expect.stringMatching(/^The file /)]])
    expect(readdirSync(join(folder, 'with it')).sort()).toEqual(['0.mov', '1.mov', '2.mov', '3.mov'])
    expect(await renderParts(withIt.slice(0, 4), spec, target, new Map())).toEqual(new Map())
  })
})

describe('a dissolve', () => {
  it('mixes frame j of d by (j + 1) / (d + 1)', async () => {
    const grey = async (colour: string) => {
      const path = join(folder, `${colour}.mov`)
      await ffmpeg(['-y', '-f', 'lavfi', '-i', `color=c=${colour}:s=640x360:r=25`, '-frames:v', '20', '-c:v', 'ffv1', '-f', 'matroska', path])
      return { path: Buffer.from(path), sequence: null, rate: cut, ...size, pixelAspect: 1, matrix: 'bt709', offset: 0 } satisfies RenderSource
    }
    const both = new Map([
      ['a', await grey('white')],
      ['b', await grey('black')],
    ])
    const one = (clipId: string, k: number): Layer => ({ kind: 'clip', eventId: clipId, clipId, first: 0, k, step: { num: 1, den: 1 } })
    const path = join(folder, 'mix.mov')
    await renderPart({ in: 0, out: 6, layers: [one('a', 8), one('b', 0)], mix: { from: 2, of: 9 } }, path, spec, target, both)
    const raw = await output('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:v', '-pix_fmt', 'gray', '-f', 'rawvideo', '-'])
    for (let j = 0; j < 6; j++) expect(Math.abs((raw[j * 640 * 360 + 1000] ?? 0) - 255 * (1 - (2 + j + 1) / 10))).toBeLessThan(2)
  })
})

describe('a segment that is kept', () => {
  it('is made anew when FFmpeg or the renderer is another', async () => {
    const by = await renderedBy()
    expect(by).toMatch(/^\d+ ffmpeg version /)
    expect(segmentKey(['facts'], by)).toBe(segmentKey(['facts'], by))
    expect(new Set([segmentKey(['facts'], by), segmentKey(['others'], by), segmentKey(['facts'], by.replace('version ', 'version 9'))]).size).toBe(3)
  })
  it('counts the ways of rendering: who changes what is drawn here raises renderVersion', async () => {
    const source: RenderSource = {
      path: Buffer.from('/a.mov'),
      sequence: null,
      rate: cut,
      width: 1920,
      height: 800,
      pixelAspect: 1,
      matrix: 'bt709',
      offset: 0,
    }
    const sources = new Map([['a', source]])
    const layer = (over: Partial<Layer & { kind: 'clip' }>): Layer =>
      ({ kind: 'clip', clipId: 'a', eventId: 'e', first: 10, k: 0, step: { num: 1, den: 1 }, ...over }) as Layer
    const parts: PlanPart[] = [
      { in: 0, out: 5, layers: [layer({})], mix: null },
      { in: 5, out: 9, layers: [layer({ step: { num: -1, den: 2 } })], mix: null },
      { in: 9, out: 12, layers: [layer({ step: { num: 0, den: 1 } }), { kind: 'black' }], mix: { from: 0, of: 3 } },
      {
        in: 12,
        out: 14,
        layers: [
          { kind: 'placeholder', eventId: 'e', code: 7, k: 0, text: 'Not here: a long text that is broken into several lines of at most so many signs' },
        ],
        mix: null,
      },
    ]
    const drawn: string[] = []
    for (const p of parts) drawn.push((await partGraph(p, target, sources)).graph.replaceAll(plainName(font), '/font'))
    expect([renderVersion, createHash('sha1').update(drawn.join('\n')).digest('hex')]).toEqual([2, 'e5c37dbeb9146f0592b2c749eba1c2745b991b4a'])
  })
})
