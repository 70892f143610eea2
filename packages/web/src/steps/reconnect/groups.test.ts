/** Open events in groups, and what repairs them. */
import type { LinkRow } from '@naranja/contract'
import { rate } from '@naranja/core/time'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cutOf, event, link } from '../../charts/made.testing.ts'
import { groupsOf, readShift, repairRules, shiftText, withRules } from './groups.ts'

const at = (n: number, reel: string | null, clipName: string | null = null) => event('V1', String(n), n * 20, n * 20 + 20, { reel, clipName })
const [a, b, c, d, e, f] = [at(1, 'KARTE1'), at(2, 'karte1'), at(3, 'AX', 'one.mov'), at(4, null, 'one.mov'), at(5, null), at(6, 'R')]
const cut = cutOf(a, b, c, d, e, f)
const states: [typeof a, LinkRow['state']][] = [
  [a, 'not-found'],
  [b, 'not-found'],
  [c, 'several'],
  [d, 'not-found'],
  [e, 'not-found'],
  [f, 'certain'],
]
const byId = new Map(states.map(([x, state]) => [x.id, link(x, state)]))

describe('open events', () => {
  it('go by their reels however these are written; those without one by their clip name, or alone', () =>
    expect(groupsOf(cut, byId).map((g) => [g.name, g.reel, g.eventIds])).toEqual([
      ['reel KARTE1', 'KARTE1', [a.id, b.id]],
      ['one.mov', null, [c.id, d.id]],
      ['event 5', null, [e.id]],
    ]))
  it('in one state are told apart', () => expect(groupsOf(cut, byId, 'several').map((g) => g.eventIds)).toEqual([[c.id]]))
})

describe('a shift', () => {
  it.each([
    ['-01:00:00:00', -90_000],
    ['−00:00:01:00', -25],
    ['+12', 12],
    [' 12 ', 12],
    ['00:00:00:24', 24],
    ['00:00:00:25', null],
    ['an hour', null],
    ['', null],
  ])('typed as "%s" is %s', (text, frames) => expect(readShift(text, cut)).toBe(frames))
  it('is read as it is written, at every rate', () => {
    fc.assert(
      fc.property(fc.integer({ min: -2_000_000, max: 2_000_000 }), fc.constantFrom(rate(25), rate(24000, 1001), rate(30000, 1001), rate(60)), (frames, r) => {
        const own = { ...cut, rate: r }
        return readShift(shiftText(frames, own), own) === frames
      }),
    )
  })
})

describe('the repair of a group', () => {
  const group = { name: 'reel KARTE1', reel: 'KARTE1', eventIds: [a.id, b.id] }
  it('gives its reel another name, and shifts whatever is on that reel', () =>
    expect(repairRules(group, 'A001', -90_000, byId, 's')).toEqual([
      { id: 'reel KARTE1 A001', on: true, kind: 'reels', pairs: [{ from: 'KARTE1', to: 'A001' }] },
      { id: 's', on: true, kind: 'shift', frames: -90_000, of: { kind: 'reels', reels: ['KARTE1'] } },
    ]))
  it('is nothing where the reel is the same but for its letters, and nothing is shifted', () => expect(repairRules(group, 'karte1', 0, byId, 's')).toEqual([]))
  it('without a reel is for its events alone', () =>
    expect(repairRules({ name: 'one.mov', reel: null, eventIds: [d.id] }, 'A001', 5, byId, 's')).toEqual([
      { id: 's', on: true, kind: 'shift', frames: 5, of: { kind: 'events', keys: [d.id.padEnd(40, '0')] } },
    ]))
  it('takes the place of the one before it for the same reel', () => {
    const before = repairRules(group, 'A001', 0, byId, 's')
    const other = repairRules({ ...group, reel: 'X' }, 'A001', 0, byId, 's')
    expect(withRules([...before, ...other], repairRules(group, 'A001', 0, byId, 's'))).toEqual([...other, ...before])
  })
})
