import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut, type Cut, type CutEvent } from '../cutlist/index.ts'
import { digitsAt, rate } from '../time/index.ts'
import { type Change, changeText, compareCuts, toldAlong } from './index.ts'

const pal = rate(25)
interface Row {
  clip: string
  from: number
  length: number
  track?: string
  gap?: number
  speed?: { num: number; den: number } | null
}
/** Rows one after another, each track for itself. */
function cutOf(rows: readonly Row[]): Cut {
  const ends = new Map<string, number>()
  const events = rows.map((r, i): CutEvent => {
    const track = r.track ?? 'V1'
    const recordIn = (ends.get(track) ?? 90_000) + (r.gap ?? 0)
    ends.set(track, recordIn + r.length)
    return {
      ...{
        id: '',
        number: String(i + 1),
        track,
        medium: track.startsWith('V') ? 'picture' : 'sound',
        kind: 'camera',
        reel: 'A001',
        clipName: `${r.clip}.mov`,
        sourceFile: null,
      },
      ...{ sourceIn: digitsAt(r.from, pal), sourceOut: digitsAt(r.from + r.length, pal), recordIn, recordOut: recordIn + r.length },
      ...{ transition: { type: 'cut', frames: 0, code: 'C', fromBlack: false }, speed: r.speed ?? null, comments: [], file: 0, firstLine: i, lastLine: i },
    }
  })
  return assembleCut('cut', pal, [{ events, drop: false }])
}
const rows: Row[] = [
  { clip: 'a', from: 100, length: 50 },
  { clip: 'b', from: 200, length: 40 },
  { clip: 'c', from: 300, length: 30 },
  { clip: 'a', from: 400, length: 20 },
]
const told = (after: readonly Row[], before: readonly Row[] = rows) =>
  compareCuts(cutOf(before), cutOf(after)).map((c) => [c.kind, c.before?.number ?? null, c.after?.number ?? null, changeText(c)])

describe('two turnovers', () => {
  it('that are alike have no change', () => expect(told(rows).every(([kind]) => kind === 'same')).toBe(true))
  it('tell what is new, and what moved with it', () =>
    expect(told(rows.toSpliced(1, 0, { clip: 'n', from: 0, length: 12 }))).toEqual([
      ['same', '1', '1', ''],
      ['new', null, '2', ''],
      ['moved', '2', '3', '12 frames later in the cut'],
      ['moved', '3', '4', '12 frames later in the cut'],
      ['moved', '4', '5', '12 frames later in the cut'],
    ]))
  it('tell what is gone, where it stood', () => expect(told(rows.toSpliced(1, 1)).map((c) => c[0])).toEqual(['same', 'gone', 'moved', 'moved']))
  it('tell a trim at head and tail, with the frames', () =>
    expect(told(rows.with(1, { clip: 'b', from: 212, length: 25 }))[1]).toEqual([
      'trimmed',
      '2',
      '2',
      'begins 12 frames later in its source; ends 3 frames earlier in its source',
    ]))
  it('tell what changed its place among others', () => {
    const swapped = told([rows[0], rows[2], rows[1], rows[3]] as Row[])
    expect(swapped.filter((c) => String(c[3]).includes('out of its order'))).toHaveLength(1)
    expect(swapped.map((c) => c[0])).toEqual(['same', 'moved', 'moved', 'same'])
  })
  it('tell other speeds, tracks, names, and another part of the clip', () => {
    expect(told(rows.with(0, { clip: 'a', from: 100, length: 50, speed: { num: 1, den: 2 } }))[0]).toEqual([
      'changed',
      '1',
      '1',
      'ends 25 frames earlier in its source; speed 100 % → 50 %',
    ])
    expect(told(rows.with(3, { clip: 'a', from: 400, length: 20, track: 'V2' }))).toContainEqual([
      'changed',
      '4',
      '4',
      'on V2 instead of V1; 120 frames earlier in the cut, out of its order',
    ])
    expect(told(rows.with(2, { clip: 'other', from: 300, length: 30 }))[2]?.[3]).toBe('called other.mov instead of c.mov')
    expect(told(rows.with(2, { clip: 'c', from: 900, length: 30 }))[2]?.[3]).toContain('another part of the clip')
  })
  it('take two uses of one clip for what they are, by their frames', () => {
    const after = [rows[3], rows[1], rows[2], rows[0]] as Row[]
    expect(
      compareCuts(cutOf(rows), cutOf(after))
        .filter((c) => c.before?.clipName === 'a.mov')
        .map((c) => [c.before?.number, c.after?.number]),
    ).toEqual([
      ['4', '1'],
      ['1', '4'],
    ])
  })
  it('of many uses of one clip are compared within reason', () => {
    const many = Array.from({ length: 3000 }, (_, i): Row => ({ clip: 'a', from: i * 10, length: 5 }))
    expect(compareCuts(cutOf(many), cutOf(many.map((r) => ({ ...r, length: 6 })))).length).toBeGreaterThanOrEqual(3000)
  })
})

