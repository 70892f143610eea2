import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut, type Cut, type CutEvent } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import { bentOriginals, bentWays } from '../testing/index.ts'
import { rate } from '../time/index.ts'
import {
  bestShift,
  type ClipFacts,
  type Decision,
  type Link,
  landing,
  Reconnection,
  reconnect,
  type Rule,
  type RuleBody,
  ruleText,
  type Scope,
} from './index.ts'

const pal = rate(25)
let n = 0
const clip = (name: string, facts: Partial<ClipFacts> = {}): ClipFacts => ({
  ...{ id: `c${++n}`, name, aliases: [], reel: null, reelDerived: false, place: 'Drive/Day 1/', rate: pal, frames: 500, start: 36_000 * 25, drop: false },
  ...{ hasPicture: true, hasSound: true, contentId: `content ${n}`, away: false, ...facts },
})
const rules = (...bodies: RuleBody[]): Rule[] => bodies.map((b, i) => ({ ...b, id: String(i), on: true }))
function link(event: { reel?: string; name?: string; file?: string; in?: string }, clips: ClipFacts[], list: Rule[] = []): Link {
  const source = event.in ?? '10:00:01:00'
  const text = `001  ${(event.reel ?? 'AX').padEnd(8)} V     C        ${source} ${source} 01:00:00:00 01:00:01:00\n${event.name ? `* FROM CLIP NAME: ${event.name}\n` : ''}${event.file ? `* SOURCE FILE: ${event.file}\n` : ''}`
  const [found] = reconnect(assembleCut('cut', pal, [readEdl(text, { rate: pal, file: 'x' }).value]), clips, { rules: list, keyOf: () => 'key' })
  if (!found) throw new Error('no event')
  return found
}

