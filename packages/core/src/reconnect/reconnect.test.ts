import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import { cutToEdl } from '../exchange/index.ts'
import { makePlan, pointFrom } from '../plan/index.ts'
import { framesUnder, startUnder } from '../specs/index.ts'
import { digitsAt, type FrameMap, frameMap, framesOf, originalFrame, parseTimecode, type Rate, rate, sourceFrame, timecodeText } from '../time/index.ts'
import { type ClipFacts, isOpen, type Link, reconnect, Reconnection, type ReconnectOptions } from './index.ts'

const pal = rate(25)
const at = (tc: string, r = pal) => framesOf(parseTimecode(tc) ?? { h: 0, m: 0, s: 0, f: 0, drop: false }, r)
let n = 0
const clip = (name: string, facts: Partial<ClipFacts> = {}): ClipFacts => ({
  id: `c${++n}`,
  name,
  aliases: [],
  reel: null,
  reelDerived: false,
  place: 'Drive/',
  rate: pal,
  frames: 500,
  start: at('10:00:00:00'),
  drop: false,
  hasPicture: true,
  hasSound: true,
  contentId: `content ${n}`,
  away: false,
  ...facts,
})

interface Wanted {
  reel?: string
  name?: string
  in?: string
  out?: string
  channel?: string
}
function cutOf(event: Wanted) {
  const source = event.in ?? '10:00:01:00'
  const text = `001  ${(event.reel ?? 'AX').padEnd(8)} ${event.channel ?? 'V'}     C        ${source} ${event.out ?? source.replace(/:(\d\d):(\d\d)$/, (_, s, f) => `:${String(Number(s) + 1).padStart(2, '0')}:${f}`)} 01:00:00:00 01:00:01:00\n${event.name ? `* FROM CLIP NAME: ${event.name}\n` : ''}`
  return assembleCut('cut', pal, [readEdl(text, { rate: pal, file: 'x' }).value])
}
function link(event: Wanted, clips: ClipFacts[], options: ReconnectOptions = {}) {
  const [found] = reconnect(cutOf(event), clips, options)
  if (!found) throw new Error('no event')
  return found
}

describe('certain', () => {
  it('is name and contained timecode', () => {
    const c = clip('A001C002_261108_SF.mp4')
    const l = link({ name: 'A001C002_261108_SF.mov' }, [c, clip('A001C003_261108_SF.mp4', { start: at('11:00:00:00') })])
    expect([l.state, l.clipId, l.range]).toEqual(['certain', c.id, { in: 25, out: 50 }])
    expect(l.reason).toMatch(/agrees without extension.*lies inside, frames 25 to 49 of 500/)
  })
  it('is reel and contained timecode, without a name', () => expect(link({ reel: 'A001' }, [clip('x_1_a_b.mov', { reel: 'A001' })]).state).toBe('certain'))
  it('is a reel cut off as list formats cut it', () => {
    const l = link({ reel: 'B001_SAL', name: 'B001C001_SF.mxf' }, [clip('B001C001_SF.mxf', { reel: 'B001_SALTFERRY' })])
    expect([l.state, l.reason]).toEqual(['certain', expect.stringContaining('B001_SAL is B001_SALTFERRY as the list cuts it off')])
  })
  it('is a telling name that only one original has, frames counted from zero', () =>
    expect(link({ name: 'HARBOUR_DAWN_WIDE.mov', in: '00:00:02:00' }, [clip('HARBOUR_DAWN_WIDE.mov', { start: null })]).state).toBe('certain'))
  it('is a counter name whose reel tells the cards apart', () => {
    const clips = [clip('CLIP0001.MP4', { reel: 'CARD1' }), clip('CLIP0001.MP4', { reel: 'CARD2' })]
    const l = link({ reel: 'CARD2', name: 'CLIP0001.MP4' }, clips)
    expect([l.state, l.clipId]).toEqual(['certain', clips[1]?.id])
  })
  it('is a counter name in the folder that the list takes for its reel, where originals have none, in any case', () => {
    const clips = ['Card 1', 'Card 2'].map((card) => clip('CLIP0001.MP4', { place: `Deck drive/${card}/`, start: null }))
    const l = link({ reel: 'card 2', name: 'CLIP0001.MP4', in: '00:00:02:00', out: '00:00:03:00' }, clips)
    expect([l.state, l.clipId]).toEqual(['certain', clips[1]?.id])
    const own = link({ reel: 'Card 2', name: 'CLIP0001.MP4', in: '00:00:02:00', out: '00:00:03:00' }, clips)
    expect([own.state, own.clipId, own.reason]).toEqual(['certain', clips[1]?.id, expect.stringContaining('reel Card 2 is the folder it stands in')])
    // One that has a reel of its own is not asked for its folder.
    expect(link({ reel: 'Card 2', name: 'x' }, [clip('y.mov', { reel: 'B001', place: 'Deck drive/Card 2/' })]).state).toBe('not-found')
  })
  it('sees one original in two copies of the same content, and takes the one that is here', () => {
    const here = clip('A001C002_SF_X.mov', { contentId: 'same' })
    const l = link({ name: 'A001C002_SF_X.mov' }, [clip('A001C002_SF_X.mov', { contentId: 'same', away: true }), here])
    expect([l.state, l.clipId, l.away]).toEqual(['certain', here.id, false])
  })
})

