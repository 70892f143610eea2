import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import { rate } from '../time/index.ts'
import { alikeOnly, type ClipFacts, type Decision, reconnect, type ReconnectOptions, type PictureMatch } from './index.ts'

const pal = rate(25)
const clip = (id: string, facts: Partial<ClipFacts> = {}): ClipFacts => ({
  ...{ id, name: 'CLIP0001.MP4', aliases: [], reel: null, reelDerived: false, place: `Card ${id}/`, rate: pal, frames: 500, start: null, drop: false },
  ...{ hasPicture: true, hasSound: true, contentId: `content ${id}`, away: false },
  ...facts,
})
const seen = (clipId: string, first: number, likeness: number): PictureMatch => ({ clipId, first, likeness })
/** The link of one event of a second, whose source begins at `source`. */
function link(clips: readonly ClipFacts[], told: readonly PictureMatch[] | null, source = '00:00:02:00', more: ReconnectOptions = {}) {
  const out = source.replace(/:(\d\d):(\d\d)$/, (_, s, f) => `:${String(Number(s) + 1).padStart(2, '0')}:${f}`)
  const text = `001  AX       V     C        ${source} ${out} 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: CLIP0001.MP4\n`
  const cut = assembleCut('cut', pal, [readEdl(text, { rate: pal, file: 'x' }).value])
  const [found] = reconnect(cut, clips, { ...more, ...(told ? { seen: new Map(cut.events.map((e) => [e.id, told])) } : {}) })
  if (!found) throw new Error('no event')
  return found
}

describe('originals that nothing tells apart', () => {
  const cards = ['1', '2', '3'].map((id) => clip(id))
  it('are told by their pictures, with the measured likeness', () => {
    expect(link(cards, null).state).toBe('several')
    const l = link(cards, [seen('1', 50, 0.31), seen('2', 50, 0.972), seen('3', 50, 0.66)])
    expect([l.state, l.clipId, l.range]).toEqual(['likely', '2', { in: 50, out: 75 }])
    expect(l.reason).toMatch(/^One of 3 that fit alike; its pictures are 97 % like the edit's, those of the next 66 %; /)
    expect([l.candidates.map((c) => c.clipId), l.candidates[0]?.evidence[0]?.kind]).toEqual([['2', '1', '3'], 'picture'])
  })
  it('stay several where another comes near, where none is alike, and where one of them was not compared, or elsewhere', () => {
    for (const told of [
      [seen('1', 50, 0.95), seen('2', 50, 0.97), seen('3', 50, 0.2)],
      [seen('1', 50, 0.4), seen('2', 50, 0.8), seen('3', 50, 0.2)],
      [seen('1', 50, 0.4), seen('2', 50, 0.98)],
      [seen('1', 50, 0.4), seen('2', 51, 0.98), seen('3', 50, 0.2)],
      [],
    ])
      expect(link(cards, told).state).toBe('several')
  })
  it('are settled by what a person says, whatever the pictures tell', () => {
    const decided = (d: Decision) =>
      link(cards, [seen('1', 50, 0.1), seen('2', 50, 0.98), seen('3', 50, 0.2)], '00:00:02:00', { decisions: new Map([['cut/V1/001', d]]) })
    expect(decided({ action: 'set', clipId: '3' })).toMatchObject({ state: 'set-by-hand', clipId: '3' })
    expect(decided({ action: 'none' }).state).toBe('none-needed')
  })
})

describe('two ways to count', () => {
  const fast = clip('f', { name: 'CLIP0001.MP4', rate: rate(50), frames: 800, start: 0, reel: 'AX' })
  it('are told by the pictures at the frame that each names', () => {
    const plain = link([fast], null, '00:00:02:12')
    expect([plain.state, plain.candidates.map((c) => c.range.in)]).toEqual(['likely', [124, 112]])
    expect(plain.reason).toContain('nothing tells which')
    for (const [first, other] of [
      [124, 112],
      [112, 124],
    ] as const) {
      const l = link([fast], [seen('f', first, 0.96), seen('f', other, 0.7)], '00:00:02:12')
      expect([l.state, l.range?.in, l.candidates.map((c) => c.range.in)]).toEqual(['likely', first, [first, other]])
      expect(l.reason).toContain("Its pictures are 96 % like the edit's, those of the next 70 %")
      expect(l.reason).not.toContain('nothing tells which')
    }
    expect(link([fast], [seen('f', 112, 0.96), seen('f', 124, 0.959)], '00:00:02:12').reason).toContain('nothing tells which')
  })
})

describe('what was not found', () => {
  const other = clip('o', { name: 'HARBOUR_WIDE.mov', start: 900_000 })
  const twin = clip('t', { name: 'HARBOUR_WIDE copy.mov', start: 900_000, contentId: 'content o' })
  it('is likely at the frame where its pictures were seen, and says what speaks against it', () => {
    expect(link([other], null).state).toBe('not-found')
    const l = link([other, twin], [seen('o', 131, 0.94), seen('t', 131, 0.94), seen('o', 300, 0.5)])
    expect([l.state, l.clipId, l.range]).toEqual(['likely', 'o', { in: 131, out: 156 }])
    expect(l.reason).toMatch(/^Its pictures are 94 % like the edit's, those of the next 50 %; no original is called CLIP0001\.MP4/)
  })
  it('stays so where two places are alike, where a clip is there no more, and past its end', () => {
    for (const told of [[seen('o', 131, 0.94), seen('o', 300, 0.938)], [seen('gone', 131, 0.94)], [seen('o', 500, 0.94)], []])
      expect(link([other], told).state).toBe('not-found')
  })
})

it('one place is alike and no other only where the next is at least twice as unlike', () => {
  fc.assert(
    fc.property(fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { maxLength: 6 }), (list) => {
      const told = alikeOnly(list.map((likeness, i) => ({ clipId: String(i), likeness })))
      const [best = 0, second = Number.NEGATIVE_INFINITY] = list.toSorted((a, b) => b - a)
      expect(told !== null).toBe(best >= 0.88 && 1 - second >= 2 * (1 - best) && best - second >= 0.02)
      // Frames of one original need only stand out.
      expect(alikeOnly(list.map((likeness) => ({ clipId: 'one', likeness }))) !== null).toBe(best >= 0.88 && best - second >= 0.003)
      if (told) expect([told.seen.likeness, told.next]).toEqual([best, list.length > 1 ? second : null])
    }),
  )
})
