/** Every combination of coding and wrapper that can be chosen is made, read back and found to be what was promised. */
import { copyFileSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { stampText } from '@naranja/core/clip'
import { readAtom } from '@naranja/core/headers'
import { type Coding, codings, faultsFor, faultsOf, plainSpec, promised, type Spec, wrapperOf, wrappers } from '@naranja/core/specs'
import { rate, rateText } from '@naranja/core/time'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { mediainfo } from '../mediainfo.testing.ts'
import type { CopyJob } from './model.ts'
import { ffmpeg, output } from '../ffmpeg/run.ts'
import { firstPictureName, makeCopies, PlaceTaken } from './make.ts'
import { rootAt } from '../disk/files.ts'
import { atomFaults } from './atoms.ts'

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
    return {
      ...p,
      look: null,
      carried: {
        start: p.start,
        drop: p.drop,
        reel: 'A001',
        stamp: stampText('12-ab', 900000, rate(25)),
        described: { scene: '12 = A', notes: 'Zwei Zeilen:\nMöwe; #2' },
      },
      target: target(s),
      root,
    }
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

describe('what a clip is called by', () => {
  it.each([
    ['mov', 'prores-proxy'],
    ['mp4', 'h264'],
    ['mkv', 'ffv1'],
    ['mov', 'unchanged'],
  ] as const)('stands in %s, %s, for other programs to read', async (wrapper, coding) => {
    const c = codings.find((k) => k.code === coding) as (typeof codings)[number]
    const spec = specOf(c, wrapper)
    const target = join(folder, `described ${coding}.${wrapper}`)
    const [report] = await makeCopies(
      jobOf([spec], () => target),
      'me',
      1000,
    )
    expect(report).toMatchObject({ faults: [] })
    const { General } = await mediainfo(target)
    const said = Object.entries({ ...General, ...(General?.extra as Record<string, string> | undefined) }).map(([k, v]) => [k.toLowerCase(), String(v)])
    expect(said).toContainEqual(['scene', '12 = A'])
  })
})

describe('files by track', () => {
  it('are one clip to whoever reads them: one package with its name, a track for each file, and each file led to', async () => {
    const c = codings.find((k) => k.code === 'dnxhr-sq') as (typeof codings)[number]
    const spec: Spec = { ...specOf(c, 'mxf-atom'), sound: { ...plainSpec.sound, coding: 'pcm24', streams: 'each-alone' } }
    const job = jobOf([spec], () => join(folder, 'Fähre 12.mxf'))
    const [report] = await makeCopies(job, 'me', 1000)
    expect(report).toMatchObject({ frames: 8, faults: [] })
    const names = ['Fähre 12.mxf', 'Fähre 12_A1.mxf', 'Fähre 12_A2.mxf', 'Fähre 12_A3.mxf']
    const atoms = names.map((f) => readAtom(readFileSync(join(folder, f))))
    const [first] = atoms
    expect(atoms.map((a) => [a?.material, a?.name])).toEqual(names.map(() => [first?.material, 'Fähre 12']))
    for (const a of atoms)
      expect(a?.tracks.map((t) => [t.id, t.kind, t.name, t.file, t.length])).toEqual([
        [1, 'timecode', null, null, 8],
        ...(['picture', 'sound', 'sound', 'sound'] as const).map((kind, i) => [
          i + 2,
          kind,
          i === 0 ? 'V1' : `A${i}`,
          atoms[i]?.file,
          kind === 'picture' ? 8 : 15_360,
        ]),
      ])
    expect(new Set(atoms.map((a) => a?.file)).size).toBe(4)
    // Other readers see the same package, and the same name.
    const umids = await Promise.all(
      names.map(async (f) => {
        const said = await output('ffprobe', [
          '-v',
          'error',
          '-show_entries',
          'format_tags=material_package_umid,material_package_name,comment_Scene,comment_Room',
          '-of',
          'json',
          join(folder, f),
        ])
        return (JSON.parse(said.toString()) as { format: { tags: Record<string, string> } }).format.tags
      }),
    )
    for (const tags of umids)
      expect(tags).toEqual({ material_package_umid: `0x${first?.material.toUpperCase()}`, material_package_name: 'Fähre 12', comment_Scene: '12 = A' })
    for (const f of names)
      expect((await mediainfo(join(folder, f))).General).toMatchObject({
        Format: 'MXF',
        Format_Profile: 'OP-Atom',
        PackageName: expect.stringContaining('Fähre 12'),
      })
  })
  it('that belong to another clip fail their check', async () => {
    const c = codings.find((k) => k.code === 'dnxhr-sq') as (typeof codings)[number]
    const spec: Spec = { ...specOf(c, 'mxf-atom'), sound: { ...plainSpec.sound, coding: 'pcm24' } }
    const at = (name: string) => join(folder, `${name}.mxf`)
    for (const name of ['one', 'two'])
      await makeCopies(
        jobOf([spec], () => at(name)),
        'me',
        1000,
      )
    copyFileSync(join(folder, 'two_A1.mxf'), join(folder, 'one_A1.mxf'))
    await expect(
      makeCopies(
        jobOf([spec], () => at('one')),
        'me',
        1000,
      ),
    ).resolves.toEqual([expect.any(PlaceTaken)])
    const job = jobOf([spec], () => at('one'))
    const [o] = job.outputs
    const files = { picture: at('one'), sound: [1, 2, 3].map((n) => join(folder, `one_A${n}.mxf`)), sequence: null }
    expect(o && (await atomFaults(o, files))).toEqual([
      'Its picture does not lead to the other files of the clip.',
      'Its sound file 1 belongs to another clip than its picture: their package identifiers differ.',
      'Its sound file 1 names the clip two, not one.',
      'Its sound file 1 does not lead to the other files of the clip.',
      'Its sound file 2 does not lead to the other files of the clip.',
      'Its sound file 3 does not lead to the other files of the clip.',
    ])
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