describe('what is not found', () => {
  it('names what comes nearest by timecode and by name, with what speaks for and against, though nothing fits', () => {
    const inside = clip('B003C004_SF_X.mov', { reel: 'B003' })
    const beside = clip('Harbour at dawn 2.mov', { start: at('03:00:00:00') })
    const l = link({ name: 'Harbour at dusk.mov' }, [inside, beside, clip('Z.mov', { start: at('20:00:00:00') })])
    expect(l.state).toBe('not-found')
    expect(l.candidates.map((c) => c.clipId)).toEqual(expect.arrayContaining([inside.id, beside.id]))
    expect(l.candidates[0]?.evidence.map((e) => [e.kind, e.agreement])).toEqual(expect.arrayContaining([['timecode', 'agrees']]))
    expect(l.candidates.every((c) => c.evidence.length >= 3)).toBe(true)
  })
})

describe('numbered pictures', () => {
  const pictures = (facts: Partial<ClipFacts> = {}) =>
    clip('moon_[1001–1400].dpx', {
      aliases: ['moon_1001.dpx', 'moon', 'moon_[1001-1400].dpx'],
      start: null,
      frames: 400,
      firstNumber: 1001,
      rate: rate(24),
      ...facts,
    })
  const seen = (source: string, name: string, c: ClipFacts) => {
    const text = `001  AX       V     C        ${source} ${source.replace(/\d\d$/, '23')} 01:00:00:00 01:00:00:06\n* FROM CLIP NAME: ${name}\n`
    return reconnect(assembleCut('cut', rate(24), [readEdl(text, { rate: rate(24), file: 'x' }).value]), [c])[0]
  }
  it('may be counted by their numbers: 1001 is 00:00:41:17 at 24', () => {
    const l = seen('00:00:41:17', 'moon_1001.dpx', pictures())
    expect([l?.state, l?.range]).toEqual(['likely', { in: 0, out: 6 }])
    expect(l?.reason).toContain('source 00:00:41:17 is the number 1001 of its picture, counted as frames')
    expect(seen('00:00:42:00', 'moon', pictures({ start: at('10:00:00:00', rate(24)) }))?.range).toEqual({ in: 7, out: 13 })
  })
  it('are counted so only where they have a picture of that number, and their name speaks for them', () => {
    expect(seen('00:00:41:16', 'moon', pictures())?.state).toBe('not-found')
    expect(seen('00:00:41:17', 'sun', pictures())?.state).toBe('not-found')
    // As plain frames it fits too, and then that holds.
    expect(seen('00:00:41:17', 'moon', pictures({ frames: 2000 }))?.range).toEqual({ in: 1001, out: 1007 })
  })
})

