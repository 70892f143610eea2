/** The smaller ideas: names, framing, likeness, edge codes, folders, estimates, notices, the day chart. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { majority, noticesOf, numbers, readStamp, stampText, type Technical } from './clip/index.ts'
import { dayChart } from './daychart/index.ts'
import { edgeCode, edgeStrip, readEdgeCode } from './edgecode/index.ts'
import { bytesText, bytesUnder, secondsLeft } from './estimate/index.ts'
import { byHeight, enlargement, fit } from './framing/index.ts'
import { bare, compareNames, compareReels, folderFacts, isCounter, safeFileName, sequenceNumber, stem } from './naming/index.ts'
import { checkFrame, likeness, sampleBytes } from './picture/index.ts'
import { lossesUnder, specOf, specs, sizeUnder } from './specs/index.ts'
import { rate } from './time/index.ts'

describe('names', () => {
  it.each([
    ['a/b/A001C002.mov', 'A001C002'],
    ['CLIP0001.MP4', 'CLIP0001'],
    ['v1.2 final', 'v1.2 final'],
    ['.hidden', '.hidden'],
    ['moon_1001.png', 'moon_1001'],
    ['take.7', 'take.7'],
  ])('%s is known by %s', (name, s) => expect(stem(name)).toBe(s))
  it('agree, are bent, or contradict', () => {
    expect(compareNames('X_1.mov', 'X_1.mp4')).toBe('agrees')
    expect(compareNames('x_001.mov', 'X_1.mp4')).toBe('bent')
    expect(compareNames('Harbour_1_proxy.mov', 'Harbour_1.mxf')).toBe('bent')
    expect(compareNames('Harbour_2.mov', 'Harbour_1.mxf')).toBe('contradicts')
    expect(compareNames(null, 'x')).toBe('missing')
    expect(bare('Sea_0007_PROXY.mov')).toBe('sea_7')
  })
  it('that any camera writes again are weak', () =>
    expect(['CLIP0001.MP4', 'DSC_0042', '00012.MTS', 'A001C002_261108', 'HARBOUR'].map(isCounter)).toEqual([true, true, true, false, false]))
  it.each([
    ['A001', 'A001', 'agrees'],
    ['B001_SAL', 'B001_SALTFERRY', 'agrees'],
    ['B001_SA', 'B001_SALTFERRY', 'agrees'],
    ['B001_S', 'B001_SALTFERRY', 'contradicts'],
    ['b001_sal', 'B001_SALTFERRY', 'bent'],
    ['A001', 'A002', 'contradicts'],
    ['AX', 'A002', 'missing'],
    ['A001', null, 'missing'],
  ])('reel %s and %s: %s', (a, b, agreement) => expect(compareReels(a, b)).toBe(agreement))
  it('of folders tell reel, roll and day', () => {
    expect(folderFacts(['Quay drive', 'Day 1', 'A001', 'CLIPS'])).toEqual({ reel: 'A001', roll: 'A001', day: 'Day 1' })
    expect(folderFacts(['Deck card 2', 'MEDIA'])).toEqual({ reel: null, roll: 'Deck card 2', day: null })
    expect(folderFacts(['CARD01', '2026-11-08'])).toEqual({ reel: null, roll: 'CARD01', day: '2026-11-08' })
  })
  it('of files are safe everywhere, and numbers of sequences are read', () => {
    expect(safeFileName('a/b:c?. ')).toBe('a_b_c_')
    expect(sequenceNumber('moon_1001.png')).toEqual({ base: 'moon_', number: 1001, digits: 4, ext: 'png' })
    expect(sequenceNumber('moon.png')).toBeNull()
  })
})

describe('framing', () => {
  it('fits the whole picture, centred and even', () => {
    expect(fit({ width: 4096, height: 2160 }, { width: 1920, height: 1080 })).toEqual({ width: 1920, height: 1012, x: 0, y: 34 })
    expect(fit({ width: 720, height: 576 }, { width: 1920, height: 1080 }, 64 / 45)).toEqual({ width: 1920, height: 1080, x: 0, y: 0 })
    expect(byHeight({ width: 4096, height: 2160 }, 720)).toEqual({ width: 1366, height: 720 })
    expect(byHeight({ width: 640, height: 360 }, 720)).toEqual({ width: 640, height: 360 })
    expect(enlargement({ width: 1280, height: 720 }, { width: 1920, height: 1080 })).toBe(150)
  })
  it('stays inside its target', () => {
    const size = fc.record({ width: fc.integer({ min: 16, max: 8000 }), height: fc.integer({ min: 16, max: 8000 }) })
    fc.assert(
      fc.property(
        size,
        size.map((s) => ({ width: s.width * 2, height: s.height * 2 })),
        (a, b) => {
          const p = fit(a, b)
          expect(p.x >= 0 && p.y >= 0 && p.x + p.width <= b.width && p.y + p.height <= b.height && p.width % 2 === 0 && p.x % 2 === 0).toBe(true)
        },
      ),
    )
  })
})

describe('likeness', () => {
  const picture = (f: (i: number) => number) => Uint8Array.from({ length: sampleBytes }, (_, i) => f(i))
  const moving = (t: number) => picture((i) => (((i % 96) + t * 3) % 96) * 2)
  it('is one for the same picture and little for another', () => {
    expect(likeness(moving(0), moving(0))).toBe(1)
    expect(
      likeness(
        picture(() => 0),
        picture(() => 255),
      ),
    ).toBe(0)
    expect(likeness(moving(0), new Uint8Array(3))).toBe(0)
  })
  it('finds a picture that is a frame off, and by how many', () => {
    const around = [-2, -1, 0, 1, 2].map((d) => moving(10 + d))
    expect(checkFrame(moving(10), around)).toMatchObject({ passed: true, offset: 0, unprovable: false })
    expect(checkFrame(moving(11), around)).toMatchObject({ passed: false, offset: 1 })
    expect(checkFrame(moving(8), around)).toMatchObject({ passed: false, offset: -2 })
  })
  it('says of a picture that stands still that it proves nothing', () => {
    const still = picture((i) => i % 251)
    expect(checkFrame(still, [still, still, still, still, still])).toMatchObject({ passed: true, unprovable: true })
  })
  it('fails what is too unlike, and what has no source', () => {
    expect(
      checkFrame(
        picture(() => 90),
        [picture(() => 100)],
      ),
    ).toMatchObject({ passed: false, level: -10 })
    expect(checkFrame(moving(0), [null]).passed).toBe(false)
  })
})

it('edge codes are read back at any size, place and contrast', () => {
  fc.assert(
    fc.property(
      fc.nat(1023),
      fc.nat(16383),
      fc.constantFrom(320, 640, 1366, 1920),
      fc.constantFrom(0, 34),
      fc.integer({ min: 0, max: 40 }),
      (clip, frame, width, y, lift) => {
        const height = Math.round((width * 9) / 32) * 2
        const strip = edgeStrip(width, height)
        const grey = new Uint8Array(width * (height + y)).fill(128)
        edgeCode(clip, frame).forEach((bit, b) => {
          for (let row = y + strip.y; row < y + strip.y + strip.height; row++)
            for (let x = Math.floor(strip.x + (strip.width * b) / 32); x < strip.x + (strip.width * (b + 1)) / 32; x++)
              grey[row * width + x] = bit ? 235 - lift : 16 + lift
        })
        expect(readEdgeCode(grey, width, { x: 0, y, width, height })).toEqual({ clip, frame })
      },
    ),
    { numRuns: 60 },
  )
  expect(readEdgeCode(new Uint8Array(320 * 180).fill(90), 320, { x: 0, y: 0, width: 320, height: 180 })).toBeNull()
})

describe('estimates', () => {
  const piece = { frames: 250, size: { width: 1920, height: 1080 }, pixelAspect: 1, channels: 2, seconds: 10 }
  it('of space grow with frames, size and sound', () => {
    const spec = specOf('ProRes proxy 1080')
    if (!spec) throw new Error('no spec')
    const one = bytesUnder(spec, piece)
    expect(bytesUnder(spec, { ...piece, frames: 500, seconds: 20 })).toBeGreaterThan(one * 1.9)
    expect(bytesUnder(spec, { ...piece, channels: 0 })).toBe(one - 10 * 2 * 48000 * 3)
  })
  it('of time left follow what has been done', () => {
    expect(secondsLeft(25, 100, 10)).toBe(30)
    expect(secondsLeft(0, 100, 10)).toBeNull()
  })
  it('are read in decimal units', () => expect([999, 1_300_000_000, 42_800_000].map(bytesText)).toEqual(['999 B', '1.3 GB', '42.8 MB']))
  it('never enlarge, and say what is lost', () => {
    for (const s of specs) expect(sizeUnder(s, { width: 640, height: 360 })).toEqual({ width: 640, height: 360 })
    expect(lossesUnder(specs[0] as (typeof specs)[number], { depth: 10, chroma: '4:2:2' })).toEqual([
      '8 bit, the original has 10',
      '4:2:0 colour, the original has 4:2:2',
    ])
  })
})

describe('notices', () => {
  const t = (facts: Partial<Technical>): Technical => ({
    wrapper: 'mov',
    codec: 'H.264 High',
    width: 1920,
    height: 1080,
    pixelAspect: 1,
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
    sampleOffset: 0,
    hasPicture: true,
    dataRate: 1,
    sequence: null,
    fault: null,
    ...facts,
  })
  const codes = (facts: Partial<Technical>, more = {}) =>
    noticesOf({ technical: t(facts), reel: 'A001', sameNames: 0, projectRate: rate(25), ...more }).map((n) => n.code)
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
  it('know a stamp from any other comment', () => {
    expect(readStamp(stampText('12-ab', 900000, rate(25)))).toBe('12-ab')
    expect(readStamp('shot by the harbour')).toBeNull()
  })
})

describe('the day chart', () => {
  const clips = [
    { id: '1', lane: 'A001', day: 'Day 1', start: 36000, length: 4 },
    { id: '2', lane: 'A001', day: 'Day 1', start: 36600, length: 8 },
    { id: '3', lane: 'Deck', day: 'Day 1', start: null, length: 4 },
    { id: '4', lane: 'B001', day: 'Day 2', start: 36000, length: 4 },
  ]
  it('keeps true lengths, folds idle time, and sets clips without timecode apart', () => {
    const c = dayChart(clips)
    expect(c.lanes).toEqual([
      { name: 'A001', note: '' },
      { name: 'B001', note: '' },
      { name: 'Deck', note: 'no timecode' },
    ])
    const [a, b, deck, second] = c.clips as unknown as [
      { x: number; width: number; lane: number },
      { x: number; width: number; lane: number },
      { lane: number; width: number },
      { x: number },
    ]
    expect(b.width / a.width).toBeCloseTo(2)
    expect(b.x - a.x - a.width).toBeLessThan(a.width)
    expect(second.x).toBeGreaterThan(b.x + b.width)
    expect([deck.lane, deck.width]).toEqual([2, a.width])
    expect(c.marks.map((m) => m.day)).toContain('Day 2')
  })
  it('keeps every clip inside', () => {
    const any = fc.array(
      fc.record({
        id: fc.uuid(),
        lane: fc.constantFrom('a', 'b'),
        day: fc.constantFrom('1', '2'),
        start: fc.option(fc.nat(86399)),
        length: fc.integer({ min: 1, max: 300 }),
      }),
      { maxLength: 30 },
    )
    fc.assert(
      fc.property(any, (list) => {
        for (const p of dayChart(list).clips) expect(p.x >= 0 && p.x + p.width <= 1.0001).toBe(true)
      }),
    )
  })
})
