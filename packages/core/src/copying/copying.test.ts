/** What edit copies are made of which clips. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Technical } from '../clip/index.ts'
import { specOf, type Spec } from '../specs/index.ts'
import { rate } from '../time/index.ts'
import { type CopyableClip, type CopyingAsk, type KnownCopy, leftOutText, neverCopied, whatToCopy } from './index.ts'

const spec = (code: string, version = 1): Spec => {
  const s = specOf(code)
  if (!s) throw new Error(code)
  return { ...s, version }
}
const proxy = spec('h264-proxy-720')
const rewrap = spec('rewrapped')
const technical = (more: Partial<Technical> = {}): Technical => ({
  ...{ wrapper: 'mov', codec: 'H.264 High', width: 1920, height: 1080, pixelAspect: 1, rotation: 0, rate: rate(25), variable: false, frames: 100, start: 0 },
  ...{ drop: false, depth: 8, chroma: '4:2:0', scan: 'progressive', longGop: true, reel: null, stamp: null, sound: null, parts: [], channelFiles: [] },
  ...{ heard: null, sampleOffset: 0, hasPicture: true, dataRate: 1e7, sequence: null, raw: null, fault: null },
  colour: { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', range: 'tv' },
  ...more,
})
const clip = (id = 'a', more: Partial<CopyableClip> = {}, t: Partial<Technical> = {}): CopyableClip & { id: string } => {
  const facts = technical(t)
  return {
    ...{ id, technical: facts, frames: 100, start: 0, light: false, away: false, gone: '' as const },
    original: { ...facts, frames: 100, interlaced: false, crop: null, plainFile: true },
    ...more,
  }
}
const all = { in: 0, out: 100 }
const copy = (more: Partial<KnownCopy> = {}): KnownCopy => ({
  ...{ spec: proxy.code, version: 1, part: null, held: all, made: 'checked', state: 'checked', damaged: false },
  ...more,
})
type Clip = ReturnType<typeof clip>
const ask = (more: Partial<CopyingAsk<Clip>> = {}) =>
  whatToCopy<Clip>({ clips: [clip()], specs: [proxy], rate: rate(25), copiesOf: () => [], used: null, again: false, leaveEasy: false, ...more })
const why = (more: Partial<CopyingAsk<Clip>>) => ask(more).left.map((l) => leftOutText(l.why))

describe('a clip is left out whatever the spec', () => {
  it.each([
    ['it cannot be decoded', {}, { fault: 'cut short' }],
    ['it has sound only', {}, { hasPicture: false }],
    ['it is an edit copy itself', {}, { stamp: 'x' }],
    ['it is, or looks like, a light copy of another clip', { light: true }, {}],
    ['its volume is away', { away: true }, {}],
    ['its file is not there any more', { gone: 'file' }, {}],
    ['its folder is not there any more', { gone: 'folder' }, {}],
  ] as const)('because %s', (text, more, t) => {
    expect(why({ clips: [clip('a', more, t)] })).toEqual([text])
    // Not even where a copy is behind, or a part is asked for.
    expect(why({ clips: [clip('a', more, t)], copiesOf: () => [copy({ state: 'out-of-date' })], again: true, used: () => [{ in: 1, out: 2 }] })).toEqual([text])
    expect(neverCopied(clip('a', more, t))).not.toBe(null)
  })
})

describe('a copy that is known', () => {
  const asked = (known: KnownCopy, more: Partial<CopyingAsk<Clip>> = {}) => {
    const done = ask({ copiesOf: () => [known], ...more })
    return [done.wanted.length, done.old, done.left.map((l) => l.why)[0] ?? null]
  }
  it.each([
    // what it is: how many are wanted, how many behind, why it is left
    ['checked', {}, [0, 0, 'there']],
    ['rewrapped', { state: 'rewrapped' }, [0, 0, 'there']],
    ['out of date', { state: 'out-of-date' }, [0, 1, 'there']],
    ['by an earlier version of the spec', { version: 0 }, [0, 1, 'there']],
    ['waiting', { made: 'waiting', state: 'waiting' }, [0, 0, 'coming']],
    ['being made', { made: 'being-made', state: 'being-made' }, [0, 0, 'coming']],
    ['failed', { made: 'failed', state: 'failed' }, [1, 0, null]],
    ['cancelled', { made: 'cancelled', state: 'cancelled' }, [1, 0, null]],
    ['gone', { state: 'gone' }, [1, 0, null]],
    ['of another spec', { spec: 'another' }, [1, 0, null]],
  ] as const)('%s', (_, more, stands) => expect(asked(copy(more))).toEqual(stands))

  it('and is behind is made again where that is asked', () => {
    expect(asked(copy({ state: 'out-of-date' }), { again: true })).toEqual([1, 1, null])
    expect(asked(copy({ version: 0 }), { again: true })).toEqual([1, 1, null])
    expect(asked(copy(), { again: true })).toEqual([0, 0, 'there'])
  })
  it('of a part stands for that part and for parts of it, and for the whole only of a damaged original', () => {
    const part = copy({ part: { in: 10, out: 50 }, held: { in: 10, out: 50 } })
    const of = (range: { in: number; out: number }) => ask({ copiesOf: () => [part], used: () => [range] }).wanted.length
    expect([of({ in: 10, out: 50 }), of({ in: 20, out: 30 }), of({ in: 9, out: 30 }), of({ in: 20, out: 51 })]).toEqual([0, 0, 1, 1])
    expect(asked(part)).toEqual([1, 0, null])
    expect(asked({ ...part, damaged: true })).toEqual([0, 0, 'there'])
    // One that failed holds nothing.
    expect(ask({ copiesOf: () => [{ ...part, made: 'failed' }], used: () => [{ in: 20, out: 30 }] }).wanted).toHaveLength(1)
  })
})

describe('what is used', () => {
  it('is copied with its ranges, each clip that is used and no other', () => {
    const clips = [clip('a'), clip('b'), clip('c')]
    const used = (c: Clip) =>
      ({
        a: [
          { in: 1, out: 5 },
          { in: 9, out: 12 },
        ],
        b: [] as { in: number; out: number }[],
      })[c.id]
    expect(ask({ clips, used }).wanted.map((w) => [w.clip.id, w.part, w.range])).toEqual([
      ['a', true, { in: 1, out: 5 }],
      ['a', true, { in: 9, out: 12 }],
      ['b', false, all],
    ])
  })
  it('of a clip without timecode is copied whole: the way back from a part would be lost', () => {
    const done = ask({
      clips: [clip('a', { start: null })],
      used: () => [
        { in: 1, out: 5 },
        { in: 9, out: 12 },
      ],
    })
    expect(done.wanted.map((w) => [w.part, w.range])).toEqual([[false, all]])
  })
})

describe('a clip that is easy to edit', () => {
  const easy = clip('easy', {}, { codec: 'ProRes 422', longGop: false })
  it('is counted, and left out where a person says so', () => {
    expect(ask({ clips: [easy, clip('b')] })).toMatchObject({ easy: 1, left: [], wanted: [{ clip: { id: 'easy' } }, { clip: { id: 'b' } }] })
    expect(ask({ clips: [easy, clip('b')], leaveEasy: true })).toMatchObject({ easy: 1, left: [{ why: 'easy' }], wanted: [{ clip: { id: 'b' } }] })
  })
  it('is not, where it is only moved into another wrapper', () => {
    expect(ask({ clips: [easy], specs: [rewrap], leaveEasy: true })).toMatchObject({ easy: 0, wanted: [{ clip: { id: 'easy' } }] })
  })
})

it('a spec that cannot be used on a clip says why, and the others are used', () => {
  const long = clip('long')
  expect(ask({ clips: [long], specs: [proxy, rewrap] }).wanted.map((w) => w.specs.map((s) => s.code))).toEqual([[proxy.code]])
  const { left } = ask({ clips: [long], specs: [rewrap] })
  expect(left).toEqual([{ clip: long, why: { unfit: expect.stringMatching(/./) } }])
})

it('every clip that is asked for is wanted or left, and none is both', () => {
  const any = fc.record({
    away: fc.boolean(),
    light: fc.boolean(),
    gone: fc.constantFrom('' as const, 'file' as const, 'folder' as const),
    start: fc.constantFrom(null, 0),
    longGop: fc.boolean(),
    codec: fc.constantFrom('H.264 High', 'ProRes 422'),
    copies: fc.array(
      fc.record({
        state: fc.constantFrom('checked', 'out-of-date', 'waiting', 'failed', 'rewrapped', 'gone'),
        version: fc.constantFrom(0, 1),
        part: fc.constantFrom(null, { in: 0, out: 10 }),
      }),
      { maxLength: 2 },
    ),
    ranges: fc.constantFrom(
      undefined,
      [],
      [{ in: 0, out: 10 }],
      [
        { in: 0, out: 10 },
        { in: 20, out: 30 },
      ],
    ),
  })
  fc.assert(
    fc.property(fc.array(any, { maxLength: 4 }), fc.boolean(), fc.boolean(), fc.boolean(), (list, byUse, again, leaveEasy) => {
      const clips = list.map((x, i) => clip(String(i), { away: x.away, light: x.light, gone: x.gone, start: x.start }, { longGop: x.longGop, codec: x.codec }))
      const of = (c: Clip) => list[Number(c.id)]
      const done = ask({
        ...{ clips, again, leaveEasy, used: byUse ? (c) => of(c)?.ranges : null },
        copiesOf: (c) =>
          of(c)?.copies.map((k) => copy({ ...k, made: k.state === 'rewrapped' || k.state === 'out-of-date' ? 'checked' : k.state, held: k.part ?? all })) ?? [],
      })
      const asked = clips.filter((c) => !byUse || of(c)?.ranges !== undefined).map((c) => c.id)
      const wanted = [...new Set(done.wanted.map((w) => w.clip.id))]
      expect([...wanted, ...done.left.map((l) => l.clip.id)].sort()).toEqual([...asked].sort())
    }),
  )
})