describe('names with a known ending', () => {
  it.each([
    'A001C002_SF_X_1.mov',
    'A001C002_SF_X_2',
    'A001C002_SF_X_proxy.mov',
    'A001C002_SF_X_copy.mov',
    'A001C002_SF_X_light.mp4',
    'A001C002_SF_X copy.mov',
    'A001C002_SF_X copy 2.mov',
  ])('are likely while no original bears the full one: %s', (name) => {
    const c = clip('A001C002_SF_X.mov')
    expect([link({ name }, [c]).state, link({ name }, [c]).clipId]).toEqual(['likely', c.id])
    const full = clip(name)
    expect(link({ name }, [c, full]).clipId).toBe(full.id)
  })
  it('hold for counters on their own reel too, and never against timecode', () => {
    const c = clip('CLIP0001.MP4', { reel: 'K001' })
    expect(link({ name: 'CLIP0001_1.mov', reel: 'K001' }, [c]).state).toBe('likely')
    expect(link({ name: 'CLIP0001_1.mov', in: '12:00:00:00' }, [c]).state).toBe('not-found')
  })
  it('a list that names a copy made here by its name and place is certain by its stamp, whatever the copy is called', () => {
    const c = clip('A001C002_SF_X.mov', { copies: ['/edit/low/proxy of 2.mov'] })
    const text =
      '001  AX       V     C        10:00:01:00 10:00:02:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: proxy of 2.mov\n* SOURCE FILE: /edit/low/proxy of 2.mov\n'
    const [l] = reconnect(assembleCut('cut', pal, [readEdl(text, { rate: pal, file: 'x' }).value]), [c])
    expect([l?.state, l?.reason]).toEqual(['certain', expect.stringContaining('carries its stamp')])
  })
})

describe('source timecode of another rate', () => {
  const fast = () => clip('H001C001_SF_X.mov', { rate: rate(50), reel: 'H001', start: 0, frames: 2000 })
  const seen = (source: string, out: string, record: string, c: ClipFacts, options: ReconnectOptions = {}) => {
    const text = `001  H001     V     C        ${source} ${out} 01:00:00:00 ${record}\n* FROM CLIP NAME: H001C001_SF_X\n`
    return reconnect(assembleCut('cut', pal, [readEdl(text, { rate: pal, file: 'x' }).value]), [c], options)[0]
  }
  it('that names different frames at either rate is at most likely; both are said, and are candidates', () => {
    const c = fast()
    const l = seen('00:00:10:12', '00:00:11:12', '01:00:01:00', c)
    expect([l?.state, l?.range, l?.candidates.map((x) => [x.clipId, x.range.in, x.countedAt])]).toEqual([
      'likely',
      { in: 524, out: 574 },
      [
        [c.id, 524, 'list'],
        [c.id, 512, 'source'],
      ],
    ])
    expect(l?.reason).toContain("is frame 524 counted at the list's 25, frame 512 at the source's 50, and nothing tells which")
    expect(seen('00:00:10:12', '00:00:11:12', '01:00:01:00', c, { sourceCount: 'source' })?.state).toBe('certain')
  })
  it('is settled where both name the same frame, where only one lies inside, and where its out tells', () => {
    expect(seen('00:00:10:00', '00:00:11:00', '01:00:01:00', fast())?.state).toBe('certain')
    expect(seen('00:00:00:12', '00:00:01:12', '01:00:01:00', { ...fast(), start: 20 })?.range).toEqual({ in: 4, out: 54 })
    // 30 frames at 25 are a second and five frames; at 50 a second and ten.
    expect([seen('00:00:10:12', '00:00:11:17', '01:00:01:05', fast())].map((l) => [l?.state, l?.range?.in])).toEqual([['certain', 524]])
    expect([seen('00:00:10:12', '00:00:11:22', '01:00:01:05', fast())].map((l) => [l?.state, l?.range?.in])).toEqual([['certain', 512]])
  })
})

