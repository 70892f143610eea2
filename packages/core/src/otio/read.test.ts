import { describe, expect, it } from 'vitest'
import { assembleCut, type CutEvent } from '../cutlist/index.ts'
import { rate, timecodeText } from '../time/index.ts'
import { deepest, readJson } from './json.ts'
import { readOtio } from './index.ts'
import { fractionOf } from './values.ts'

const pal = rate(25)
const time = (value: number, r = 25) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: r, value })
const range = (start: number, length: number, r = 25) => ({ OTIO_SCHEMA: 'TimeRange.1', start_time: time(start, r), duration: time(length, r) })
const file = (url: string, start = 900_000, length = 500, r = 25) => ({
  OTIO_SCHEMA: 'ExternalReference.1',
  target_url: url,
  available_range: range(start, length, r),
})
type Any = Record<string, unknown>
const clip = (name: string, start = 900_010, length = 20, more: Any = {}) => ({ OTIO_SCHEMA: 'Clip.2', name, source_range: range(start, length), ...more })
const gap = (length: number) => ({ OTIO_SCHEMA: 'Gap.1', source_range: range(0, length) })
const transition = (before: number, after: number, type = 'SMPTE_Dissolve') => ({
  OTIO_SCHEMA: 'Transition.1',
  transition_type: type,
  in_offset: time(before),
  out_offset: time(after),
})
const track = (children: unknown[], more: Any = {}) => ({ OTIO_SCHEMA: 'Track.1', kind: 'Video', children, ...more })
const stack = (children: unknown[], more: Any = {}) => ({ OTIO_SCHEMA: 'Stack.1', children, ...more })
const timeline = (children: unknown[], more: Any = {}) => ({
  OTIO_SCHEMA: 'Timeline.1',
  name: 'cut 7',
  global_start_time: time(90_000),
  tracks: stack(children),
  ...more,
})
const read = (value: unknown, r?: ReturnType<typeof rate>) =>
  readOtio(typeof value === 'string' ? value : JSON.stringify(value, null, 1), { rate: r, otherwise: pal, file: 'cut.otio' })
const events = (...children: unknown[]) => read(timeline([track(children)])).value.events
const where = (e: CutEvent) => [e.track, e.clipName, timecodeText(e.sourceIn), e.recordIn - 90_000, e.recordOut - 90_000]

