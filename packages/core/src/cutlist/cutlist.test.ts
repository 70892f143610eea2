import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { assembleCut, type CutEvent, kindOf } from './index.ts'

const pal = rate(25)
const zero = { h: 0, m: 0, s: 0, f: 0, drop: false }
const event = (number: string, track: string, recordIn: number, recordOut: number): CutEvent => ({
  id: `x/${track}/${number}`,
  number,
  track,
  medium: track.startsWith('V') ? 'picture' : 'sound',
  kind: 'camera',
  reel: 'A001',
  clipName: null,
  sourceFile: null,
  sourceIn: zero,
  sourceOut: zero,
  recordIn,
  recordOut,
  transition: { type: 'cut', frames: 0, code: 'C', fromBlack: false },
  speed: null,
  comments: [],
  file: 0,
  firstLine: 1,
  lastLine: 1,
})
const list = (...events: CutEvent[]) => ({ events, drop: false })

describe('several lists', () => {
  it('on tracks of their own become one cut, from the first record-in to the last record-out', () => {
    const cut = assembleCut('cut', pal, [list(event('001', 'V1', 90010, 90050)), list(event('001', 'A1', 90000, 90060))])
    expect(cut.events.map((e) => [e.id, e.file])).toEqual([
      ['cut/V1/001', 0],
      ['cut/A1/001', 1],
    ])
    expect([cut.start, cut.length]).toEqual([90000, 60])
  })
  it('on the same track at the same time are stacked, the whole track of the later one', () => {
    const cut = assembleCut('cut', pal, [
      list(event('001', 'V1', 0, 50)),
      list(event('001', 'V1', 40, 60), event('002', 'V1', 200, 220)),
      list(event('001', 'V1', 45, 55)),
    ])
    expect(cut.events.map((e) => e.id)).toEqual(['cut/V1/001', 'cut/V2/001', 'cut/V2/002', 'cut/V3/001'])
  })
  it('on the same track one after another stay on it, as reels of a film do', () => {
    const cut = assembleCut('cut', pal, [list(event('001', 'V1', 0, 50)), list(event('001', 'V1', 50, 60))])
    expect(cut.events.map((e) => [e.id, e.recordIn])).toEqual([
      ['cut/V1/001', 0],
      ['cut/V1/001.2', 50],
    ])
  })
  it('are drop-frame if one of them is', () => {
    expect(assembleCut('cut', pal, [list(event('1', 'V1', 0, 5)), { ...list(event('1', 'A1', 0, 5)), drop: true }]).drop).toBe(true)
  })
  it('may be empty', () => expect(assembleCut('cut', pal, [list()])).toMatchObject({ start: 0, length: 0, events: [] }))
  it('lose no event, never put two of different lists over one another, and name each once', () => {
    const any = fc.record({
      number: fc.integer({ min: 1, max: 9 }),
      track: fc.constantFrom('V1', 'V2', 'A1'),
      at: fc.nat(60),
      length: fc.integer({ min: 1, max: 30 }),
    })
    fc.assert(
      fc.property(fc.array(fc.array(any, { maxLength: 5 }), { minLength: 1, maxLength: 4 }), (lists) => {
        const cut = assembleCut(
          'cut',
          pal,
          lists.map((l) => list(...l.map((e) => event(String(e.number), e.track, e.at, e.at + e.length)))),
        )
        expect(cut.events).toHaveLength(lists.flat().length)
        expect(new Set(cut.events.map((e) => e.id)).size).toBe(cut.events.length)
        for (const a of cut.events)
          for (const b of cut.events) if (a.file < b.file && a.track === b.track) expect(a.recordOut <= b.recordIn || b.recordOut <= a.recordIn).toBe(true)
      }),
    )
  })
})

describe('what an event shows', () => {
  it.each([
    ['picture', 'BL', null, 'black'],
    ['picture', 'A001', 'A001C002_SF.mov', 'camera'],
    ['picture', 'AX', null, 'camera'],
    ['picture', 'AX', 'TITLE_01', 'title'],
    ['picture', 'AX', 'Main titles', 'title'],
    ['picture', 'AX', 'Titleist harbour.mov', 'camera'],
    ['picture', 'AX', 'map of the bay.png', 'still'],
    ['sound', 'AX', 'Score 3M1.wav', 'music'],
    ['sound', 'AX', 'Ferry final mix.wav', 'mix'],
    ['sound', 'SR01', 'SF_T07.wav', 'camera'],
    // A picture is not taken for music by its name.
    ['picture', 'A001', 'Music room.mov', 'camera'],
  ] as const)('%s on reel %s called %s: %s', (medium, reel, name, kind) => expect(kindOf(medium, reel, name)).toBe(kind))
})