describe('likely', () => {
  it('is a single counter name, however well it lies', () =>
    expect(link({ name: 'CLIP0004.MP4', in: '00:00:02:00' }, [clip('CLIP0004.MP4', { start: null })]).state).toBe('likely'))
  it.each(['a001c002_261108_sf', 'A001C002_261108_SF_proxy.mov', 'A001C2_261108_SF', 'A001C002_2611'])('is a bent name: %s', (name) =>
    expect(link({ name }, [clip('A001C002_261108_SF.mp4')]).state).toBe('likely'),
  )
  it('is not a name in decomposed Unicode, nor a reel in other case: both agree', () =>
    expect(link({ reel: 'a001', name: 'Fa\u0308hre_weit_gross.mov' }, [clip('Fähre_weit_gross.mov', { reel: 'A001' })]).state).toBe('certain'))
  it('is a name that contradicts while reel and timecode agree', () => {
    const l = link({ reel: 'A001', name: 'Mate looks up' }, [clip('A001C002_SF.mov', { reel: 'A001' })])
    expect([l.state, l.reason]).toEqual(['likely', expect.stringContaining('o original is called Mate looks up')])
    // A name that is another original's speaks louder, but not louder than both.
    const other = clip('B007C001_SF.mov', { reel: 'B007', start: 0 })
    const two = link({ reel: 'A001', name: 'B007C001_SF.mov' }, [clip('A001C002_SF.mov', { reel: 'A001' }), other])
    expect([two.state, two.reason]).toEqual(['likely', expect.stringContaining('is not A001C002_SF.mov')])
  })
  it("is a name that is nobody's while the reel is bent and timecode agrees; not one that is another's", () => {
    const own = clip('A001C002_SF.mov', { reel: 'A001_261108_SALTFERRY' })
    const l = link({ reel: 'A001', name: '12-3/B' }, [own])
    expect([l.state, l.clipId, l.reason]).toEqual(['likely', own.id, expect.stringContaining('is nearly A001_261108_SALTFERRY')])
    expect(link({ reel: 'A001', name: 'B007C001_SF.mov' }, [own, clip('B007C001_SF.mov', { reel: 'B007_261108_SALTFERRY', start: 0 })]).state).toBe('not-found')
    // Timecode that begins at nought on every card says too little.
    expect(link({ reel: 'A001', name: '12-3/B', in: '00:00:01:00', out: '00:00:02:00' }, [{ ...own, start: null }]).state).toBe('not-found')
  })
  it('is a range that lacks some frames, said with their number', () => {
    const l = link({ reel: 'A001', name: 'A001C002_SF_X.mov', in: '10:00:19:15', out: '10:00:20:15' }, [clip('A001C002_SF_X.mov', { reel: 'A001' })])
    expect([l.state, l.reason]).toEqual(['likely', expect.stringContaining('the event needs 15 frames beyond the end of this clip')])
  })
})

describe('several', () => {
  it('are originals that nothing tells apart', () => {
    const l = link({ name: 'CLIP0001.MP4', in: '00:00:02:00' }, [clip('CLIP0001.MP4', { start: null }), clip('CLIP0001.MP4', { start: null })])
    expect([l.state, l.clipId, l.candidates.length]).toEqual(['several', null, 2])
    expect(isOpen(l)).toBe(true)
  })
  it('stand in the order of their places, however they were taken in', () => {
    const at = (place: string) => clip('CLIP0001.MP4', { start: null, place })
    const places = (clips: ClipFacts[]) =>
      link({ name: 'CLIP0001.MP4', in: '00:00:02:00' }, clips).candidates.map((c) => clips.find((x) => x.id === c.clipId)?.place)
    const cards = ['Card 2/', 'Card 10/', 'Card 1/']
    expect(places(cards.map(at))).toEqual(['Card 1/', 'Card 10/', 'Card 2/'])
    expect(places(cards.reverse().map(at))).toEqual(['Card 1/', 'Card 10/', 'Card 2/'])
  })
  it('is not said where only one is long enough', () =>
    expect(
      link({ name: 'CLIP0001.MP4', in: '00:00:10:00' }, [clip('CLIP0001.MP4', { start: null, frames: 100 }), clip('CLIP0001.MP4', { start: null })]).state,
    ).toBe('likely'))
})