describe('a timeline', () => {
  it('gives events with name, file, reel, ranges and lines', () => {
    const text = JSON.stringify(
      timeline([
        track([
          clip('a.mov', 900_010, 20, { media_references: { DEFAULT_MEDIA: file('file:///Quay%20drive/a.mov') }, metadata: { camera: { reel_name: 'A001' } } }),
        ]),
      ]),
      null,
      1,
    )
    const { value, problems } = read(text)
    expect(problems).toEqual([])
    expect([value.title, value.rate]).toEqual(['cut 7', pal])
    const [e] = value.events
    expect(e).toMatchObject({
      ...{
        number: '001',
        track: 'V1',
        kind: 'camera',
        reel: 'A001',
        clipName: 'a.mov',
        sourceFile: '/Quay drive/a.mov',
        sourceRate: pal,
        recordIn: 90_000,
        recordOut: 90_020,
      },
      media: { start: 900_000, length: 500 },
    })
    const lines = text.split('\n')
    expect([lines[(e?.firstLine ?? 0) - 1]?.trim(), lines[e?.firstLine ?? 0]?.trim()]).toEqual(['{', '"OTIO_SCHEMA": "Clip.2",'])
    expect(lines[(e?.lastLine ?? 0) - 1]?.trim()).toBe('}')
  })
  it('places items one after another, gaps between, and sound on tracks of its own', () => {
    const { value } = read(timeline([track([clip('a'), gap(5), clip('b')]), track([gap(2), clip('c.wav')], { kind: 'Audio' })]))
    expect(value.events.map(where)).toEqual([
      ['V1', 'a', '10:00:00:10', 0, 20],
      ['V1', 'b', '10:00:00:10', 25, 45],
      ['A1', 'c.wav', '10:00:00:10', 2, 22],
    ])
  })
  it('of an older file has one media reference, and tracks called sequences', () => {
    const old = { OTIO_SCHEMA: 'Clip.1', name: 'a', source_range: null, media_reference: file('/x/a.mov', 900_000, 30) }
    expect(read(timeline([{ ...track([old]), OTIO_SCHEMA: 'Sequence.1' }])).value.events.map(where)).toEqual([['V1', 'a', '10:00:00:00', 0, 30]])
  })
  it('of several references uses the active one, and keeps the others', () => {
    const refs = { media_references: { hq: file('/x/a_hq.mov'), light: file('/y/a_light.mov') }, active_media_reference_key: 'light' }
    expect(events(clip('a', 900_010, 20, refs))[0]).toMatchObject({ sourceFile: '/y/a_light.mov', otherFiles: ['/x/a_hq.mov'], otio: { active: 'light' } })
  })
  it('of a numbered sequence names its first file', () => {
    const reference = {
      OTIO_SCHEMA: 'ImageSequenceReference.1',
      target_url_base: 'file:///m',
      name_prefix: 'moon_',
      name_suffix: '.png',
      start_frame: 7,
      frame_zero_padding: 4,
    }
    expect(events(clip('moon', 0, 20, { media_references: { DEFAULT_MEDIA: reference } }))[0]?.sourceFile).toBe('/m/moon_0007.png')
  })
  it('of made pictures needs no original', () => {
    const made = (kind: string) => clip('x', 0, 20, { media_references: { DEFAULT_MEDIA: { OTIO_SCHEMA: 'GeneratorReference.1', generator_kind: kind } } })
    expect(events(made('SMPTEBars'), made('black'), made('text')).map((e) => e.kind)).toEqual(['bars', 'black', 'title'])
  })
  it('among several in a collection is the first, and that is said', () => {
    const { value, problems } = read({ OTIO_SCHEMA: 'SerializableCollection.1', children: [timeline([track([clip('a')])]), timeline([track([clip('b')])])] })
    expect([value.events.map((e) => e.clipName), problems.map((p) => p.code)]).toEqual([['a'], ['other-timelines']])
  })
  it('carries corrections and remarks as metadata of lists has them', () => {
    const [e] = events(
      clip('a', 900_010, 20, {
        metadata: { cmx_3600: { reel: 'A7', comments: ['* NICE'] }, cdl: { asc_sop: { slope: [1, 2, 3], offset: [0, 0, 0], power: [1, 1, 1] }, asc_sat: 0.5 } },
      }),
    )
    expect([e?.reel, e?.comments, e?.cdl?.slope, e?.cdl?.saturation]).toEqual(['A7', ['* NICE'], [1, 2, 3], 0.5])
  })
})

describe('a transition', () => {
  it('around the cut begins the event that comes in, earlier in record and source alike', () => {
    const [a, b] = events(clip('a'), transition(4, 6), clip('b', 900_100, 30))
    expect([a && where(a), b && where(b), b?.transition]).toEqual([
      ['V1', 'a', '10:00:00:10', 0, 16],
      ['V1', 'b', '10:00:03:21', 16, 50],
      { type: 'dissolve', frames: 10, code: 'D', fromBlack: false },
    ])
  })
  it('out of nothing is a fade from black, into nothing a fade to black', () => {
    const list = events(transition(0, 10), clip('a'), transition(8, 0), gap(5), clip('b'), transition(6, 0))
    expect(list.map((e) => [e.kind, e.recordIn - 90_000, e.recordOut - 90_000, e.transition.frames, e.transition.fromBlack])).toEqual([
      ['camera', 0, 12, 10, true],
      ['black', 12, 20, 8, false],
      ['camera', 25, 39, 0, false],
      ['black', 39, 45, 6, false],
    ])
  })
  it('of another kind is kept by its name', () =>
    expect(events(clip('a'), transition(0, 6, 'Iris'), clip('b'))[1]?.transition).toMatchObject({ type: 'wipe', code: 'Iris' }))
})

