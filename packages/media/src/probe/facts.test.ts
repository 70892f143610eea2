/** The facts of a clip that follow from what ffprobe answers. */
import { execFileSync } from 'node:child_process'
import { rate } from '@naranja/core/time'
import { describe, expect, it } from 'vitest'
import { ProbeAnswer, codecOf, framesIn, geometryOf, type ProbeStream, pixelsOf, soundOf, startOf, toldRate, uneven, wrapperOf } from './facts.ts'

const answer = (format: object = {}, ...streams: object[]): ProbeAnswer => ProbeAnswer.parse({ format, streams })
const stream = (facts: object): ProbeStream => answer({}, facts).streams[0] as ProbeStream
const pal = rate(25)

describe('a codec', () => {
  it.each([
    [{ codec_name: 'prores', codec_tag_string: 'apco', profile: 'Proxy' }, 'ProRes 422 Proxy'],
    [{ codec_name: 'prores', codec_tag_string: '[0][0][0][0]', profile: 'HQ' }, 'ProRes HQ'],
    [{ codec_name: 'h264', profile: 'High' }, 'H.264 High'],
    [{ codec_name: 'h264', profile: 'unknown' }, 'H.264'],
    [{ codec_name: 'dnxhd', profile: 'DNXHR SQ' }, 'DNXHR SQ'],
    [{ codec_name: 'something' }, 'something'],
    [{}, 'unknown'],
  ])('%j is called %s', (facts, name) => expect(codecOf(stream(facts), [])).toBe(name))
  it('of sound alone is that of the sound', () => expect(codecOf(undefined, [stream({ codec_name: 'pcm_s24le' })])).toBe('PCM 24 bit'))
})

describe('a picture as it is seen', () => {
  const turned = (rotation: number, more: object = {}) => geometryOf(stream({ width: 1440, height: 1080, side_data_list: [{ rotation }], ...more }))
  it.each([
    [0, 0, 1440],
    [-90, 90, 1080],
    [90, 270, 1080],
    [180, 180, 1440],
    [-90.4, 90, 1080],
  ])('with a matrix that turns by %f is turned by %i° and %i wide', (matrix, rotation, width) => expect(turned(matrix)).toMatchObject({ rotation, width }))
  it('keeps the shape of its pixels, turned with it', () => {
    expect(turned(0, { sample_aspect_ratio: '4:3' }).pixelAspect).toBeCloseTo(4 / 3)
    expect(turned(-90, { sample_aspect_ratio: '4:3' }).pixelAspect).toBeCloseTo(3 / 4)
    expect(turned(0, { sample_aspect_ratio: '0:1' }).pixelAspect).toBe(1)
  })
})

describe('pixels', () => {
  /** Each form of pixels that FFmpeg decodes to, with its bits of a pixel and of each component. */
  const forms = execFileSync('ffmpeg', ['-hide_banner', '-pix_fmts'], { encoding: 'utf8' })
    .split('\n')
    .flatMap((l) => {
      const [, name = '', bits, each = ''] = /^[I.][O.][H.][P.][B.] (\S+) +\d+ +(\d+) +([\d-]+)$/.exec(l) ?? []
      const depths = new Set(each.split('-').map(Number))
      const [depth = 0] = depths
      // Packed into less than a byte, of a sensor, or on a graphics card: no decoder of ours gives them.
      return name && depths.size === 1 && depth >= 8 && !name.startsWith('bayer') ? [{ name, bits: Number(bits), depth, parts: each.split('-').length }] : []
    })
  it('have the depth that FFmpeg tells', () => {
    expect(forms.length).toBeGreaterThan(150)
    for (const f of forms) expect([f.name, pixelsOf(stream({ pix_fmt: f.name })).depth]).toEqual([f.name, f.depth])
  })
  it('store as much colour beside brightness as FFmpeg tells', () => {
    const beside: Record<string, number> = { '4:1:0': 0.125, '4:1:1': 0.5, '4:2:0': 0.5, '4:2:2': 1, '4:4:0': 1, '4:4:4': 2, RGB: 2, grey: 0 }
    // A palette holds colours behind one number.
    for (const f of forms.filter((x) => x.name !== 'pal8')) {
      const { chroma } = pixelsOf(stream({ pix_fmt: f.name }))
      const alpha = f.parts === 2 || f.parts === 4 ? 1 : 0
      expect([f.name, chroma, Math.floor(f.depth * (1 + alpha + (beside[chroma] ?? Number.NaN)))]).toEqual([f.name, chroma, f.bits])
    }
  })
  it.each([
    ['gray10le', 'grey'],
    ['gbrapf32le', 'RGB'],
    ['yuv440p12le', '4:4:0'],
    ['yuvj411p', '4:1:1'],
    ['nv12', '4:2:0'],
    ['p210le', '4:2:2'],
  ])('%s are %s', (pix_fmt, chroma) => expect(pixelsOf(stream({ pix_fmt })).chroma).toBe(chroma))
  it('of red, green and blue have no matrix; others have what they are tagged with', () => {
    expect(pixelsOf(stream({ pix_fmt: 'gbrp' })).colour.matrix).toBe('gbr')
    expect(pixelsOf(stream({ pix_fmt: 'yuv420p', color_space: 'bt709', color_range: 'tv' })).colour).toMatchObject({ matrix: 'bt709', range: 'tv' })
    expect(pixelsOf(stream({ pix_fmt: 'yuv420p' })).colour.matrix).toBe('unknown')
  })
  it('stand in fields where a file says so', () => {
    const scan = (field_order?: string) => pixelsOf(stream({ field_order })).scan
    expect([scan(), scan('unknown'), scan('progressive')]).toEqual(Array(3).fill('progressive'))
    expect([scan('tt'), scan('bt')]).toEqual(['interlaced, upper field first', 'interlaced, lower field first'])
  })
})