describe('beyond the evidence', () => {
  const short = { reel: 'A001', name: 'A001C002_SF_X.mov', in: '10:00:19:15', out: '10:00:20:15' }
  it('nothing is said of one that its evidence proves, or makes likely', () => {
    const sure = link({ name: 'A001C002_261108_SF.mov' }, [clip('A001C002_261108_SF.mp4')])
    const likely = link(short, [clip('A001C002_SF_X.mov', { reel: 'A001' })])
    expect([sure.state, sure.beyond, likely.state, likely.beyond]).toEqual(['certain', '', 'likely', ''])
    expect(sure.reason.length * likely.reason.length).toBeGreaterThan(0)
  })
  it('is what no candidate says: that it is away, that there are others, or all there is to say', () => {
    const away = link({ name: 'A001C002_261108_SF.mov' }, [clip('A001C002_261108_SF.mp4', { away: true })])
    expect([away.state, away.beyond]).toEqual(['certain', 'Original away: Drive/.'])
    const counter = { name: 'CLIP0001.MP4', in: '00:00:02:00' }
    const others = link(counter, [clip('CLIP0001.MP4', { start: null }), clip('CLIP0001.MP4', { start: null, rate: rate(50) })])
    expect([others.state, others.beyond]).toEqual(['likely', 'Best of 2 candidates.'])
    expect(others.reason).toMatch(/; best of 2 candidates\.$/)
    const none = link({ name: 'A001C002_261108_SF.mov' }, [])
    expect([none.state, none.beyond]).toEqual(['not-found', none.reason])
  })
  it('leaves out where several stand, for each of them says it', () => {
    const l = link({ name: 'CLIP0001.MP4', in: '00:00:02:00' }, [clip('CLIP0001.MP4', { start: null }), clip('CLIP0001.MP4', { start: null })])
    expect(l.reason).toBe('Could be 2 originals that nothing tells apart: Drive/CLIP0001.MP4, Drive/CLIP0001.MP4.')
    expect(l.beyond).toBe('Could be 2 originals that nothing tells apart.')
  })
})

describe('not found', () => {
  it('names the nearest and what is wrong with it', () => {
    const l = link({ reel: 'A001', name: 'A001C002_SF_X.mov', in: '10:05:00:00' }, [clip('A001C002_SF_X.mov', { reel: 'A001' })])
    expect([l.state, l.clipId]).toEqual(['not-found', null])
    expect(l.reason).toMatch(/nearest is Drive\/A001C002_SF_X.mov, but source 10:05:00:00 lies outside 10:00:00:00 to 10:00:20:00/)
  })
  it('is a counter name whose reel is another', () =>
    expect(
      link({ reel: 'CARD1', name: 'CLIP0001.MP4' }, [
        clip('CLIP0001.MP4', { reel: 'CARD2' }),
        clip('OTHER_THING.MP4', { reel: 'CARD1', start: at('20:00:00:00') }),
      ]).state,
    ).toBe('not-found'))
  it('is timecode alone: it repeats daily', () =>
    expect(link({ reel: 'Z999', name: 'NOBODY_KNOWS.mov' }, [clip('A001C002_SF.mov', { reel: 'A001' })]).state).toBe('not-found'))
  it('is a light copy of the very original', () =>
    expect(link({ name: 'A001C002_SF_X.mov' }, [clip('A001C002_SF_X.mov', { light: { standing: 'marked', of: null, ofName: 'x' } })]).state).toBe('not-found'))
  it('is a picture event whose only namesake is sound', () =>
    expect(link({ name: 'SF_TAKE_SEVEN.wav' }, [clip('SF_TAKE_SEVEN.wav', { hasPicture: false })]).state).toBe('not-found'))
})

