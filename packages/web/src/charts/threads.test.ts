import type { EventShape, LinkRow } from '@naranja/contract'
import { describe, expect, it } from 'vitest'
import { layDays, lanesFrom, wantedBoxes, wantedLane } from './day.ts'
import { candidate, cutOf, event, laneClip, link } from './made.testing.ts'
import { recorder } from './recorder.testing.ts'
import { left } from './strip.ts'
import { drawThreads, landingsOf, layThreads, singleAtMost, type Thread, threadAt } from './threads.ts'

const lanes = [laneClip('a', 'A001', 900_000), laneClip('b', 'A002', 905_000), laneClip('c', 'A003', 910_000)]
const chart = layDays(lanes)
const clips = new Map(lanes.map((c) => [c.id, c]))
const width = 1000
const top = 200
const tied = (e: EventShape, clipId: string, state: LinkRow['state'] = 'certain') => link(e, state, false, { clipId, range: { in: 100, out: 150 } })
/** Twelve events, four of each roll in turn but one that is lost and one that could be two. */
const made = (n = 12) => {
  const events = Array.from({ length: n }, (_, i) => event('V1', String(i), i * 50, i * 50 + 50))
  const links = new Map(
    events.map((e, i) => [
      e.id,
      i === 4 ? link(e, 'not-found') : i === 5 ? link(e, 'several', false, { candidates: [candidate('a'), candidate('c')] }) : tied(e, 'abc'[i % 3] as string),
    ]),
  )
  const cut = cutOf(...events)
  const wanted = [{ name: 'reel C071', reel: 'C071', eventIds: events.filter((_, i) => i === 4).map((e) => e.id) }]
  return { cut, links, wanted, landings: landingsOf(events, links, chart, clips) }
}
const ids = (numbers: number[]) => new Set(numbers.map((n) => `cut/V1/${n}`))

describe('rolls', () => {
  it('hold the events that land on them, with those that might, and what is wanted stands for itself', () => {
    expect(made().landings.rolls).toEqual(
      new Map([
        [wantedLane, ids([4])],
        ['A001', ids([0, 3, 5, 6, 9])],
        ['A002', ids([1, 7, 10])],
        ['A003', ids([2, 5, 8, 11])],
      ]),
    )
  })
  it('leave out what needs no original, and lanes on which nothing lands', () => {
    const e = event('V1', '1', 0, 10)
    const f = event('V1', '2', 10, 20)
    expect([
      ...landingsOf(
        [e, f],
        new Map([
          [e.id, link(e, 'none-needed')],
          [f.id, tied(f, 'b')],
        ]),
        chart,
        clips,
      ).rolls.keys(),
    ]).toEqual(['A002'])
  })
})

describe('threads', () => {
  const laid = (view: { from: number; to: number }, n = 12, selected: string | null = null) => {
    const m = made(n)
    return layThreads({ ...m, view, selected, top }, width)
  }
  it('are single where all is in sight: a fork for several, every event once', () => {
    const threads = laid({ from: 0, to: 600 })
    expect(threads.map((t) => t.event?.number)).toEqual(Array.from({ length: 12 }, (_, i) => String(i)))
    expect(threads.map((t) => t.ends.length)).toEqual([1, 1, 1, 1, 1, 2, 1, 1, 1, 1, 1, 1])
  })
  it('before and behind what is in sight are bundled by roll, begin at its edges and count their events', () => {
    const threads = laid({ from: 300, to: 450 })
    const bundles = threads.filter((t) => !t.event)
    const of = (roll: string, edge: number) => bundles.filter((b) => b.roll === roll && b.from.x === edge).map((b) => b.count)
    expect(threads.filter((t) => t.event).map((t) => t.event?.number)).toEqual(['6', '7', '8'])
    expect([of('A001', left), of('A002', left), of('A003', left), of(wantedLane, left)]).toEqual([[3], [1], [2], [1]])
    expect([of('A001', width - 12), of('A002', width - 12), of('A003', width - 12)]).toEqual([[1], [1], [1]])
    expect(bundles.find((b) => b.roll === 'A001' && b.from.x === left)?.state).toBe('several')
  })
  it('are bundled where too many are in sight, but for the selected one', () => {
    const n = singleAtMost + 20
    const threads = laid({ from: 0, to: n * 50 }, n, 'cut/V1/7')
    expect(threads.filter((t) => t.event).map((t) => t.event?.number)).toEqual(['7'])
    expect(threads.filter((t) => !t.event).reduce((sum, t) => sum + t.count, 0)).toBe(n + 1)
  })
  it('of what is not found lead to its box, those of originals to their lanes', () => {
    const threads = laid({ from: 0, to: 600 })
    const [box] = wantedBoxes(made().wanted, left, width)
    expect(threads[4]?.ends[0]?.x).toBe((box?.x ?? 0) + (box?.width ?? 0) / 2)
    expect(threads[4]?.ends[0]?.y).toBeLessThan(top + lanesFrom(1))
    for (const t of threads) if (t.state !== 'not-found') for (const end of t.ends) expect(end.y).toBeGreaterThan(top + lanesFrom(1))
  })
  it('are those of the events that are looked at alone, and of the selected one', () => {
    const m = made()
    const threads = layThreads({ ...m, view: { from: 0, to: 600 }, selected: 'cut/V1/2', top, only: ids([4, 5]) }, width)
    expect(threads.map((t) => t.event?.number)).toEqual(['2', '4', '5'])
  })
  it('are found where they are drawn', () => {
    const threads = laid({ from: 0, to: 600 })
    for (const t of threads) for (const end of t.ends) expect(threadAt([t], top, end.x, end.y - 1)).toBe(t)
    expect(threadAt(threads, top, 5, 5)).toBeNull()
  })
  it('step back when another roll is chosen, and are wider when they hold more', () => {
    const strokes: [number, number][] = []
    const r = recorder()
    const g = new Proxy(r.g, {
      get: (t, name: string) => (name === 'stroke' ? () => strokes.push([t.lineWidth, t.globalAlpha]) : Reflect.get(t, name)),
      set: (t, name, value) => Reflect.set(t, name, value),
    })
    const bundle = (roll: string, count: number): Thread => ({
      ...{ event: null, roll, count, from: { x: 100, y: 50 }, ends: [{ x: 300, y: 300 }], state: 'certain', aside: false },
    })
    drawThreads(
      g,
      (n) => n,
      [bundle('A001', 40), bundle('A002', 2)],
      top,
      null,
      'A002',
      () => false,
    )
    const [[wide, faint], [narrow, clear]] = strokes as [[number, number], [number, number]]
    expect(wide).toBeGreaterThan(narrow)
    expect(faint).toBeLessThan(clear)
  })
})
