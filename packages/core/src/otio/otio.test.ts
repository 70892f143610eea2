import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { type OtioClip, type OtioGap, type OtioTrack, readOtio, writeOtio } from './index.ts'

const pal = rate(25)
const clip = (facts: Partial<OtioClip> = {}): OtioClip => ({
  kind: 'clip',
  name: 'A001C001_SF.mov',
  rate: pal,
  sourceIn: 900010,
  recordLength: 20,
  media: { kind: 'file', url: '/Quay drive/A001C001_SF.mov', start: 900000, length: 100, sequence: null },
  transition: null,
  speed: null,
  effects: [],
  markers: [],
  metadata: {},
  ...facts,
})
const dissolve = (frames: number, fromBlack = false) => ({ frames, type: 'dissolve', code: 'D', fromBlack })
const gap = (length: number): OtioGap => ({ kind: 'gap', length })
const document = (tracks: OtioTrack[], r = pal, start = 90000) => JSON.parse(writeOtio({ name: 'cut', start, rate: r, tracks }))
const written = (items: OtioTrack['items'], r = pal) => document([{ name: 'V1', medium: 'Video', items }], r)

/** Every object of the document, itself included. */
function* objects(x: unknown): Generator<Record<string, unknown>> {
  if (Array.isArray(x)) for (const y of x) yield* objects(y)
  else if (x && typeof x === 'object') {
    yield x as Record<string, unknown>
    for (const y of Object.values(x)) yield* objects(y)
  }
}