describe('other states', () => {
  it('needs no original: a title that no original is called after', () =>
    expect(link({ name: 'TITLE_01' }, [clip('A001C002_SF.mov')]).state).toBe('none-needed'))
  it('stays a camera event where an original is called so', () =>
    expect(link({ name: 'TITLE_SEQUENCE_A.mov' }, [clip('TITLE_SEQUENCE_A.mov')]).state).toBe('certain'))
  it('is away beside its state', () => {
    const l = link({ name: 'A001C002_SF_X.mov' }, [clip('A001C002_SF_X.mov', { away: true })])
    expect([l.state, l.away, isOpen(l)]).toEqual(['certain', true, true])
  })
  it('is set by hand, confirmed or not needed when a person says so', () => {
    const [a, b] = [clip('CLIP0001.MP4', { start: null }), clip('CLIP0001.MP4', { start: null })]
    const event = { name: 'CLIP0001.MP4', in: '00:00:02:00' }
    const decided = (d: Parameters<Map<string, import('./model.ts').Decision>['set']>[1]) => link(event, [a, b], { decisions: new Map([['cut/V1/001', d]]) })
    expect([decided({ action: 'set', clipId: b.id }).state, decided({ action: 'set', clipId: b.id }).clipId]).toEqual(['set-by-hand', b.id])
    expect(decided({ action: 'confirm', clipId: a.id }).state).toBe('confirmed')
    expect(decided({ action: 'none' }).state).toBe('none-needed')
  })
  it('takes a reel from a folder for a contradiction only where the list uses such reels', () => {
    const c = (reel: string) => clip('SF_WIDE_SHOT.mov', { reel, reelDerived: true, start: at('10:00:00:00') })
    expect(link({ reel: 'TAPE7', name: 'SF_WIDE_SHOT.mov' }, [c('A001')]).state).toBe('certain')
    expect(link({ reel: 'A002', name: 'SF_WIDE_SHOT.mov' }, [c('A001'), clip('OTHER_SHOT.mov', { reel: 'A002', start: at('20:00:00:00') })]).state).toBe(
      'likely',
    )
  })
})

describe('source timecode of another rate', () => {
  const fast = () => clip('H001C001_SF_X.mov', { rate: rate(50), start: at('10:00:00:00', rate(50)), frames: 400 })
  it('is counted at the list’s rate', () => expect(link({ name: 'H001C001_SF_X.mov', in: '10:00:01:10' }, [fast()]).range).toEqual({ in: 70, out: 120 }))
  it('is counted at the source’s where a digit exceeds the list’s', () => {
    const l = link({ name: 'H001C001_SF_X.mov', in: '10:00:01:37' }, [fast()])
    expect([l.range, l.reason]).toEqual([{ in: 87, out: 137 }, expect.stringContaining("source's 50")])
  })
  it('is counted as told', () =>
    expect(link({ name: 'H001C001_SF_X.mov', in: '10:00:01:10' }, [fast()], { sourceCount: 'source' }).range).toEqual({ in: 60, out: 110 }))
  it('of a clip over midnight goes on after it', () =>
    expect(link({ name: 'NIGHT_OVER_TWELVE.mov', in: '00:00:01:00' }, [clip('NIGHT_OVER_TWELVE.mov', { start: at('23:59:58:00') })]).range).toEqual({
      in: 75,
      out: 100,
    }))
})

describe('any event among any originals', () => {
  const names = fc.constantFrom('A001C001_SF_LONG.mov', 'CLIP0001.MP4', 'a001c001_sf_long.MOV', 'HARBOUR.mov')
  const reels = fc.constantFrom('A001', 'A002', 'B001_SALTFERRY', null)
  const starts = fc.constantFrom('00:00:00:00', '10:00:00:00', '10:00:15:00', '22:00:00:00', null)
  const clips = fc.array(fc.tuple(names, reels, starts, fc.integer({ min: 10, max: 600 }), fc.boolean()), { maxLength: 6 })
  const event = fc.record({
    name: names,
    reel: fc.constantFrom('A001', 'A002', 'B001_SAL', 'AX'),
    in: fc.constantFrom('00:00:01:00', '10:00:01:00', '10:00:16:05'),
  })
  const factsOf = (list: readonly [string, string | null, string | null, number, boolean][]) =>
    list.map(([name, reel, start, frames, derived]) => clip(name, { reel, start: start === null ? null : at(start), frames, reelDerived: derived }))
  it('is never certain where any evidence speaks against it, and never of a range that does not exist', () => {
    fc.assert(
      fc.property(event, clips, (e, list) => {
        const facts = factsOf(list)
        const l = link(e, facts)
        if (l.state !== 'certain') return
        const c = facts.find((f) => f.id === l.clipId)
        expect(l.candidates[0]?.evidence.some((x) => x.agreement === 'contradicts' || x.agreement === 'bent')).toBe(false)
        expect((l.range?.in ?? -1) >= 0 && (l.range?.out ?? 1e9) <= (c?.frames ?? 0)).toBe(true)
      }),
      { numRuns: 500 },
    )
  })
  it('is tied to the same, for the same reason, without what comes nearest; and nothing of that stays', () => {
    fc.assert(
      fc.property(event, clips, (e, list) => {
        const [cut, facts] = [cutOf(e), factsOf(list)]
        const kept = new Reconnection(cut, facts)
        const [bare] = kept.links({ bare: true })
        const [whole] = kept.links()
        expect(whole).toEqual(reconnect(cut, facts)[0])
        expect({ ...bare, candidates: [] }).toEqual({ ...whole, candidates: [] })
        if (whole?.state !== 'not-found') expect(bare).toEqual(whole)
        // What is known with its candidates serves whoever asks without them.
        expect(kept.links({ bare: true })[0]).toBe(whole)
      }),
    )
  })
})

