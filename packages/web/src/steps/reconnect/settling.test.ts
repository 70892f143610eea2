/** What is settled with what, and what exactly is asked for. */
import type { CandidateShape, LinkRow } from '@naranja/contract'
import { describe, expect, it } from 'vitest'
import { candidate, cutOf, type Evidence, event, link, piece } from '../../charts/made.testing.ts'
import { alikeOf, asLookedAt, asSettled, byEnter, doubtOf, nextScope, ruledSome, scopesOf } from './settling.ts'

const aLight: CandidateShape['light'] = { standing: 'suspected', of: 'A001.mov' }
const at = (number: string, facts: Parameters<typeof event>[4] = {}, track = 'V1') => event(track, number, Number(number) * 20, Number(number) * 20 + 20, facts)
const idsOf = (...links: LinkRow[]) => new Map(links.map((l) => [l.eventId, l]))

describe('a scope', () => {
  const [one, again, sure, other, sound] = [
    at('1', { clipName: 'a' }),
    at('2', { clipName: 'a' }),
    at('3', { clipName: 'a' }),
    at('4', { clipName: 'b' }),
    at('5', { clipName: 'a' }, 'A1'),
  ]
  const cut = cutOf(one, again, sure, other, sound)
  const byId = idsOf(link(one, 'certain'), link(again, 'likely'), link(sure, 'confirmed'), link(other, 'not-found'), link(sound, 'several'))
  const scopes = scopesOf(cut, one, byId)

  it('holds the event itself, whatever its state, and of the others what is not settled yet, in its medium', () => {
    expect(scopes).toEqual({ event: [one.id], clip: [one.id, again.id], reel: [one.id, again.id, other.id] })
    expect(scopesOf(undefined, one, byId)).toEqual({ event: [], clip: [], reel: [] })
  })
  it('is of one event where nothing names its clip or its reel', () => {
    const [bare, bare2] = [at('1', { clipName: null, reel: 'AX' }), at('2', { clipName: null, reel: 'AX' })]
    const of = scopesOf(cutOf(bare, bare2), bare, idsOf(link(bare, 'several'), link(bare2, 'several')))
    expect(of).toEqual({ event: [bare.id], clip: [bare.id], reel: [bare.id] })
  })
  it('is followed by the next that holds more than the event', () => {
    const [wide, clips, reels, alone] = [scopes, { ...scopes, reel: scopes.event }, { ...scopes, clip: scopes.event }, { ...scopes, clip: [''], reel: [''] }]
    expect((['event', 'clip', 'reel'] as const).map((s) => nextScope(s, wide))).toEqual(['clip', 'reel', 'event'])
    expect((['event', 'clip'] as const).map((s) => nextScope(s, clips))).toEqual(['clip', 'event'])
    expect((['event', 'reel'] as const).map((s) => nextScope(s, reels))).toEqual(['reel', 'event'])
    expect(nextScope('event', alone)).toBe('event')
  })
  it.each([
    ['clip', { action: 'set', clipId: 'x' }, { eventIds: [one.id, again.id], clipId: 'x' }],
    // A frame is that of one event, and so is a clip that is set on a reel.
    ['clip', { action: 'set', clipId: 'x', first: 7 }, { eventIds: [one.id], clipId: 'x' }],
    ['reel', { action: 'set', clipId: 'x' }, { eventIds: [one.id], clipId: 'x' }],
    // On a reel each is confirmed by its own clip.
    ['reel', { action: 'confirm', clipId: 'x' }, { eventIds: [again.id] }],
    ['clip', { action: 'confirm', clipId: 'x' }, { eventIds: [one.id, again.id], clipId: 'x' }],
    ['reel', { action: 'none' }, { eventIds: [one.id, again.id, other.id] }],
    ['event', { action: 'clear' }, { eventIds: [one.id] }],
  ] as const)('%s: %o', (scope, what, asked) => expect(asSettled(what, scope, scopes, byId)).toEqual(asked))
})