const anyRow = fc.record({
  clip: fc.constantFrom('a', 'b', 'c'),
  from: fc.nat(200),
  length: fc.integer({ min: 1, max: 40 }),
  track: fc.constantFrom('V1', 'V2', 'A1'),
  gap: fc.nat(5),
})
describe('a comparison', () => {
  it('holds every event of either turnover once', () => {
    fc.assert(
      fc.property(fc.array(anyRow, { maxLength: 12 }), fc.array(anyRow, { maxLength: 12 }), (x, y) => {
        const [a, b] = [cutOf(x), cutOf(y)]
        const changes = compareCuts(a, b)
        const ids = (list: (CutEvent | null)[]) => list.flatMap((e) => (e ? [e.id] : [])).sort()
        expect(ids(changes.map((c) => c.before))).toEqual(a.events.map((e) => e.id).sort())
        expect(ids(changes.map((c) => c.after))).toEqual(b.events.map((e) => e.id).sort())
        for (const c of changes) expect(c.kind === 'gone' || c.kind === 'new').toBe(c.before === null || c.after === null)
      }),
    )
  })
  it('of a cut with itself tells no change, and of a whole that is shifted only that', () => {
    fc.assert(
      fc.property(fc.array(anyRow, { minLength: 1, maxLength: 12 }), fc.integer({ min: 1, max: 50 }), (x, by) => {
        expect(compareCuts(cutOf(x), cutOf(x)).every((c) => c.kind === 'same')).toBe(true)
        const cut = cutOf(x)
        const later = { ...cut, events: cut.events.map((e) => ({ ...e, recordIn: e.recordIn + by, recordOut: e.recordOut + by })) }
        const changes = compareCuts(cut, later)
        // Two uses of the very same frames are told apart by nothing but their order.
        if (new Set(x.map((r) => `${r.clip} ${r.from} ${r.length}`)).size === x.length)
          expect(changes.every((c) => c.kind === 'moved' && c.moved === by && !c.outOfOrder)).toBe(true)
      }),
    )
  })
})

describe('what moved along', () => {
  const change = (kind: Change['kind'], moved = 0, outOfOrder = false) => ({ kind, moved, outOfOrder })
  it('is told as one: a run that keeps its order and moves by as much, whatever else changed between', () => {
    const list = [change('same'), change('moved', 12), change('trimmed', 12), change('moved', 12), change('moved', 12), change('moved', -3)]
    expect(toldAlong(list).map((t) => [list.indexOf(t.first), t.rest.map((r) => list.indexOf(r))])).toEqual([
      [0, []],
      [1, [3, 4]],
      [2, []],
      [5, []],
    ])
  })
  it('leaves alone what is out of order, and what are too few', () => {
    const list = [change('moved', 12), change('moved', 12, true), change('moved', 12), change('moved', 40), change('moved', 12)]
    expect(toldAlong(list).map((t) => t.first)).toEqual(list)
  })
  it('holds every change once, in order', () => {
    const any = fc.record({
      kind: fc.constantFrom<Change['kind']>('same', 'moved', 'moved', 'trimmed', 'new', 'gone'),
      moved: fc.constantFrom(0, 5, 12),
      outOfOrder: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(any, { maxLength: 40 }), (list) => {
        const told = toldAlong(list)
        const all = told.flatMap((t) => [t.first, ...t.rest])
        expect(new Set(all)).toEqual(new Set(list))
        expect(all).toHaveLength(list.length)
        expect(told.map((t) => list.indexOf(t.first))).toEqual(told.map((t) => list.indexOf(t.first)).sort((a, b) => a - b))
        for (const t of told) for (const r of t.rest) expect([r.kind, r.moved, r.outOfOrder]).toEqual(['moved', t.first.moved, false])
      }),
    )
  })
})