describe('a rule', () => {
  it('maps reels, and says so', () => {
    const c = clip('x_1_a_b.mov', { reel: 'A003' })
    expect(link({ reel: '003' }, [c]).state).toBe('not-found')
    const l = link({ reel: '003' }, [c], rules({ kind: 'reels', pairs: [{ from: '003', to: 'A003' }] }))
    expect([l.state, l.clipId, l.reason]).toEqual(['certain', c.id, expect.stringContaining('003 is A003 by rule')])
  })
  it('shifts source timecode, of all events or of some', () => {
    const c = clip('A001C002_SF_X.mov', { reel: 'A001' })
    const at = { reel: 'A001', name: 'A001C002_SF_X.mov', in: '10:30:01:00' }
    const by = (of: Extract<RuleBody, { kind: 'shift' }>['of']) => link(at, [c], rules({ kind: 'shift', frames: -30 * 60 * 25, of }))
    expect([link(at, [c]).state, by({ kind: 'all' }).state, by({ kind: 'all' }).range]).toEqual(['not-found', 'certain', { in: 25, out: 50 }])
    expect([by({ kind: 'reels', reels: ['a001'] }).state, by({ kind: 'reels', reels: ['B'] }).state]).toEqual(['certain', 'not-found'])
    expect([by({ kind: 'events', keys: ['key'] }).state, by({ kind: 'events', keys: ['other'] }).state]).toEqual(['certain', 'not-found'])
  })
  it('counts source timecode at another rate', () => {
    const c = clip('H001C002_SF_X.mov', { rate: rate(50), start: 36_000 * 50, frames: 5000 })
    const at = (list: Rule[]) => link({ name: 'H001C002_SF_X.mov', in: '10:00:01:20' }, [c], list).range?.in
    expect([at([]), at(rules({ kind: 'recount', rate: rate(50), of: { kind: 'all' } }))]).toEqual([90, 70])
  })
  it('finds files in another folder', () => {
    const clips = [clip('CLIP0001.MP4', { start: null, place: 'Quay/CARD1/' }), clip('CLIP0001.MP4', { start: null, place: 'Quay/CARD2/' })]
    const at = { name: 'CLIP0001.MP4', file: '/Volumes/Old/CARD2/CLIP0001.MP4', in: '00:00:02:00' }
    expect(link({ ...at, file: '/elsewhere/CLIP0001.MP4' }, clips).state).toBe('several')
    const l = link({ ...at, file: '/Volumes/Old/B/CLIP0001.MP4' }, clips, rules({ kind: 'folder', from: '/Volumes/Old/B', to: 'Quay/CARD2' }))
    expect([l.state, l.clipId]).toEqual(['likely', clips[1]?.id])
  })
  it('reads scene and take from names', () => {
    const clips = [clip('A001C001_SF_X.mov', { scene: '12A', take: '3' }), clip('A001C002_SF_X.mov', { scene: '12A', take: '4' })]
    const piece = (nth: number) => [{ kind: 'value', of: 'name', part: { kind: 'piece', nth }, form: 'as-is' }] as const
    const l = link(
      { name: '12a-04 Mate looks up' },
      clips,
      rules({ kind: 'pattern', side: 'events', field: 'scene', chips: piece(1) }, { kind: 'pattern', side: 'events', field: 'take', chips: piece(2) }),
    )
    expect([l.state, l.clipId, l.reason]).toEqual(['likely', clips[1]?.id, expect.stringContaining('scene 12a take 04 agrees')])
  })
  it('reads reels from the folders of originals', () => {
    const clips = [clip('one_two_three.mov', { place: 'Drive/A001/' }), clip('four_five_six.mov', { place: 'Drive/A002/' })]
    const chips = [{ kind: 'value', of: 'folder', part: { kind: 'all' }, form: 'as-is' }] as const
    expect(link({ reel: 'A002' }, clips, rules({ kind: 'pattern', side: 'originals', field: 'reel', chips }))).toMatchObject({
      state: 'certain',
      clipId: clips[1]?.id,
    })
  })
  it('prefers one of several that fit alike, and it stays likely', () => {
    const clips = [clip('CLIP0001.MP4', { start: null, pixels: 100, place: 'Card 1/' }), clip('CLIP0001.MP4', { start: null, pixels: 200, place: 'Card 2/' })]
    const at = { name: 'CLIP0001.MP4', in: '00:00:02:00' }
    expect(link(at, clips).state).toBe('several')
    expect(link(at, clips, rules({ kind: 'prefer', what: 'larger', text: '' }))).toMatchObject({ state: 'likely', clipId: clips[1]?.id })
    // The first that parts them decides.
    const two = rules(
      { kind: 'prefer', what: 'here', text: '' },
      { kind: 'prefer', what: 'place', text: 'card 1' },
      { kind: 'prefer', what: 'larger', text: '' },
    )
    expect(link(at, clips, two).clipId).toBe(clips[0]?.id)
    expect(
      link(
        at,
        clips,
        two.map((r) => ({ ...r, on: false })),
      ).state,
    ).toBe('several')
  })
  it('limits what comes into question', () => {
    const clips = [clip('CLIP0001.MP4', { start: null, place: 'Card 1/' }), clip('CLIP0001.MP4', { start: null, place: 'Card 2/' })]
    expect(link({ name: 'CLIP0001.MP4', in: '00:00:02:00' }, clips, rules({ kind: 'only', of: 'place', text: 'card 2' }))).toMatchObject({
      state: 'likely',
      clipId: clips[1]?.id,
    })
  })
  it.each([
    ['place', 'card 2'],
    ['roll', 'r2'],
    ['reel', 'b0'],
    ['coding', 'raw'],
    ['form', 'numbered'],
  ] as const)('limits by %s', (of, text) => {
    const facts = { start: null, frames: 500 }
    const clips = [
      clip('CLIP0001.MP4', { ...facts, place: 'Card 1/', roll: 'R1', reel: 'A001', coding: 'H.264', form: 'movie' }),
      clip('CLIP0001.MP4', { ...facts, place: 'Card 2/', roll: 'R2', reel: 'B001', coding: 'camera raw', form: 'numbered pictures' }),
    ]
    const at = { name: 'CLIP0001.MP4', in: '00:00:02:00' }
    expect(link(at, clips).state).toBe('several')
    expect(link(at, clips, rules({ kind: 'only', of, text })).clipId).toBe(clips[1]?.id)
  })
  it('limits some events to some originals, and leaves the others as they were', () => {
    const clips = [clip('CLIP0001.MP4', { start: null, place: 'Card 1/' }), clip('CLIP0001.MP4', { start: null, place: 'Card 2/' })]
    const at = { name: 'CLIP0001.MP4', in: '00:00:02:00' }
    const only = (events: Scope) => link(at, clips, rules({ kind: 'only', of: 'place', text: 'card 2', events }))
    expect(only({ kind: 'events', keys: ['key'] })).toMatchObject({ state: 'likely', clipId: clips[1]?.id })
    expect(only({ kind: 'all' }).clipId).toBe(clips[1]?.id)
    expect([only({ kind: 'events', keys: ['other'] }).state, only({ kind: 'reels', reels: ['B'] }).state]).toEqual(['several', 'several'])
  })
  it.each<[string, RuleBody]>([
    ['prefers', { kind: 'prefer', what: 'larger', text: '' }],
    ['finds folders', { kind: 'folder', from: '/Old', to: 'Card 2' }],
    ['distrusts', { kind: 'ignore', what: 'timecode' }],
    ['reads names', { kind: 'pattern', side: 'events', field: 'scene', chips: [{ kind: 'text', text: '12A' }] }],
  ])('%s for the events it is meant for, and for no others', (_, body) => {
    const clips = [
      clip('CLIP0001.MP4', { start: 0, pixels: 100, place: 'Card 1/', scene: '12A' }),
      clip('CLIP0001.MP4', { start: 0, pixels: 200, place: 'Card 2/', scene: '3' }),
    ]
    const of = (events: Scope | null) =>
      link({ name: 'CLIP0001.MP4', file: '/Old/CLIP0001.MP4', in: '00:00:02:00' }, clips, events ? rules({ ...body, events } as RuleBody) : [])
    const bare = (l: Link) => ({ state: l.state, clipId: l.clipId, candidates: l.candidates.map((c) => ({ ...c, evidence: c.evidence.map((e) => e.text) })) })
    expect(bare(of({ kind: 'events', keys: ['other'] }))).toEqual(bare(of(null)))
    expect(bare(of({ kind: 'events', keys: ['key'] }))).not.toEqual(bare(of(null)))
    expect(bare(of({ kind: 'events', keys: ['key'] }))).toEqual(bare(of({ kind: 'all' })))
  })
  it('leaves out what is not to be trusted', () => {
    const c = clip('A001C002_SF_X.mov', { reel: 'A001' })
    expect(link({ reel: 'WRONG', name: 'A001C002_SF_X.mov' }, [c, clip('y_y_y_y.mov', { reel: 'WRONG' })]).state).toBe('likely')
    expect(link({ reel: 'WRONG', name: 'A001C002_SF_X.mov' }, [c, clip('y_y_y_y.mov', { reel: 'WRONG' })], rules({ kind: 'ignore', what: 'reel' })).state).toBe(
      'certain',
    )
    // Without timecode a reel alone does not tell which of its clips it is.
    expect(link({ reel: 'A001' }, [c], rules({ kind: 'ignore', what: 'timecode' })).state).toBe('not-found')
  })
  it('tells events that need no original', () =>
    expect(link({ name: 'GFX_map_3.mov' }, [clip('GFX_map_3.mov')], rules({ kind: 'needs-none', text: 'gfx_', as: 'still' }))).toMatchObject({
      state: 'none-needed',
      reason: expect.stringContaining('By rule'),
    }))
  it('is a sentence', () => {
    const of = (r: RuleBody) => ruleText(r)
    expect(of({ kind: 'shift', frames: -90_000, of: { kind: 'reels', reels: ['A1', 'A2'] } })).toBe('Source timecode of events on reel A1, A2 − 90000 frames')
    expect(of({ kind: 'ignore', what: 'timecode' })).toBe('The source timecode of the list is not trusted')
    expect(of({ kind: 'only', of: 'place', text: 'card 2', events: { kind: 'events', keys: ['a', 'b'] } })).toBe(
      'Only originals whose place has "card 2", for 2 chosen events',
    )
    expect(of({ kind: 'reels', pairs: [{ from: 'a', to: 'b' }] })).toBe('Reel a in the list is b')
  })
})