describe('speed', () => {
  const warp = (...scalars: number[]) => ({ effects: scalars.map((time_scalar) => ({ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar })) })
  it.each([
    [0.5, 1, 2],
    [1 / 3, 1, 3],
    [-2, -2, 1],
    [24000 / 25025, 960, 1001],
  ])('of %f is the fraction %i/%i', (scalar, num, den) => expect(events(clip('a', 900_010, 20, warp(scalar)))[0]?.speed).toEqual({ num, den }))
  it('of several warps is their product, of a freeze nothing, of one none', () => {
    const freeze = { effects: [{ OTIO_SCHEMA: 'FreezeFrame.1' }] }
    expect([events(clip('a', 0, 20, warp(0.5, 4)))[0]?.speed, events(clip('a', 0, 20, freeze))[0]?.speed, events(clip('a', 0, 20, warp(1)))[0]?.speed]).toEqual(
      [{ num: 2, den: 1 }, { num: 0, den: 1 }, null],
    )
  })
  it('backwards has the range that is shown, the last frame of it first', () => {
    const [e] = events(clip('a', 900_000, 20, warp(-2)))
    expect([e?.sourceIn, e?.sourceOut].map((t) => t && timecodeText(t))).toEqual(['10:00:00:00', '10:00:01:15'])
  })
  it('finds the simplest fraction', () =>
    expect([fractionOf(0), fractionOf(Number.NaN), fractionOf(1e9), fractionOf(1.25)]).toEqual([{ num: 0, den: 1 }, null, null, { num: 5, den: 4 }]))
})

describe('groups', () => {
  it('within a track lie flat on tracks above it, trimmed to what shows of them', () => {
    const inner = stack([track([clip('a', 900_000, 50)]), track([gap(10), clip('b', 900_000, 20)])], { source_range: range(5, 20) })
    const list = read(timeline([track([gap(3), inner, clip('c')]), track([clip('d')])])).value
    expect(assembleCut('x', pal, [list]).events.map(where)).toEqual([
      ['V1', 'a', '10:00:00:05', 3, 23],
      ['V1', 'c', '10:00:00:10', 23, 43],
      ['V2', 'b', '10:00:00:00', 8, 23],
      ['V3', 'd', '10:00:00:10', 0, 20],
    ])
  })
  it('at another speed slow down what is within', () => {
    const inner = track([clip('a', 900_000, 50)], { source_range: range(10, 20), effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 0.5 }] })
    const [e] = events(inner)
    expect([e && where(e), e?.speed]).toEqual([['V1', 'a', '10:00:00:10', 0, 20], { num: 1, den: 2 }])
  })
  it('carry sound of their own', () => {
    const inner = stack([track([clip('a')]), track([clip('a.wav')], { kind: 'Audio' })])
    expect(read(timeline([track([inner]), track([clip('m.wav', 0, 10)], { kind: 'Audio' })])).value.events.map((e) => [e.track, e.clipName])).toEqual([
      ['V1', 'a'],
      ['A2', 'a.wav'],
      ['A1', 'm.wav'],
    ])
  })
  it('as deep as a well are read to a depth, and kept below it', () => {
    let inner: unknown = clip('deep')
    for (let i = 0; i < 60; i++) inner = stack([track([inner])])
    const { value, problems } = read(timeline([track([clip('a'), inner])]))
    expect([value.events.map((e) => e.clipName), problems.some((p) => p.code === 'nested' || p.code === 'time')]).toEqual([['a'], true])
  })
})

describe('times', () => {
  it('at other rates come to whole frames; those that do not are told', () => {
    const ms = clip('a', 0, 0, { source_range: { start_time: time(36_000_400, 1000), duration: time(1010, 1000) } })
    const { value, problems } = read(timeline([track([ms, clip('b')])]))
    expect(value.events.map(where)).toEqual([
      ['V1', 'a', '10:00:00:10', 0, 25],
      ['V1', 'b', '10:00:00:10', 25, 45],
    ])
    expect(problems.map((p) => [p.code, p.severity]).slice(0, 2)).toEqual([
      ['between-frames', 'warning'],
      ['between-frames', 'warning'],
    ])
  })
  it('between frames do not add up', () => {
    const odd = (n: number) => clip(`c${n}`, 0, 0, { source_range: { start_time: time(0), duration: time(1.3) } })
    expect(events(...Array.from({ length: 10 }, (_, i) => odd(i))).at(-1)?.recordOut).toBe(90_013)
  })
  it('count at 23.976 as at 24, and at the rate that was asked for', () => {
    const film = timeline([track([clip('a', 0, 0, { source_range: range(86_410, 48, 23.976023976) })])], { global_start_time: time(86_400, 24) })
    expect(read(film).value.rate).toEqual(rate(24))
    expect(read(film, rate(24000, 1001)).value.events[0]).toMatchObject({ recordIn: 86_400, recordOut: 86_448 })
  })
  it.each([
    ['NaN', '"value":NaN'],
    ['endless', '"value":1e999'],
    ['words', '"value":"ten"'],
    ['negative', '"value":-5'],
  ])('that are none lose only their own clip: %s', (_w, text) => {
    const bad = JSON.stringify(timeline([track([clip('a'), clip('b', 900_010, 77), clip('c')])])).replace('"rate":25,"value":77', `"rate":25,${text}`)
    const { value, problems } = read(bad)
    expect([value.events.map((e) => e.clipName), problems.some((p) => p.severity === 'error')]).toEqual([['a', 'c'], true])
  })
})

