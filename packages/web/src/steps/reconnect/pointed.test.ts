/** What lies under the pointer on the map. */
import { digitsAt, rate } from '@naranja/core/time'
import { describe, expect, it } from 'vitest'
import { head, laneHeight, landingsOf, lanesFrom, layDays, layThreads, left, stripHeight, wantedBoxes, wantedLane } from '../../charts/index.ts'
import { cutOf, event, laneClip, link } from '../../charts/made.testing.ts'
import { groupsOf } from './groups.ts'
import { type Drawn, pointedAt } from './pointed.ts'

const width = 1000
const lanes = ['A001', 'A002'].flatMap((roll, r) =>
  Array.from({ length: 4 }, (_, i) => laneClip(`${roll}${i}`, roll, (9 + r) * 90_000 + i * 500, { reel: roll })),
)
const found = event('V1', '1', 0, 50, { sourceIn: digitsAt(9 * 90_000 + 10, rate(25)) })
const lost = event('V1', '2', 50, 100, { reel: 'KARTE' })
const cut = cutOf(found, lost)
const links = new Map([
  [found.id, link(found, 'certain', false, { clipId: 'A0010', range: { in: 10, out: 60 } })],
  [lost.id, link(lost, 'not-found')],
])
const chart = layDays(lanes)
const clips = new Map(lanes.map((l) => [l.id, l]))
const wanted = groupsOf(cut, links, 'not-found')
const landings = landingsOf(cut.events, links, chart, clips)
const view = { from: 0, to: 100 }
const top = stripHeight(cut, true) + 34
const threads = layThreads({ cut, links, landings, view, selected: null, top, wanted, only: undefined }, width)
const drawn: Drawn = { cut, view, threads, ground: { chart, wanted, landings }, top }
const at = (x: number, y: number) => pointedAt(drawn, x, y, width)
const firstLane = top + lanesFrom(wanted.length)

/** A row of the strip in which events are drawn. */
const inStrip = Array.from({ length: top }, (_, y) => y).find((y) => at(left + 100, y)?.what === 'event') ?? -1

describe('a point of the map', () => {
  it('is an event of the strip, with its frame', () => {
    expect(at(left + (width - left) / 4, inStrip)).toMatchObject({ what: 'event', event: { id: found.id } })
    const late = at(left + ((width - left) * 3) / 4, inStrip)
    expect(late).toMatchObject({ what: 'event', event: { id: lost.id } })
    expect(late?.what === 'event' && late.frame >= 70 && late.frame < 80).toBe(true)
  })
  it('is a box of events that are wanted', () => {
    const [box] = wantedBoxes(wanted, left, width)
    expect(at((box?.x ?? 0) + 3, top + head + 3)).toEqual({ what: 'wanted', group: wanted[0], eventIds: [lost.id] })
    expect(at((box?.x ?? 0) + (box?.width ?? 0) + 40, top + head + 3)?.what).not.toBe('wanted')
  })
  it('is a roll by its name, if anything lands on it', () => {
    const row = chart.lanes.findIndex((l) => l.name === 'A001')
    expect(at(20, firstLane + row * laneHeight + 5)).toEqual({ what: 'roll', roll: 'A001' })
    expect(at(20, firstLane + (1 - row) * laneHeight + 5)).toBeNull()
    expect(at(20, top + head + 2)).toEqual({ what: 'roll', roll: wantedLane })
  })
  it('is a clip of a lane, used or not, and nothing between them', () => {
    const points = Array.from({ length: width - left - 12 }, (_, i) => at(left + i, firstLane + laneHeight / 2))
    const named = new Set(points.flatMap((p) => (p?.what === 'clip' ? [p.clipId] : [])))
    expect([named.size > 1, [...named].every((id) => id.startsWith(chart.lanes[0]?.name ?? '-'))]).toEqual([true, true])
    expect(points).toContain(null)
  })
  it('is a thread near its line', () => {
    const { x, y } = threads.find((t) => t.event?.id === found.id)?.from ?? { x: 0, y: 0 }
    const below = Array.from({ length: 30 }, (_, i) => at(x, y + i)).filter((p) => p?.what !== 'event')
    expect(below[0]).toMatchObject({ what: 'thread', event: { id: found.id } })
    expect(at(x + 60, y + 25)).toBeNull()
  })
})
