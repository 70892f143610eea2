/** What would land where a group is dragged to. */
import { digitsAt, rate } from '@naranja/core/time'
import { describe, expect, it } from 'vitest'
import { lanesFrom, laneHeight, layDays, left } from '../../charts/index.ts'
import { cutOf, event, laneClip } from '../../charts/made.testing.ts'
import { aimOf, type Drag, isRepair, type Onto } from './drag.ts'
import { rollsOf } from './landing.ts'

const hour = 90_000
const width = 1000
/** Two rolls of ten clips of ten seconds, one every twenty; the second stands an hour later. */
const lanes = ['A001', 'A002'].flatMap((roll, r) =>
  Array.from({ length: 10 }, (_, i) => laneClip(`${roll}${i}`, roll, (9 + r) * hour + i * 500 + r * 33, { reel: roll })),
)
/** Five events that name the first roll, an hour early. */
const events = Array.from({ length: 5 }, (_, i) =>
  event('V1', String(i), i * 20, i * 20 + 20, { reel: 'KARTE', sourceIn: digitsAt(8 * hour + i * 1000 + 40, rate(25)) }),
)
const cut = cutOf(...events)
const onto: Onto = { cut, rolls: rollsOf(lanes, cut), chart: layDays(lanes), folded: new Map(), firstLane: 300 + lanesFrom(1) }
const drag = (x: number, y: number): Drag => ({
  group: { name: 'reel KARTE', reel: 'KARTE', eventIds: events.map((e) => e.id) },
  from: { x: 500, y: 320 },
  at: { x, y },
  known: new Map(),
})
const middleOf = (row: number) => onto.firstLane + row * laneHeight + laneHeight / 2

describe('a group on its way', () => {
  it('would land on the lane under it, with the shift that lands most of it', () => {
    expect(aimOf(drag(500, middleOf(0)), onto, width)).toEqual({ lane: 'A001', shift: hour, row: 0, text: '5 of 5 land with +01:00:00:00' })
    expect(aimOf(drag(500, middleOf(1)), onto, width)).toMatchObject({ lane: 'A002', shift: 2 * hour, row: 1 })
  })
  it('on rolls that are folded into one lane would land on the one that takes the most', () => {
    const folded = new Map([[onto.chart.lanes[0]?.name ?? '', ['A002', 'A001']]])
    const none = { ...onto, rolls: onto.rolls.map((r) => (r.name === 'A002' ? { ...r, spans: [] } : r)) }
    expect(aimOf(drag(500, middleOf(0)), { ...none, folded }, width)).toMatchObject({ lane: 'A001', shift: hour })
    const renamed = { ...onto, chart: { ...onto.chart, lanes: [{ ...(onto.chart.lanes[0] as (typeof onto.chart.lanes)[number]), name: '2 rolls' }] } }
    expect(aimOf(drag(500, middleOf(0)), { ...renamed, folded: new Map([['2 rolls', ['A001']]]) }, width).text).toBe('A001: 5 of 5 land with +01:00:00:00')
  })
  it('beside the lanes is shifted in time by as much as it is drawn, and caught by the shift that lands most', () => {
    const perFrame = (width - left - 12) / ((onto.chart.seconds * 25) / 1)
    const near = aimOf(drag(500 + hour * perFrame + 3, 310), onto, width)
    expect(near).toMatchObject({ lane: null, shift: hour, row: -1, text: '+01:00:00:00: 5 of 5 land' })
    const far = aimOf(drag(500 + (hour / 2) * perFrame, 310), onto, width)
    expect(Math.abs((far.shift ?? 0) - hour / 2)).toBeLessThan(1)
    expect(far.text).toMatch(/: 0 of 5 land$/)
  })
  it('repairs nothing by a click that shakes', () => {
    const still = drag(503, 322)
    expect([isRepair(still, aimOf(still, onto, width)), aimOf(still, onto, width)]).toEqual([false, { lane: null, shift: null, row: -1, text: '' }])
    const lands = drag(500, middleOf(0))
    expect(isRepair(lands, aimOf(lands, onto, width))).toBe(true)
  })
  it('is asked once for each lane, however often it moves there', () => {
    const d = drag(500, middleOf(0))
    const first = aimOf(d, onto, width)
    expect(aimOf({ ...d, at: { x: 600, y: middleOf(0) } }, { ...onto, rolls: [] }, width)).toEqual(first)
  })
})