describe('what is not understood', () => {
  it('is kept where it stands, and what follows stays in its place', () => {
    const { value, problems } = read(timeline([track([clip('a'), { OTIO_SCHEMA: 'Hologram.4', source_range: range(0, 7), depth: 3 }, clip('b')])]))
    expect(value.events.map((e) => e.recordIn - 90_000)).toEqual([0, 27])
    expect(value.source.items).toEqual([
      expect.objectContaining({ track: 'V1', recordIn: 90_020, recordOut: 90_027, json: expect.stringContaining('Hologram.4') }),
    ])
    expect(problems.map((p) => [p.code, p.severity])).toEqual([['unknown-schema', 'warning']])
  })
  it('is told of effects, and of what is switched off', () => {
    const { problems } = read(
      timeline([
        track([clip('a', 0, 20, { effects: [{ OTIO_SCHEMA: 'Effect.1', effect_name: 'blur' }] }), clip('b', 0, 20, { enabled: false })]),
        track([clip('c')], { enabled: false }),
      ]),
    )
    expect(problems.map((p) => p.code)).toEqual(['effect', 'switched-off', 'switched-off'])
  })
})

describe('markers', () => {
  it('of clips, tracks and the whole stand at their record frames', () => {
    const marker = (at: number, name: string) => ({ OTIO_SCHEMA: 'Marker.2', name, color: 'RED', comment: 'see', marked_range: range(at, 1) })
    const { value } = read(
      timeline([track([gap(10), clip('a', 900_010, 20, { markers: [marker(900_015, 'in clip')] })], { markers: [marker(3, 'on track')] })], {
        markers: [marker(7, 'on all')],
      }),
    )
    expect(value.events[0]?.markers).toEqual([{ at: 90_015, length: 1, text: 'in clip: see', colour: 'RED' }])
    expect(value.markers?.map((m) => [m.at, m.text])).toEqual([
      [90_003, 'on track: see'],
      [90_007, 'on all: see'],
    ])
  })
})

describe('damaged files', () => {
  const text = JSON.stringify(timeline([track([clip('a'), clip('b'), clip('c')])]), null, 1)
  it('that break off give what stands before, and the line', () => {
    const cut = text.slice(0, text.indexOf('"name": "c"'))
    const { value, problems } = read(cut)
    expect(value.events.map((e) => e.clipName)).toEqual(['a', 'b'])
    expect(problems[0]).toMatchObject({ code: 'json', severity: 'error', line: cut.split('\n').length })
  })
  it.each(['', '[]', '7', '{}', '"x"', 'null', '{"OTIO_SCHEMA":"Clip.1"}', '{"OTIO_SCHEMA":"Timeline.1"}', '{"OTIO_SCHEMA":"Timeline.1","tracks":7}'])(
    'are no timeline: %s',
    (t) => {
      const { value, problems } = read(t)
      expect([value.events, problems.some((p) => p.severity === 'error')]).toEqual([[], true])
    },
  )
  it('as deep as a well are refused without a fall', () => {
    const deep = '['.repeat(200_000)
    expect(readJson(deep).fault).toMatchObject({ line: 1, text: expect.stringContaining(String(deepest)) })
    expect(read(`{"OTIO_SCHEMA":"Timeline.1","tracks":${'{"children":['.repeat(50_000)}`).value.events).toEqual([])
  })
  it('have no keys that are special', () => {
    expect(Object.keys(readJson('{"__proto__":{"x":1},"constructor":2}').value as object)).toEqual(['__proto__', 'constructor'])
    expect(({} as Any).x).toBeUndefined()
  })
})
