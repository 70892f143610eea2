/** Light copies among originals: never taken by themselves, whatever speaks for them. */
import { describe, expect, it } from 'vitest'
import { assembleCut } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import { framesOf, parseTimecode, rate } from '../time/index.ts'
import { type ClipFacts, type Decision, isOpen, type LightFacts, reconnect } from './index.ts'

const pal = rate(25)
const clip = (id: string, facts: Partial<ClipFacts> = {}): ClipFacts => ({
  ...{ id, name: 'A001C001_SF.mov', aliases: [], reel: 'A001', reelDerived: false, place: `Drive/${id}/`, rate: pal, frames: 500 },
  ...{ start: framesOf(parseTimecode('10:00:00:00') ?? { h: 0, m: 0, s: 0, f: 0, drop: false }, pal), drop: false },
  ...{ hasPicture: true, hasSound: true, contentId: `content ${id}`, away: false, ...facts },
})
const light = (standing: LightFacts['standing']): LightFacts => ({ standing, of: 'full', ofName: 'A001/A001C001_SF.mov' })
const named = (name: string) => `001  A001     V     C        10:00:01:00 10:00:02:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: ${name}\n`
function link(clips: ClipFacts[], name = 'A001C001_SF.mov', decision?: Decision) {
  const cut = assembleCut('cut', pal, [readEdl(named(name), { rate: pal, file: 'x' }).value])
  const [event] = cut.events
  if (!event) throw new Error('no event')
  const [found] = reconnect(cut, clips, decision ? { decisions: new Map([[event.id, decision]]) } : {})
  if (!found) throw new Error('no link')
  return { ...found, order: found.candidates.map((c) => c.clipId) }
}

describe('a suspected light copy', () => {
  const full = clip('full', { pixels: 8e6 })
  it('leaves its original likely, with that reason, and stands behind it', () => {
    for (const clips of [
      [full, clip('small', { light: light('suspected') })],
      [clip('small', { light: light('suspected') }), full],
    ]) {
      const l = link(clips)
      expect([l.state, l.clipId, l.order]).toEqual(['likely', 'full', ['full', 'small']])
      expect(l.reason).toMatch(/^The larger of two that fit alike: Drive\/small\/A001C001_SF\.mov is suspected to be a light copy of A001\/A001C001_SF\.mov/)
    }
  })
  it('stands behind it though the list names the copy, or it alone has what the list says', () => {
    const l = link([full, clip('small', { name: 'A001C001_SF_proxy.mov', light: light('suspected') })], 'A001C001_SF_proxy.mov')
    expect([l.state, l.clipId, l.order]).toEqual(['likely', 'full', ['full', 'small']])
  })
  it('stands behind several that nothing tells apart, and does not settle them', () => {
    const l = link([full, clip('other'), clip('small', { light: light('suspected') })])
    expect([l.state, l.order]).toEqual(['several', ['full', 'other', 'small']])
  })
  it('is not taken where its original is away, or does not fit at all', () => {
    const away = link([{ ...full, away: true }, clip('small', { light: light('suspected') })])
    expect([away.clipId, away.away, isOpen(away)]).toEqual(['full', true, true])
    const other = link([clip('full', { reel: 'B007', name: 'B007C001.mov' }), clip('small', { light: light('suspected') })])
    expect([other.state, other.clipId, other.order.at(-1)]).toEqual(['not-found', null, 'small'])
    expect(other.reason).toMatch(/^Only Drive\/small\/A001C001_SF\.mov fits, which is suspected to be a light copy of/)
  })
})

describe('a proven or marked one', () => {
  it.each(['proven', 'marked'] as const)('leaves its original certain, also where a list names the copy: %s', (standing) => {
    const small = clip('small', { name: 'A001C001_SF_proxy.mov', light: light(standing) })
    // What names the copy names the original.
    const full = clip('full', { aliases: ['A001C001_SF_proxy.mov'] })
    for (const name of ['A001C001_SF.mov', 'A001C001_SF_proxy.mov']) {
      const l = link([small, full], name)
      expect([l.state, l.clipId, l.order]).toEqual(['certain', 'full', ['full']])
    }
    expect(link([small]).state).toBe('not-found')
  })
})

describe('a decision', () => {
  const full = clip('full')
  const small = (standing?: LightFacts['standing']) => clip('small', standing ? { light: light(standing) } : {})
  it.each([
    ['suspected', /^Set by hand as Drive\/small\/.*, which is suspected to be a light copy of A001\/.*; decide again\.$/],
    ['proven', /which is a light copy of .*, as its pictures show/],
    ['marked', /which is marked as a light copy of/],
  ] as const)('for a clip that is %s since is open again, the original first', (standing, reason) => {
    const l = link([full, small(standing)], 'A001C001_SF.mov', { action: 'set', clipId: 'small' })
    expect([l.state, l.clipId, l.order]).toEqual(['several', null, ['full', 'small']])
    expect(l.reason).toMatch(reason)
  })
  it('that named a light copy all the same holds as long as the copy stands so, and is open again once it counts as an original', () => {
    const decision = { action: 'set', clipId: 'small', light: 'suspected' } as const
    const l = link([full, small('suspected')], 'A001C001_SF.mov', decision)
    expect([l.state, l.clipId]).toEqual(['set-by-hand', 'small'])
    const again = link([full, small()], 'A001C001_SF.mov', decision)
    expect([again.state, again.order[0]]).toEqual(['several', 'small'])
    expect(again.reason).toMatch(/which counts as an original now; decide again/)
    expect(link([full, small('marked')], 'A001C001_SF.mov', decision).state).toBe('several')
  })
  it('for the original holds, whatever a copy of it is', () => {
    const l = link([full, small('suspected')], 'A001C001_SF.mov', { action: 'confirm', clipId: 'full' })
    expect([l.state, l.clipId, l.order]).toEqual(['confirmed', 'full', ['full', 'small']])
  })
})
