/** Rendered pieces joined: every frame at its time, sound beside it to the sample, tags in container and codec, by our reader and by another. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Layer } from '@naranja/core/plan'
import { specOf } from '@naranja/core/specs'
import { formatFrames, type Rate, rate, rateText } from '@naranja/core/time'
import { afterAll, expect, it } from 'vitest'
import { endsInTime, misplaced, readBack, soundBeside } from '../frames/readback.ts'
import { joinSegments, renderPart } from './render.ts'
import { output } from '../ffmpeg/run.ts'
import { sampleOf } from '../listen/mix.ts'
import { mediainfo } from '../mediainfo.testing.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja join '))
afterAll(() => rmSync(folder, { recursive: true }))
const spec = specOf('master-prores-hq')
if (!spec) throw new Error('no master spec')
const black: Layer = { kind: 'black' }

/** Samples that count up, so that each tells where it stands. */
const counting = (n: number, track: number) => Buffer.from(Int32Array.from({ length: n }, (_, i) => ((i % 30_000) + track * 100) << 8).buffer)

it.each([rate(24000, 1001), rate(25), rate(30000, 1001), rate(60000, 1001)].map((r) => [rateText(r), r] as const))(
  'pieces of uneven length make one constant stream at %s',
  async (text, r: Rate) => {
    const target = { width: 64, height: 36, rate: r, work: join(folder, text), font: '' }
    const lengths = [1, 7, 13, 2, 29, 5, 31, 3]
    const total = lengths.reduce((a, b) => a + b, 0)
    const segments: string[] = []
    for (const n of new Set(lengths)) await renderPart({ in: 0, out: n, layers: [black], mix: null }, join(folder, text, `${n}.mov`), spec, target, new Map())
    for (const n of lengths) segments.push(join(folder, text, `${n}.mov`))
    const samples = sampleOf(total, r)
    const tracks = Array.from({ length: 10 }, (_, t) => {
      const path = join(folder, text, `A${t + 1}.s32`)
      writeFileSync(path, counting(samples, t))
      return path
    })
    const path = join(folder, `${text}.mov`)
    const drop = r.den === 1001 && r.num === 30000
    await joinSegments(segments, tracks, target, formatFrames(107892, r, drop), path)

    const b = await readBack({ path: Buffer.from(path), sequence: null, rate: r }, [0])
    expect([b.times.length, misplaced(b, r), endsInTime(b, r)]).toEqual([total, -1, true])
    expect(b.colour).toEqual({ primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'tv' })
    const [sound] = b.sound
    expect(sound).toMatchObject({ channels: 10, rate: 48000 })
    expect(sound && soundBeside(b, sound, samples / 48000)).toEqual({ begin: 0, end: expect.closeTo(0, 3) })

    const { Video: v, Audio: a, Other: o } = await mediainfo(path)
    expect([v?.FrameRate_Mode, v?.FrameRate_Num ?? '25', v?.FrameCount, a?.Channels]).toEqual(['CFR', String(r.num), String(total), '10'])
    // It works the number of samples out from whole milliseconds.
    expect(Math.abs(Number(a?.SamplingCount) - samples)).toBeLessThanOrEqual(48)
    expect([o?.TimeCode_FirstFrame, v?.colour_primaries, v?.transfer_characteristics, v?.matrix_coefficients]).toEqual([
      formatFrames(107892, r, drop),
      'BT.709',
      'BT.709',
      'BT.709',
    ])
    // Said by the codec's own header as well as by the container's.
    expect(v?.colour_description_present_Source).toBe('Container / Stream')

    const raw = await output('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a', '-f', 's32le', '-c:a', 'pcm_s32le', '-'])
    const back = new Int32Array(raw.buffer, raw.byteOffset, raw.length / 4)
    expect(back.length).toBe(samples * 10)
    for (const i of [0, 1, 4801, samples - 1])
      for (let t = 0; t < 10; t++) expect((back[i * 10 + t] as number) >> 8, `sample ${i} of track ${t + 1}`).toBe((i % 30_000) + t * 100)
  },
)