describe('a stamp', () => {
  it('of an edit copy that the list names makes it certain, whatever it is called', () => {
    const c = clip('CLIP0001.MP4', { start: null, aliases: ['renamed thing.mov'], copies: ['/Proxies/Day 1/renamed thing.mov'] })
    const l = link({ name: 'renamed thing.mov', file: 'file:///Proxies/Day 1/renamed thing.mov', in: '00:00:02:00' }, [
      c,
      clip('CLIP0001.MP4', { start: null }),
    ])
    expect([l.clipId, l.reason]).toEqual([c.id, expect.stringContaining('carries its stamp')])
  })
})

describe('nothing is certain that any evidence speaks against', () => {
  it('whatever the event, the originals and the rules', () => {
    const name = fc.constantFrom(
      'A001C001_SF_X.mov',
      'A001C002_SF_X.mov',
      'CLIP0001.MP4',
      'a001c001_sf_x',
      'A001C001_SF_X_proxy.mov',
      'Mate looks up',
      undefined,
    )
    const reel = fc.constantFrom('A001', 'A001_SAL', 'B002', 'AX')
    const anyClip = fc.record({
      name: fc.constantFrom('A001C001_SF_X.mov', 'A001C002_SF_X.mov', 'CLIP0001.MP4'),
      reel: fc.constantFrom(null, 'A001', 'A001_SALTFERRY', 'B002'),
      start: fc.constantFrom(null, 0, 36_000 * 25, 39_600 * 25),
      frames: fc.constantFrom(20, 500),
    })
    const body = fc.constantFrom<RuleBody>(
      { kind: 'reels', pairs: [{ from: 'B002', to: 'A001' }] },
      { kind: 'shift', frames: -90_000, of: { kind: 'all' } },
      { kind: 'ignore', what: 'reel' },
      { kind: 'ignore', what: 'name' },
      { kind: 'prefer', what: 'longer', text: '' },
    )
    fc.assert(
      fc.property(
        name,
        reel,
        fc.constantFrom('10:00:01:00', '11:00:01:00', '00:00:00:10', '10:00:19:20'),
        fc.array(anyClip, { maxLength: 5 }),
        fc.array(body, { maxLength: 3 }),
        (nm, r, at, list, bodies) => {
          const clips = list.map((c) => clip(c.name, c))
          const l = link({ reel: r, in: at, ...(nm ? { name: nm } : {}) }, clips, rules(...bodies))
          if (l.state !== 'certain') return
          const chosen = l.candidates.find((c) => c.clipId === l.clipId)
          expect(chosen?.evidence.filter((e) => e.agreement === 'contradicts' || e.agreement === 'bent')).toEqual([])
          expect([chosen?.missing.before, chosen?.missing.after]).toEqual([0, 0])
        },
      ),
      { numRuns: 600 },
    )
  })
})