describe('what is looked at is taken', () => {
  const e = at('1')
  const row = (...candidates: CandidateShape[]) => link(e, 'several', false, { candidates })
  it('without a frame, where its evidence names it', () => {
    const [a, b] = [candidate('a', 100), candidate('b', 100)]
    expect(asLookedAt(row(a, b), b, 0)).toEqual({ clipId: 'b', first: undefined })
  })
  it('at the frame it was nudged to, backwards from the last, and never before the first', () => {
    const a = candidate('a', 100)
    const back = candidate('a', 100, { at: { first: 119, k: 0, step: { num: -1, den: 1 } } })
    expect(asLookedAt(row(a), a, -3)).toEqual({ clipId: 'a', first: 97 })
    expect(asLookedAt(row(back), back, 2)).toEqual({ clipId: 'a', first: 121 })
    expect(asLookedAt(row(a), a, -100)).toEqual({ clipId: 'a', first: 0 })
    expect(asLookedAt(row(a), a, -101)).toBeNull()
  })
  it('at its frame where its clip is a candidate twice', () => {
    const [a, later] = [candidate('a', 100), candidate('a', 250)]
    expect(asLookedAt(row(a, later), later, 0)).toEqual({ clipId: 'a', first: 250 })
  })
  it.each([
    ['likely', 0, 0, null, 'confirm'],
    ['likely', 1, 0, null, 'take'],
    ['likely', 0, 2, null, 'take'],
    ['certain', 0, 0, null, null],
    ['certain', 0, -1, null, 'take'],
    ['certain', 1, 0, null, 'take'],
    ['several', 0, 0, null, 'take'],
    ['not-found', 0, 0, null, null],
    ['not-found', 0, 0, aLight, 'take'],
    ['not-found', 1, 0, null, 'take'],
    ['set-by-hand', 0, 0, null, null],
  ] as const)('Enter on what is %s, candidate %i, nudged by %i, light copy %o: %s', (state, chosen, nudge, light, does) => {
    const two = link(e, state, false, { candidates: [candidate('a', 100, { light }), candidate('b')] })
    expect(byEnter(two, chosen, nudge)).toBe(does)
    expect(byEnter({ ...two, candidates: [] }, chosen, nudge)).toBeNull()
  })
})

const likely = (...lists: Evidence[][]) => link(at('1'), 'likely', false, { candidates: lists.map((evidence, i) => candidate(String(i), 0, { evidence })) })

describe('a doubt', () => {
  const [bent, foreign, inside] = [piece('name', 'bent', 'name a is nearly b'), piece('name', 'contradicts', '', false, true), piece('timecode', 'agrees')]
  it('is the same for what is likely for the same reason, whatever the names', () => {
    expect(doubtOf(likely([bent, inside]))).toBe('a bent name')
    expect(doubtOf(likely([piece('name', 'bent', 'name c is nearly d'), inside]))).toBe(doubtOf(likely([bent, inside])))
  })
  it("tells apart a bent name, one that is nobody's, another's, a weak one and other candidates", () => {
    const all = [
      likely([bent, inside]),
      likely([foreign, inside]),
      likely([piece('name', 'contradicts'), inside]),
      likely([piece('name', 'agrees', '', true), inside]),
      likely([piece('name', 'missing'), inside]),
      likely([bent, inside], [bent]),
    ].map(doubtOf)
    expect(new Set(all).size).toBe(all.length)
    expect(all[1]).toBe('a name that no original bears')
  })
  it('is one for all that their pictures told, whatever else is said of them', () => {
    const told = piece('picture', 'agrees', "its pictures are 97 % like the edit's")
    expect([likely([told, bent, inside]), likely([told, foreign], [foreign])].map(doubtOf)).toEqual(['its pictures told it', 'its pictures told it'])
  })
  it('does not hang on what only tells equals apart', () => expect(doubtOf(likely([bent, inside, piece('rate', 'missing', '', true)]))).toBe('a bent name'))
})

describe('events that are alike', () => {
  const [a, b, c, d] = [at('1'), at('2'), at('3'), at('4')]
  const doubt = (agreement: 'bent' | 'missing') => ({ candidates: [candidate('x', 0, { evidence: [piece('name', agreement)] })] })
  const links = [
    link(a, 'likely', false, doubt('bent')),
    link(b, 'likely', false, doubt('bent')),
    link(c, 'likely', false, doubt('missing')),
    link(d, 'certain'),
  ]
  const [of] = links
  it('are likely for the same reason, among those that are looked at', () => {
    expect(alikeOf(of, links, undefined)).toEqual({ ids: [a.id, b.id], doubt: 'a bent name', all: false })
    expect(alikeOf(of, links, new Set([a.id, b.id, d.id]))).toEqual({ ids: [a.id, b.id], doubt: 'a bent name', all: true })
  })
  it('are none where it is alone, or not likely', () => {
    expect(alikeOf(of, links, new Set([a.id, c.id]))).toBeNull()
    expect(alikeOf(links[3], links, undefined)).toBeNull()
    expect(alikeOf(undefined, links, undefined)).toBeNull()
  })
})

describe('a rule can be limited to', () => {
  const [a, b] = [at('1'), at('2')]
  const links = [link(a, 'certain', false, { key: 'ka' }), link(b, 'several', false, { key: 'kb' })]
  it('the event, the roll and the part that are looked at, and what is open', () => {
    const ids = new Set([a.id, b.id])
    expect(ruledSome(links, idsOf(...links), { event: a, roll: { name: 'A1', events: ids }, part: new Set([b.id]) })).toEqual([
      { words: 'event 1 on V1', keys: ['ka'] },
      { words: '2 events of A1', keys: ['ka', 'kb'] },
      { words: '1 event of the part', keys: ['kb'] },
      { words: 'the events that are open now', keys: ['kb'] },
    ])
  })
  it('nothing that holds no event', () => {
    const settled = links.slice(0, 1)
    expect(ruledSome(settled, idsOf(...settled), { event: undefined, roll: null, part: undefined })).toEqual([])
  })
})