describe('the rate', () => {
  it.each([
    ['30000/1001', '30000/1001', rate(30000, 1001)],
    ['25/1', '0/0', pal],
    // Worked out from whole milliseconds.
    ['19001/317', '19001/317', rate(60000, 1001)],
    // Ticks far finer than the pictures: the usual rate nearest to their average.
    ['90000/1', '2997/100', rate(30000, 1001)],
    ['1000/1', '24/1', rate(24)],
    ['0/0', '0/0', null],
  ])('of %s, on average %s', (nominal, average, wanted) => expect(toldRate(nominal, average)).toEqual(wanted))
  it('is uneven where pictures stand so, not where fields are counted or a time is rounded', () => {
    const even = (r_frame_rate: string, avg_frame_rate: string, gaps: number[] = []) => {
      const times = gaps.map((_, i) => ({ pts: gaps.slice(0, i + 1).reduce((n, g) => n + g, 0) }))
      return !uneven(stream({ r_frame_rate, avg_frame_rate }), times)
    }
    expect([even('25/1', '25/1'), even('50/1', '25/1'), even('25/1', '50/1'), even('30/1', '24/1')]).toEqual([true, true, true, false])
    expect(even('30000/1001', '30000/1001', [33, 34, 33, 33, 34, 33, 33, 34, 33, 33, 34, 33])).toBe(true)
    expect(even('30/1', '30/1', [33, 33, 50, 33, 33, 20, 33, 33, 33, 33, 33, 33])).toBe(false)
  })
})

describe('frames', () => {
  const mov = { format_name: 'mov,mp4,m4a', duration: '4' }
  const video = (facts: object) => stream({ codec_type: 'video', r_frame_rate: '25/1', avg_frame_rate: '25/1', ...facts })
  it.each([
    ['as the file counts them', video({ nb_frames: '100', duration: '4.0' }), mov, 100],
    ['as long as it lasts where nothing is counted', video({ duration: '4.0' }), mov, 100],
    ['without those that an edit list leaves out', video({ nb_frames: '110', duration: '4.0' }), mov, 100],
    ['all that are stored where a wrapper has no edit lists', video({ nb_frames: '110', duration: '4.0' }), { ...mov, format_name: 'matroska,webm' }, 110],
  ])('are counted %s', (_, v, format, wanted) => expect(framesIn(answer(format), v, [], null, pal)).toBe(wanted))
  it('of sound alone are whole ones', () => {
    const sound = stream({ codec_type: 'audio', duration: '4.039', sample_rate: '48000' })
    expect(framesIn(answer({}), undefined, [sound], null, pal)).toBe(100)
  })
  it('of numbered pictures are as many as there are numbers, missing ones too', () =>
    expect(framesIn(answer({}), video({ nb_frames: '1' }), [], { first: 1001, last: 1010, missing: [1004] } as never, pal)).toBe(10))
})

describe('the first frame', () => {
  const wave = (reference: number) => answer({ tags: { TIME_REFERENCE: String(reference) } })
  const sound = [stream({ codec_type: 'audio', sample_rate: '48000' })]
  it('is what is written', () => {
    expect(startOf('10:00:00:00', wave(0), undefined, sound, pal)).toMatchObject({ start: 900_000, drop: false })
    expect(startOf('10:00:00;00', answer(), stream({}), [], rate(30000, 1001))).toMatchObject({ start: 1_078_920, drop: true, sampleOffset: 0 })
  })
  it('of sound alone begins with its first sample or after it', () => {
    expect(startOf(null, wave(48000 * 3600), undefined, sound, pal)).toEqual({ start: 90_000, drop: false, sampleOffset: 0 })
    expect(startOf(null, wave(48000 * 3600 + 20), undefined, sound, pal)).toEqual({ start: 90_001, drop: false, sampleOffset: 1900 })
  })
  it('of a picture does not follow from samples', () => expect(startOf(null, wave(48000), stream({}), sound, pal).start).toBeNull())
})

describe('sound', () => {
  const tracks = [stream({ codec_name: 'pcm_s24le', channels: 2, sample_rate: '96000', bits_per_raw_sample: '24' }), stream({ channels: 1 })]
  it('is told of all its streams', () =>
    expect(soundOf(tracks, 0)).toEqual({ channels: 3, sampleRate: 96_000, codec: 'pcm_s24le', depth: 24, streams: [2, 1] }))
  it('in files of one channel each is told of all of them', () => expect(soundOf(tracks.slice(0, 1), 4)).toMatchObject({ channels: 4, streams: [1, 1, 1, 1] }))
  it('is none without a stream', () => expect(soundOf([], 0)).toBeNull())
})

it('a wrapper is called as its file ends, where that is one of its names', () => {
  expect([wrapperOf('mov,mp4,m4a', 'A.MP4'), wrapperOf('mov,mp4,m4a', 'a.bin'), wrapperOf('', 'a.xyz')]).toEqual(['mp4', 'mov', ''])
})