describe('the shift with which most events land', () => {
  const span = (from: number, length: number) => ({ in: from, out: from + length })
  it('is whole hours where that is as good', () => {
    const clips = [span(90_000, 500), span(100_000, 500)]
    const events = [span(90_000 + 90_100, 40), span(90_000 + 100_050, 40)]
    expect(bestShift(events, clips, pal)).toEqual({ frames: -90_000, lands: 2 })
  })
  it('is none where they land already, and null where they never can', () => {
    expect(bestShift([span(10, 5)], [span(0, 100)], pal)).toEqual({ frames: 0, lands: 1 })
    expect(bestShift([span(10, 500)], [span(0, 100)], pal)).toBeNull()
  })
  it('lands as many as it says, and no shift lands more', () => {
    const spans = (most: number) =>
      fc.array(
        fc.record({ from: fc.nat(400), length: fc.integer({ min: 1, max: most }) }).map((s) => span(s.from, s.length)),
        { minLength: 1, maxLength: 6 },
      )
    fc.assert(
      fc.property(spans(20), spans(60), (events, clips) => {
        const best = bestShift(events, clips, pal)
        let most = 0
        for (let s = -500; s <= 500; s++) most = Math.max(most, landing(events, clips, s))
        expect(best?.lands ?? 0).toBe(most)
        if (best) expect(landing(events, clips, best.frames)).toBe(most)
      }),
    )
  })
})

