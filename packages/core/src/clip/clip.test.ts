import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { majority, noticesOf, numbers, readStamp, stampText, type Technical } from './index.ts'

describe('notices', () => {
  const t = (facts: Partial<Technical>): Technical => ({
    wrapper: 'mov',
    codec: 'H.264 High',
    width: 1920,
    height: 1080,
    pixelAspect: 1,
    rotation: 0,
    parts: [],
    raw: null,
    variable: false,
    rate: rate(25),
    frames: 100,
    start: 900000,
    drop: false,
    depth: 8,
    chroma: '4:2:0',
    scan: 'progressive',
    colour: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'tv' },
    longGop: false,
    reel: 'A001',
    stamp: null,
    sound: null,
    channelFiles: [],
    heard: null,
    sampleOffset: 0,
    hasPicture: true,
    dataRate: 1,
    sequence: null,
    fault: null,
    ...facts,
  })
  const codes = (facts: Partial<Technical>, more = {}) =>
    noticesOf({
      technical: t(facts),
      start: t(facts).start,
      reel: 'A001',
      sameNames: 0,
      projectRate: rate(25),
      projectShape: 16 / 9,
      peaks: null,
      ...more,
    }).map((n) => n.code)
  it.each([
    ['nothing', {}, {}, []],
    ['no timecode', { start: null }, {}, ['no-timecode']],
    ['timecode that starts at zero', { start: 0 }, {}, ['zero-timecode']],
    ['another rate', { rate: rate(50) }, {}, ['other-rate']],
    ['the same name elsewhere', {}, { sameNames: 1 }, ['same-name']],
    ['no reel', {}, { reel: null }, ['no-reel']],
    ['long groups of pictures', { longGop: true }, {}, ['long-gop']],
    ['a stamp', { stamp: 'ab-cd' }, {}, ['edit-copy']],
    ['a fault, and then nothing else', { fault: 'x is empty', start: null }, {}, ['fault']],
    ['uneven times', { variable: true }, {}, ['variable-rate']],
    ['channels on which nothing is heard', {}, { peaks: [-3, -200, -61] }, ['silent-channels']],
    ['channels of which each is heard', {}, { peaks: [-3, -59] }, []],
    ['fields', { scan: 'interlaced, upper field first' }, {}, ['fields']],
    ['a picture that is turned', { rotation: 90, width: 1080, height: 1920 }, { projectShape: 9 / 16 }, ['rotated']],
    ['pixels that are not square', { width: 1440, pixelAspect: 4 / 3 }, {}, ['squeezed']],
    ['another shape', { width: 2048, height: 1080 }, {}, ['other-shape']],
    ['a codec made for cutting', { codec: 'ProRes 422 HQ', longGop: false }, {}, ['easy-to-edit']],
    ['numbers that are missing', { sequence: { base: 'm_', ext: 'png', digits: 4, first: 1, last: 9, missing: [3, 4, 7] } }, {}, ['missing-numbers']],
  ])('tell of %s', (_what, facts, more, expected) => expect(codes(facts, more)).toEqual(expected))
  it('write runs of numbers short, and find the majority', () => {
    expect(numbers([3, 4, 5, 9])).toBe('3–5, 9')
    expect(majority([t({}), t({}), t({ rate: rate(50) }), t({ hasPicture: false, rate: rate(24) })])).toMatchObject({
      rate: { num: 25 },
      rateCount: 2,
      count: 3,
    })
  })
  it('find the same majority in whatever order clips came, by running time where as many are so', () => {
    const [slow, fast] = [t({ rate: rate(25), frames: 50 }), t({ rate: rate(50), frames: 80 })]
    for (const order of [
      [slow, fast],
      [fast, slow],
    ])
      expect(majority(order)?.rate).toEqual(rate(25))
  })
  it('never give a tie of rasters to the smaller or to an upright one, in whatever order clips came and however long they are', () => {
    const raster = (width: number, height: number, frames = 100) => t({ width, height, frames })
    for (const [one, other, expected] of [
      [raster(1280, 720, 9000), raster(1920, 1080), 1920],
      [raster(2160, 3840, 9000), raster(1920, 1080), 1920],
      [raster(1080, 1920), raster(2160, 3840), 2160],
    ] as const)
      for (const order of [
        [one, other],
        [other, one],
      ])
        expect(majority(order)?.width).toBe(expected)
  })
  it('count numbered pictures like any clip, for the rate where they say one', () => {
    const sequence = { base: 'm_', ext: 'dng', digits: 4, first: 1, last: 9, missing: [] }
    const raw = t({ sequence, width: 4096, height: 2160, rate: rate(24) })
    expect(majority([raw, raw, t({})])).toMatchObject({ rate: { num: 24 }, rateCount: 2, width: 4096, sizeCount: 2, count: 3 })
    const unsaid = { ...raw, rateGiven: false }
    expect(majority([unsaid, unsaid, t({})])).toMatchObject({ rate: { num: 25 }, rateCount: 1, width: 4096 })
    expect(majority([unsaid])).toMatchObject({ rate: { num: 24 } })
  })
  it('know a stamp from any other comment', () => {
    expect(readStamp(stampText('12-ab', 900000, rate(25)))).toBe('12-ab')
    expect(readStamp('shot by the harbour')).toBeNull()
  })
})
