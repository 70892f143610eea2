/** Raw pictures from writing to what a screen shows: what comes out is what was put in, and settings do what they say. */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Sequence } from '@naranja/core/clip'
import {
  type DecodeSettings,
  displayed,
  type DisplayTransform,
  lightOf,
  plainDecode,
  readDng,
  saturationRows,
  temperatureOf,
  type Triple,
} from '@naranja/core/raw'
import { rate } from '@naranja/core/time'
import { cameraColour, clipInput, development, ffmpeg, firstPicture, inputArgs, MediaError, output, probe, samples, shownFilter } from '@naranja/media'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeDng } from './dng.ts'

const folder = mkdtempSync(join(tmpdir(), "it's raw "))
const [width, height] = [96, 64]
/** Patches of linear light, left to right; the first is a grey. */
const patches: Triple[] = [
  [0.18, 0.18, 0.18],
  [0.5, 0.1, 0.1],
  [0.1, 0.4, 0.6],
]
const neutral: Triple = [0.5, 1, 0.65]
const path = Buffer.from(join(folder, 'm_001.dng'))
const sequence: Sequence = { base: 'm_', ext: 'dng', digits: 3, first: 1, last: 6, missing: [4] }

/** Each frame a little brighter than the one before. */
const pictureOf = (n: number) => {
  const light = new Uint16Array(width * height * 3)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < 3; c++) light[i * 3 + c] = Math.round(65_535 * (patches[Math.floor(((i % width) / width) * 3)]?.[c] ?? 0) * (1 + n / 20))
  return writeDng({ width, height, light, neutral, timecode: { h: 21, m: 5, s: 7, f: 3, drop: false }, rate: { num: 24, den: 1 }, reel: 'T001' })
}
beforeAll(() => {
  mkdirSync(folder, { recursive: true })
  for (const n of [1, 2, 3, 5, 6]) writeFileSync(join(folder, `m_00${n}.dng`), pictureOf(n - 1))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const facts = () => probe(path, { projectRate: rate(25), sequence })
/** What the screen shows of each patch, back in linear light; and how large the picture is. */
async function shown(settings: Partial<DecodeSettings> = {}, frame = 0, display: 'screen' | 'soft' = 'screen') {
  const t = await facts()
  const input = clipInput(path, t, { settings: { ...plainDecode, ...settings }, display })
  const size = (settings.size === 'half' ? 0.5 : 1) * width
  const raw = await output('ffmpeg', [
    '-v',
    'error',
    ...inputArgs(input, frame),
    '-map',
    '0:v:0',
    '-vf',
    `${firstPicture(input, frame)}null`,
    '-frames:v',
    '1',
    '-pix_fmt',
    'rgb48be',
    '-f',
    'rawvideo',
    '-',
  ])
  const high = raw.length / 6 / size
  const at = (x: number): Triple => {
    const p = (Math.floor(high / 2) * size + Math.floor(x * size)) * 6
    return [0, 2, 4].map((c) => (raw.readUInt16BE(p + c) / 65_535) ** 2.4) as unknown as Triple
  }
  return { patches: [1 / 6, 3 / 6, 5 / 6].map(at), width: size, height: high }
}
const near = (got: readonly number[] | undefined, wanted: readonly number[], share = 0.02) => {
  for (const [i, w] of wanted.entries()) expect(Math.abs((got?.[i] ?? 0) - w), `${got} is ${wanted}`).toBeLessThan(share * w + 0.002)
}

describe('a raw sequence', () => {
  it('says what it is', async () => {
    const t = await facts()
    expect(t).toMatchObject({ codec: 'DNG raw', width, height, depth: 12, chroma: 'raw', frames: 6, rate: rate(24), reel: 'T001', fault: null })
    expect(t.start).toBe(((21 * 60 + 5) * 60 + 7) * 24 + 3)
    expect(t.raw?.neutral?.map((x) => Number(x.toFixed(3)))).toEqual(neutral)
  })
  it.each([
    ['50', rate(50), 49, false, (10 * 3600 + 7) * 50 + 49],
    ['60', rate(60), 57, false, (10 * 3600 + 7) * 60 + 57],
    ['59.94 drop-frame', rate(60000, 1001), 58, true, (10 * 3600 + 7) * 60 + 58 - 4 * 9 * 60],
    ['23.976', rate(24000, 1001), 23, false, (10 * 3600 + 7) * 24 + 23],
  ] as const)('carries every timecode at %s, where its word has no room for more than 39 frames', async (name, r, f, drop, wanted) => {
    const black = new Uint16Array(width * height * 3)
    const first = Buffer.from(join(folder, `t${name}_1.dng`))
    const labels = [f, f + 1].map((n) => (n < Math.ceil(r.num / r.den) ? { h: 10, m: 0, s: 7, f: n, drop } : { h: 10, m: 0, s: 8, f: 0, drop }))
    for (const [i, timecode] of labels.entries())
      writeFileSync(join(folder, `t${name}_${i + 1}.dng`), writeDng({ width, height, light: black, neutral, rate: r, timecode }))
    const t = await probe(first, { projectRate: rate(25), sequence: { base: `t${name}_`, ext: 'dng', digits: 1, first: 1, last: 2, missing: [] } })
    expect([t.rate, t.start, t.drop]).toEqual([r, wanted, drop])
    // A last picture that cannot be read tells nothing, and stops nothing.
    const cut = await probe(first, { projectRate: rate(25), sequence: { base: `t${name}_`, ext: 'dng', digits: 1, first: 1, last: 3, missing: [] } })
    expect([cut.start, cut.drop, cut.fault]).toEqual([wanted, drop, null])
  })
  it('was shot in the light that its neutral and its matrix tell', () => {
    const d = readDng(pictureOf(0))
    const { kelvin, tint } = temperatureOf(lightOf(d?.neutral as Triple, d?.toCamera as number[]) as { x: number; y: number })
    // D65 is a little greener than a black body.
    expect([Math.round(kelvin / 50) * 50, Math.round(tint)]).toEqual([6500, 3])
  })
  it('comes out as the light that went in', async () => {
    const s = await shown()
    expect([s.width, s.height]).toEqual([width, height])
    for (const [i, p] of patches.entries()) near(s.patches[i], p)
  })
  it('shows its frames in order, from any frame on, the one before where a number is missing', async () => {
    const t = await facts()
    const got = await samples(clipInput(path, t), [0, 1, 2, 3, 4, 5])
    const bright = got.map((g) => g.reduce((n, v) => n + v, 0) / g.length)
    expect(bright[1]).toBeGreaterThan(bright[0] as number)
    expect(bright[3]).toBe(bright[2])
    expect(bright[4]).toBeGreaterThan(bright[3] as number)
    near((await shown({}, 5)).patches[0], [0.18 * 1.25, 0.18 * 1.25, 0.18 * 1.25])
  })
  it('is read as far as it is wanted, and no further', async () => {
    const t = await facts()
    const out = join(folder, 'two.mov')
    for (let n = 0; n < 5; n++) {
      await ffmpeg([
        '-y',
        ...inputArgs(clipInput(path, t), 1),
        '-filter_complex',
        `[0:v]${firstPicture(clipInput(path, t), 1)}trim=end_frame=2,format=yuv422p10le[v]`,
        '-map',
        '[v]',
        '-c:v',
        'prores',
        out,
      ])
      expect((await probe(Buffer.from(out), { projectRate: rate(24) })).frames).toBe(2)
    }
  })
  it('is left alone in the middle, whatever has been made ahead by then', async () => {
    // Each is far more than a pipe holds.
    const [wide, high] = [640, 480]
    const file = writeDng({ width: wide, height: high, light: new Uint16Array(wide * high * 3).fill(9000), neutral, rate: { num: 24, den: 1 } })
    const first = Buffer.from(join(folder, 'large_001.dng'))
    for (const n of [1, 2, 3, 4, 5, 6]) writeFileSync(join(folder, `large_00${n}.dng`), file)
    const large: Sequence = { base: 'large_', ext: 'dng', digits: 3, first: 1, last: 6, missing: [] }
    const t = await probe(first, { projectRate: rate(24), sequence: large })
    const input = clipInput(first, t)
    for (const wanted of [1, 2, 5]) {
      const made = await ffmpeg(['-y', ...inputArgs(input), '-map', '0:v', '-vf', `${firstPicture(input, 0)}trim=end_frame=${wanted}`, '-f', 'null', '-'])
      expect(made).toBe(wanted)
    }
    if (!input.raw) throw new Error('it is raw')
    const pieces = development(first, large, 0, input.raw)
    expect((await pieces.next()).value?.length).toBeGreaterThan(0)
    // Meanwhile the next has been developed, and waits.
    await new Promise((r) => setTimeout(r, 1000))
    await pieces.return(undefined)
  })
  it('ends with what made it end', async () => {
    const t = await facts()
    const end = new AbortController()
    const run = ffmpeg(['-y', '-re', ...inputArgs(clipInput(path, t)), '-f', 'null', '-'], { signal: end.signal })
    setTimeout(() => end.abort(), 50)
    await expect(run).rejects.toThrow('Cancelled.')
  })
})

describe('decode settings', () => {
  it('brighten by stops', async () => near((await shown({ exposure: 1 })).patches[0], [0.36, 0.36, 0.36]))
  it('take colour away, and keep the brightness', async () => {
    const y = 0.2126 * 0.5 + 0.7152 * 0.1 + 0.0722 * 0.1
    near((await shown({ saturation: 0 })).patches[1], [y, y, y])
  })
  it('turn around middle grey', async () => {
    const s = await shown({ contrast: 1.5 })
    near(s.patches[0], [0.18, 0.18, 0.18])
    expect(s.patches[1]?.[0]).toBeGreaterThan(0.6)
  })
  it('develop a quarter of the pixels at half size', async () => {
    const s = await shown({ size: 'half' })
    expect([s.width, s.height]).toEqual([width / 2, height / 2])
    near(s.patches[0], [0.18, 0.18, 0.18])
  })
  it('make a picture warmer as the light is said to be bluer', async () => {
    const [warm, cold] = [
      await shown({ balance: { kind: 'temperature', kelvin: 9000, tint: 0 } }),
      await shown({ balance: { kind: 'temperature', kelvin: 4000, tint: 0 } }),
    ]
    const redness = (s: typeof warm) => (s.patches[0]?.[0] ?? 0) / (s.patches[0]?.[2] ?? 1)
    expect(redness(warm)).toBeGreaterThan(1.1)
    expect(redness(cold)).toBeLessThan(0.9)
  })
  it('make grey what a person points at', async () => {
    const picked = await cameraColour(path, sequence, 0, 5 / 6, 0.5)
    near(picked ?? [], [(0.5 * 0.1) / 0.4, 1, (0.65 * 0.6) / 0.4])
    const s = await shown({ balance: { kind: 'picked', neutral: picked as Triple } })
    const [r = 0, g = 1, b = 0] = s.patches[2] ?? []
    near([r / g, b / g], [1, 1], 0.03)
  })
  it('roll highlights off instead of clipping them', async () => {
    const [hard, soft] = [await shown({ exposure: 3 }), await shown({ exposure: 3 }, 0, 'soft')]
    expect(hard.patches[0]?.[0]).toBeCloseTo(1, 2)
    expect(soft.patches[0]?.[0]).toBeLessThan(0.97)
  })
})

describe('what a screen shows', () => {
  const all = Array.from({ length: 65_536 }, (_, v): Triple => [v, (v * 7) % 65_536, 65_535 - v])
  const linear = join(folder, 'all.ppm')
  beforeAll(() => {
    const pixels = Buffer.alloc(all.length * 6)
    for (const [i, p] of all.entries()) for (const [c, v] of p.entries()) pixels.writeUInt16BE(v, i * 6 + c * 2)
    writeFileSync(linear, Buffer.concat([Buffer.from('P6\n256 256\n65535\n'), pixels]))
  })
  const through = async (settings: Partial<DecodeSettings>, display: DisplayTransform = 'screen') => {
    const d = { colour: { toCamera: null, neutral: null }, settings: { ...plainDecode, ...settings }, display }
    const args = ['-v', 'error', '-f', 'image2pipe', '-c:v', 'ppm', '-i', linear, '-vf', `${shownFilter(d)}format=rgb48be`, '-f', 'rawvideo', '-']
    return output('ffmpeg', args)
  }
  it.each([
    [{}, 'screen'],
    [{ exposure: -1.3 }, 'screen'],
    [{ exposure: 2.5, contrast: 1.4 }, 'screen'],
    [{ contrast: 0.7 }, 'soft'],
    [{ exposure: 3 }, 'soft'],
  ] as const)('of each of 65,536 values is what core says, with %j, %s', async (settings, display) => {
    const raw = await through(settings, display)
    const wanted = all.flat().map((v) => Math.round(65_535 * displayed(v / 65_535, { ...plainDecode, ...settings }, display)))
    expect(raw.length).toBe(wanted.length * 2)
    expect(wanted.filter((w, i) => Math.abs(raw.readUInt16BE(i * 2) - w) > 0).length).toBe(0)
  })
  it('has more or less colour to two codes of light', async () => {
    const raw = await through({ saturation: 1.6 })
    const light = (code: number) => (code / 65_535) ** 2.4 * 65_535
    const rows = saturationRows(1.6)
    for (const [i, p] of all.entries())
      for (const c of [0, 1, 2] as const) {
        const wanted = Math.max(
          0,
          Math.min(
            65_535,
            rows[c].reduce((n, w, k) => n + w * (p[k] as number), 0),
          ),
        )
        // One and a half codes of the mixing, and half a step of the signal, which is far wider there.
        if (Math.abs(light(raw.readUInt16BE(i * 6 + c * 2)) - wanted) > 3.3) expect([i, c, light(raw.readUInt16BE(i * 6 + c * 2))]).toEqual([i, c, wanted])
      }
  })
})

describe('a raw picture that is none', () => {
  it('is told with its file, and what to do', async () => {
    const bad = join(folder, 'bad')
    mkdirSync(bad)
    for (const n of [1, 2, 3]) writeFileSync(join(bad, `m_00${n}.dng`), pictureOf(0).subarray(0, n === 2 ? 2000 : 1_000_000))
    const s = { ...sequence, last: 3, missing: [] }
    const t = await probe(Buffer.from(join(bad, 'm_001.dng')), { projectRate: rate(25), sequence: s })
    const run = ffmpeg(['-y', ...inputArgs(clipInput(Buffer.from(join(bad, 'm_001.dng')), t)), '-f', 'null', '-'])
    await expect(run).rejects.toThrow(/m_002\.dng cannot be developed/)
    await expect(run).rejects.toBeInstanceOf(MediaError)
  })
})