describe('a reconnection that is asked again and again', () => {
  const clips = bentOriginals(7)
  const [first, second] = [...bentWays(clips, 20, 3)].map((w) => w.cut)
  it('answers as one that is asked for the first time, whatever was decided and ruled between', () => {
    const cuts = [first, second].filter((c) => c !== undefined)
    const bodies: RuleBody[] = [
      { kind: 'shift', frames: 25, of: { kind: 'all' } },
      { kind: 'ignore', what: 'reel' },
      { kind: 'ignore', what: 'name', events: { kind: 'events', keys: ['2', '5'] } },
      { kind: 'only', of: 'place', text: 'day 1' },
      { kind: 'only', of: 'reel', text: 'a001', events: { kind: 'events', keys: ['1', '3'] } },
      { kind: 'prefer', what: 'longer', text: '' },
      { kind: 'needs-none', text: 'a0', as: 'still' },
    ]
    const decision = fc.oneof(
      fc.constant<Decision>({ action: 'none' }),
      fc.constant<Decision>({ action: 'camera' }),
      fc.nat(clips.length - 1).map((i): Decision => ({ action: 'set', clipId: clips[i]?.id ?? '', first: i })),
    )
    const asked = fc.record({
      on: fc.array(fc.nat(bodies.length - 1), { maxLength: 3 }),
      decided: fc.dictionary(fc.nat(19).map(String), decision, { maxKeys: 4 }),
      seen: fc.dictionary(
        fc.nat(19).map(String),
        fc.array(fc.record({ clipId: fc.nat(clips.length - 1).map((i) => clips[i]?.id ?? ''), first: fc.nat(40), likeness: fc.constantFrom(0.4, 0.9, 0.99) }), {
          maxLength: 2,
        }),
        { maxKeys: 4 },
      ),
      most: fc.constantFrom(undefined, 3),
    })
    for (const cut of cuts) {
      const kept = new Reconnection(cut, clips)
      const at = new Map(cut.events.map((e, i) => [e, String(i)]))
      fc.assert(
        fc.property(asked, ({ on, decided, seen, most }) => {
          const options = {
            ...(most ? { most } : {}),
            seen: new Map(Object.entries(seen).flatMap(([i, s]) => (cut.events[Number(i)] ? [[cut.events[Number(i)]?.id ?? '', s] as const] : []))),
            rules: rules(...on.map((i) => bodies[i] as RuleBody)),
            decisions: new Map(Object.entries(decided).flatMap(([i, d]) => (cut.events[Number(i)] ? [[cut.events[Number(i)]?.id ?? '', d] as const] : []))),
            keyOf: (e: CutEvent) => at.get(e) ?? '',
          }
          expect(kept.links(options)).toEqual(reconnect(cut, clips, options))
        }),
        { numRuns: 60 },
      )
    }
  })
  it('weighs only what is asked anew', () => {
    const cut = first as Cut
    const kept = new Reconnection(cut, clips)
    const before = kept.links()
    const one = cut.events[3]?.id ?? ''
    const after = kept.links({ decisions: new Map([[one, { action: 'none' }]]) })
    expect(after.filter((l, i) => l !== before[i]).map((l) => l.eventId)).toEqual([one])
    expect(kept.links().every((l, i) => l === before[i])).toBe(true)
  })
})