describe('a written timeline', () => {
  it('begins where the record timecode does', () => {
    const t = written([clip()])
    expect([t.OTIO_SCHEMA, t.global_start_time, t.tracks.OTIO_SCHEMA]).toEqual([
      'Timeline.1',
      { OTIO_SCHEMA: 'RationalTime.1', rate: 25, value: 90000 },
      'Stack.1',
    ])
  })
  it('keeps its tracks in order, each with its kind', () => {
    const { tracks } = document([
      { name: 'V1', medium: 'Video', items: [clip()] },
      { name: 'A1', medium: 'Audio', items: [gap(5), clip()] },
    ])
    expect(tracks.children.map((t: { name: string; kind: string }) => [t.name, t.kind])).toEqual([
      ['V1', 'Video'],
      ['A1', 'Audio'],
    ])
    expect(tracks.children[1].children.map((c: { OTIO_SCHEMA: string }) => c.OTIO_SCHEMA)).toEqual(['Gap.1', 'Clip.2'])
  })
  it('points at numbered pictures as such, and comes back to the first of them', () => {
    const sequence = { base: 'moon.', ext: 'png', digits: 4, first: 1001, last: 1100, missing: [] }
    const t = written([clip({ media: { kind: 'file', url: '/Plates/moon.1001.png', start: 0, length: 100, sequence }, sourceIn: 10 })])
    expect(t.tracks.children[0].children[0].media_references.DEFAULT_MEDIA).toMatchObject({
      ...{ OTIO_SCHEMA: 'ImageSequenceReference.1', target_url_base: '/Plates/', name_prefix: 'moon.', name_suffix: '.png' },
      ...{ start_frame: 1001, frame_step: 1, frame_zero_padding: 4, rate: 25 },
    })
    const [back] = readOtio(JSON.stringify(t), { rate: pal, file: 'x.otio', otherwise: pal }).value.events
    expect([back?.sourceFile, back?.sourceIn.f]).toEqual(['/Plates/moon.1001.png', 10])
  })
  it('says where media stands, how much of it there is, and which part is used', () => {
    const [c] = written([clip()]).tracks.children[0].children
    const media = c.media_references[c.active_media_reference_key]
    expect(media.target_url).toBe('/Quay drive/A001C001_SF.mov')
    expect([media.available_range.start_time.value, media.available_range.duration.value]).toEqual([900000, 100])
    expect([c.source_range.start_time.value, c.source_range.duration.value]).toEqual([900010, 20])
  })
  it('counts a clip at its own rate where its length is whole there, else at the cut’s, and a fractional rate as the number it is', () => {
    const film = rate(24000, 1001)
    const t = written([clip({ rate: rate(50) }), clip({ rate: film, recordLength: 20 })], rate(25))
    const [fast, slow] = t.tracks.children[0].children
    expect(fast.source_range.duration).toMatchObject({ rate: 50, value: 40 })
    expect(slow.source_range.duration).toMatchObject({ rate: 25, value: 20 })
    expect(slow.source_range.start_time.rate).toBeCloseTo(23.976, 3)
  })
  it('puts a dissolve before the clip that comes in, wholly after the cut', () => {
    const [, d, c] = written([clip(), clip({ transition: dissolve(12), name: 'B' })]).tracks.children[0].children
    expect([d.OTIO_SCHEMA, d.transition_type, d.in_offset.value, d.out_offset.value, c.name]).toEqual(['Transition.1', 'SMPTE_Dissolve', 0, 12, 'B'])
  })
  it('puts an empty gap before a fade from black that follows a clip', () => {
    const children = written([clip(), clip({ transition: dissolve(12, true) })]).tracks.children[0].children
    expect(children.map((c: { OTIO_SCHEMA: string }) => c.OTIO_SCHEMA)).toEqual(['Clip.2', 'Gap.1', 'Transition.1', 'Clip.2'])
  })
  it('writes another speed as a linear time warp, and none as a freeze', () => {
    const effects = (speed: number | null) => written([clip({ speed })]).tracks.children[0].children[0].effects
    expect(effects(-0.5)).toMatchObject([{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: -0.5 }])
    expect(effects(0)).toMatchObject([{ OTIO_SCHEMA: 'FreezeFrame.1' }])
    expect(effects(null)).toEqual([])
  })
  it('gives every object of the schema a known name and version', () => {
    const known = new Set([
      ...['Timeline.1', 'Stack.1', 'Track.1', 'Clip.2', 'Gap.1', 'Transition.1', 'Marker.2', 'MissingReference.1', 'GeneratorReference.1'],
      ...['ExternalReference.1', 'RationalTime.1', 'TimeRange.1', 'LinearTimeWarp.1'],
    ])
    const t = written([
      clip(),
      gap(3),
      clip({ transition: dissolve(2), speed: 2, markers: [{ at: 900012, length: 0, text: 'here', colour: 'RED' }] }),
      clip({ media: { kind: 'missing', available: null, url: null } }),
      clip({ media: { kind: 'generator', generator: 'black' } }),
    ])
    const names = [...objects(t)].flatMap((o) => (typeof o.OTIO_SCHEMA === 'string' ? [o.OTIO_SCHEMA] : []))
    expect(names.filter((n) => !known.has(n))).toEqual([])
    expect(new Set(names)).toEqual(known)
  })
  it('is as long as its items, whatever they are', () => {
    const item = fc.oneof(
      fc.integer({ min: 1, max: 500 }).map(gap),
      fc.record({ n: fc.integer({ min: 1, max: 500 }), fast: fc.boolean() }).map(({ n, fast }) => clip({ recordLength: n, rate: rate(fast ? 50 : 25) })),
    )
    fc.assert(
      fc.property(fc.array(item, { minLength: 1, maxLength: 12 }), (items) => {
        type Item = { source_range: { duration: { value: number; rate: number } } }
        const children = written(items).tracks.children[0].children as Item[]
        const seconds = children.reduce((s, c) => s + c.source_range.duration.value / c.source_range.duration.rate, 0)
        const wanted = items.reduce((s, i) => s + (i.kind === 'gap' ? i.length : i.kind === 'clip' ? i.recordLength : 0) / 25, 0)
        expect(seconds).toBeCloseTo(wanted, 6)
      }),
    )
  })
})
