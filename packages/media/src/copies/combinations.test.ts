/** Every combination of coding and wrapper that can be chosen is made, read back and found to be what was promised. */
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { stampText } from '@naranja/core/clip'
import { type Coding, codings, faultsFor, faultsOf, plainSpec, promised, type Spec, wrapperOf, wrappers } from '@naranja/core/specs'
import { rate, rateText } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { mediainfo } from '../mediainfo.testing.ts'
import { type CopyJob, ffmpeg, firstPictureName, makeCopies, rootAt } from '../index.ts'

const folder = mkdtempSync(join(tmpdir(), "naranja's copies "))
afterAll(() => rmSync(folder, { recursive: true }))
const size = { width: 1920, height: 1080 }
beforeAll(async () => {
  const picture = ['-f', 'lavfi', '-i', 'testsrc2=s=1920x1080:r=25:d=0.32']
  const sound = ['-f', 'lavfi', '-i', 'aevalsrc=0.1*sin(440*t*6.28)|0.2*sin(880*t*6.28)|0.1*sin(220*t*6.28):s=48000:d=0.32']
  await ffmpeg(['-y', ...picture, ...sound, '-c:v', 'prores', '-pix_fmt', 'yuv422p10le', '-c:a', 'pcm_s24le', join(folder, 'a.mov')])
})
const facts = {
  ...size,
  pixelAspect: 1,
  rate: rate(25),
  scan: 'progressive',
  start: 900000,
  drop: false,
  sound: { streams: [3], sampleRate: 48000 },
  crop: null,
  silent: null,
  trackNames: [],
}
const fonts = { text: '/none', mono: '/none' }
const root = await rootAt('/')
const jobOf = (specs: readonly Spec[], target: (s: Spec) => string): CopyJob => ({
  input: { path: Buffer.from(join(folder, 'a.mov')), sequence: null, rate: rate(25), sound: { streams: [3], files: [] } },
  colour: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'tv' },
  interlaced: false,
  range: { in: 0, out: 8 },
  burning: { name: 'a.mov', reel: 'A001', start: 900000, drop: false, frame: 0, fonts },
  outputs: specs.map((s) => {
    const p = promised(s, facts, rate(25), { in: 0, out: 8 })
    return { ...p, look: null, carried: { start: p.start, drop: p.drop, reel: 'A001', stamp: stampText('12-ab', 900000, rate(25)) }, target: target(s), root }
  }),
})
const specOf = (c: Coding & { code: Spec['coding'] }, wrapper: Spec['wrapper']): Spec => ({
  ...plainSpec,
  code: 'x',
  name: 'x',
  purpose: '',
  kind: 'intermediate',
  coding: c.code,
  wrapper,
  frame:
    c.code === 'unchanged'
      ? { by: 'original' }
      : c.rasters
        ? { by: 'exact', width: c.rasters[0]?.width ?? 0, height: c.rasters[0]?.height ?? 0 }
        : { by: 'height', height: 270 },
  sound: { ...plainSpec.sound, coding: wrapperOf(wrapper).sound[0] ?? 'pcm24' },
})
const places = (s: Spec, c: Coding): string =>
  s.wrapper === 'frames'
    ? join(folder, `${s.coding} frames`, firstPictureName(`${s.coding} frames`, 900000, c.extension ?? ''))
    : join(folder, `${s.coding} ${s.wrapper}.${wrapperOf(s.wrapper).extension}`)

describe.each(codings.map((c) => [c.name, c] as const))('%s', (_, c) => {
  it.each(c.wrappers.map((w) => [w]))('is made into %s as promised', async (wrapper) => {
    const spec = specOf(c, wrapper)
    expect([
      faultsOf(spec),
      faultsFor(spec, { ...facts, frames: 8, depth: 10, chroma: '4:2:2', interlaced: false, codec: 'ProRes 422', wrapper: 'mov' }, rate(25)),
    ]).toEqual([[], []])
    const [report] = await makeCopies(
      jobOf([spec], (s) => places(s, c)),
      'me',
      1000,
    )
    expect(report).toMatchObject({ frames: 8, faults: [] })
    expect(existsSync(places(spec, c))).toBe(true)
    // Another reader finds one rate, in whatever says it.
    if (wrapper !== 'frames') expect((await mediainfo(places(spec, c))).Video?.FrameRate_Mode).not.toBe('VFR')
    expect(readdirSync(folder).filter((f) => f.includes('.part'))).toEqual([])
  })
})

describe('each sound that a wrapper holds', () => {
  const all = wrappers.flatMap((w) =>
    w.sound.map((sound) => ({ w, sound, c: codings.find((k) => !k.rasters && k.code !== 'unchanged' && k.wrappers.includes(w.code)) })),
  )
  it.each(all.map((a) => [a.sound, a.w.name, a] as const))('can be made: %s in %s', async (sound, _name, { w, c }) => {
    if (!c) throw new Error(`no coding goes into ${w.code}`)
    const spec: Spec = { ...specOf(c, w.code), sound: { ...plainSpec.sound, coding: sound } }
    const [report] = await makeCopies(
      jobOf([spec], (s) => places(s, c).replace(c.code, `${c.code} ${sound}`)),
      'me',
      1000,
    )
    expect(report).toMatchObject({ frames: 8, faults: [] })
  })
})

describe('each raster and rate that a coding is defined for', () => {
  const all = codings.flatMap((c) => (c.rasters ?? []).flatMap((r) => r.rates.map((x) => ({ c, r, x }))))
  it.each(all.map((a) => [`${a.c.name}: ${a.r.width}×${a.r.height}${a.r.interlaced ? ' in fields' : ''} at ${rateText(a.x.rate)}`, a] as const))(
    'can be made: %s',
    async (name, { c, r, x }) => {
      const spec: Spec = { ...specOf(c, 'mov'), frame: { by: 'exact', width: r.width, height: r.height }, sound: { ...plainSpec.sound, channels: 'none' } }
      const f = { ...facts, rate: x.rate, start: 0, scan: r.interlaced ? 'interlaced, upper field first' : 'progressive' }
      const job = jobOf([spec], () => join(folder, `${name.replace(/\W+/g, ' ')}.mov`))
      const p = promised(spec, f, x.rate, { in: 0, out: 2 })
      const [report] = await makeCopies(
        {
          ...job,
          input: { ...job.input, rate: x.rate },
          interlaced: r.interlaced,
          range: { in: 0, out: 2 },
          outputs: job.outputs.map((o) => ({ ...o, ...p, carried: { ...o.carried, start: 0 } })),
        },
        'me',
        1000,
      )
      expect(report).toMatchObject({ frames: 2, faults: [] })
    },
  )
})
