import type { EventShape } from '@naranja/contract'
import { digitsAt, rate } from '@naranja/core/time'
import { describe, expect, it } from 'vitest'
import { cutOf, event, laneClip } from '../../charts/made.testing.ts'
import type { CutDetail, LaneClip } from '@naranja/contract'
import { namedBy, provenReels, rollsOf, wouldLand } from './landing.ts'

const pal = rate(25)
const hour = 90_000
const at = (number: string, reel: string, from: number): EventShape =>
  event('V1', number, Number(number) * 20, Number(number) * 20 + 20, { reel, sourceIn: digitsAt(from, pal) })
const clip = (id: string, lane: string, reel: string | null, start: number | null) => laneClip(id, lane, start, { reel })
/** A roll of sixty clips of ten seconds, one every twenty. */
const roll = (name: string, from: number) => Array.from({ length: 60 }, (_, i) => clip(`${name}${i}`, name, `${name}_261108_SALTFERRY`, from + i * 500))
const landed = (cut: CutDetail, lanes: readonly LaneClip[], roll: string | null = null) =>
  wouldLand(namedBy(cut, { eventIds: cut.events.map((e) => e.id) }), cut.events[0]?.reel ?? null, cut.rate, rollsOf(lanes, cut), roll)

describe('rolls', () => {
  it('carry the reel of most of their clips, stand as people count, and are worked out once', () => {
    const lanes = [clip('a', 'A10', 'X', 0), clip('b', 'A2', 'R', 100), clip('c', 'A2', 'R', 0), clip('d', 'A2', 'S', 0), clip('e', 'Card 1', null, null)]
    const rolls = rollsOf(lanes, cutOf(at('1', 'R', 0)))
    expect(rolls.map((r) => [r.name, r.reel, r.spans.length])).toEqual([
      ['A2', 'R', 3],
      ['A10', 'X', 1],
      ['Card 1', null, 0],
    ])
    expect(rolls[0]?.spans.map((s) => s.in)).toEqual([0, 0, 100])
    expect(rollsOf(lanes, cutOf(at('1', 'R', 0)))).toBe(rolls)
  })
})

describe('a group of open events', () => {
  const lanes = [...roll('A001', 9 * hour), ...roll('B021', 10 * hour), ...roll('C017', 10 * hour + 333)]
  it('is looked for where its reel is, cut off or not, before anywhere else', () => {
    // An hour late: among all rolls a smaller shift would land some of them by chance.
    const events = Array.from({ length: 7 }, (_, i) => at(String(i + 1), 'B021_261', 11 * hour + i * 1000 + 30))
    const cut = cutOf(...events)
    expect(landed(cut, lanes).best).toEqual({ frames: -hour, lands: 7 })
    expect(landed(cut, lanes, 'A001').best).toEqual({ frames: -2 * hour, lands: 7 })
  })
  it('is offered no shift where nothing says among which of many clips to look', () => {
    const events = [at('1', 'Z9', 12 * hour)]
    const cut = cutOf(...events)
    const many = [...lanes, ...Array.from({ length: 9 }, (_, i) => roll(`D00${i}`, 8 * hour + i * 7)).flat()]
    expect(landed(cut, many).best).toBeNull()
    expect(landed(cut, lanes).best?.lands).toBe(1)
  })
  it('is proven by timecode alone where all of it lies inside one roll, and inside no other', () => {
    const group = (name: string, ids: readonly string[]) => ({ name, reel: name, eventIds: ids })
    const first = Array.from({ length: 5 }, (_, i) => at(String(i + 1), 'KARTE1', 9 * hour + i * 1000 + 40))
    const second = Array.from({ length: 3 }, (_, i) => at(String(i + 10), 'KARTE2', 10 * hour + i * 500 + 5))
    const cut = cutOf(...first, ...second, at('20', 'KARTE3', 9 * hour + 40))
    const ids = (reel: string) => cut.events.filter((e) => e.reel === reel).map((e) => e.id)
    const groups = ['KARTE1', 'KARTE2', 'KARTE3'].map((r) => group(r, ids(r)))
    const rolls = rollsOf(lanes, cut)
    // One event alone proves nothing.
    expect(provenReels(cut, groups, rolls)).toEqual([
      { group: 'KARTE1', from: 'KARTE1', roll: 'A001', to: 'A001_261108_SALTFERRY', events: 5 },
      { group: 'KARTE2', from: 'KARTE2', roll: 'B021', to: 'B021_261108_SALTFERRY', events: 3 },
    ])
    const twin = rollsOf([...lanes, ...roll('B022', 10 * hour)], cut)
    expect(provenReels(cut, groups, twin).map((p) => p.group)).toEqual(['KARTE1'])
  })
  it('of hundreds is told by some of them, and counted in full', () => {
    const events = Array.from({ length: 300 }, (_, i) => at(String(i + 1), 'C017', 10 * hour + 333 + 5 + (i % 60) * 500 + (i === 299 ? 300 : 0)))
    const cut = cutOf(...events)
    expect(landed(cut, lanes)).toMatchObject({ best: { frames: 0, lands: 299 } })
  })
})