describe('a cut made with copies at another rate', () => {
  /** A copy at 25 of an original, as `startUnder` begins it. */
  const copyOf = (own: Rate, frames: number, start: number) => ({
    start: startUnder(start, own, pal, false),
    drop: false,
    frames: framesUnder(frames, own, pal),
    map: frameMap(own, pal) as FrameMap,
  })
  it('is led back to the very frames that the copies show, at any rate and from any start', () => {
    const rates = fc.constantFrom(rate(50), rate(24), rate(24000, 1001), rate(30000, 1001), rate(48))
    fc.assert(
      fc.property(rates, fc.integer({ min: 0, max: 1_000_000 }), fc.integer({ min: 0, max: 300 }), fc.integer({ min: 1, max: 60 }), (own, start, n, length) => {
        const copy = copyOf(own, 1000, start)
        fc.pre(n + length <= copy.frames)
        const c = clip('SHOT_A_7_HARBOUR.mov', { rate: own, frames: 1000, start, mapped: [copy] })
        const source = (f: number) => timecodeText(digitsAt(copy.start + f, pal))
        const record = (f: number) => timecodeText(digitsAt(90000 + f, pal))
        const text = `001  AX       V     C        ${source(n)} ${source(n + length)} ${record(0)} ${record(length)}\n* FROM CLIP NAME: ${c.name}\n`
        const cut = assembleCut('cut', pal, [readEdl(text, { rate: pal, file: 'x' }).value])
        const [found] = reconnect(cut, [c])
        const shown = Array.from({ length }, (_, k) => Math.min(999, originalFrame(copy.map, n + k)))
        expect([found?.state, found?.candidates[0]?.countedAt, found?.range?.in, (found?.range?.out ?? 0) - 1]).toEqual([
          'certain',
          'copy',
          shown[0],
          shown.at(-1),
        ])
        // What is conformed are those frames, one for one.
        const plan = makePlan(cut, [found as Link], new Map([[c.id, { ...c, width: 1920, height: 1080, pixelAspect: 1, holes: [] }]]), {
          ...{ width: 1920, height: 1080, handles: 0, placeholders: false },
        })
        const layer = plan.parts[0]?.layers[0]
        if (layer?.kind !== 'clip') throw new Error('no picture')
        expect(Array.from({ length }, (_, k) => Math.min(999, sourceFrame(layer.first, layer.k + k, layer.step)))).toEqual(shown)
        // And a list that points at the copy again says what the first one said.
        const referred = { name: c.name, url: '/x', reel: null, rate: pal, drop: false, start: copy.start, frames: copy.frames, offset: 0, map: copy.map }
        expect(
          cutToEdl(
            cut,
            pointFrom(plan, () => referred),
          ).files[0]?.text,
        ).toContain(`${source(n)} ${source(n + length)}`)
      }),
    )
  })
  it('counts as the list does where no copy fits', () => {
    const c = clip('SHOT_A_7_HARBOUR.mov', { rate: rate(50), frames: 1000, start: 0, mapped: [{ ...copyOf(rate(50), 100, 1800000) }] })
    expect(link({ name: c.name, in: '00:00:01:00' }, [c]).candidates[0]).toMatchObject({ countedAt: 'list', range: { in: 50, out: 100 } })
  })
})
