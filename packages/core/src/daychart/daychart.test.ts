import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayChart, dayTroubles, type HeardClip } from './index.ts'

describe('the day chart', () => {
  const clips = [
    { id: '1', lane: 'A001', day: 'Day 1', start: 36000, length: 4 },
    { id: '2', lane: 'A001', day: 'Day 1', start: 36600, length: 8 },
    { id: '3', lane: 'Deck', day: 'Day 1', start: null, length: 4 },
    { id: '4', lane: 'B001', day: 'Day 2', start: 36000, length: 4 },
  ]
  it('keeps true lengths, folds idle time, and sets clips without timecode apart', () => {
    const c = dayChart(clips)
    expect(c.lanes).toEqual([
      { name: 'A001', note: '' },
      { name: 'B001', note: '' },
      { name: 'Deck', note: 'no timecode' },
    ])
    const [a, b, deck, second] = c.clips as unknown as [
      { x: number; width: number; lane: number },
      { x: number; width: number; lane: number },
      { lane: number; width: number },
      { x: number },
    ]
    expect(b.width / a.width).toBeCloseTo(2)
    expect(b.x - a.x - a.width).toBeLessThan(a.width)
    expect(second.x).toBeGreaterThan(b.x + b.width)
    expect([deck.lane, deck.width]).toEqual([2, a.width])
    expect(c.marks.map((m) => m.day)).toContain('Day 2')
  })
  it('keeps every clip inside', () => {
    const any = fc.array(
      fc.record({
        id: fc.uuid(),
        lane: fc.constantFrom('a', 'b'),
        day: fc.constantFrom('1', '2'),
        start: fc.option(fc.nat(86399)),
        length: fc.integer({ min: 1, max: 300 }),
      }),
      { maxLength: 30 },
    )
    fc.assert(
      fc.property(any, (list) => {
        for (const p of dayChart(list).clips) expect(p.x >= 0 && p.x + p.width <= 1.0001).toBe(true)
      }),
    )
  })
  it('counts days and rolls as people do', () => {
    const days = ['Day 1', 'Day 2', 'Day 10'].map((day, i) => ({ id: day, lane: `Card ${12 - i * 5}`, day, start: 36000, length: 400 }))
    const c = dayChart([...days].reverse())
    expect(c.lanes.map((l) => l.name)).toEqual(['Card 2', 'Card 7', 'Card 12'])
    expect(c.marks.map((m) => m.day)).toEqual(['Day 1', 'Day 2', 'Day 10'])
  })
  it('never lets two labels share a place', () => {
    const any = fc.record({
      id: fc.uuid(),
      lane: fc.constantFrom('a', 'b'),
      day: fc.nat(12).map((n) => `Day ${n}`),
      start: fc.nat(86399),
      length: fc.integer({ min: 1, max: 3000 }),
    })
    fc.assert(
      fc.property(fc.array(any, { maxLength: 40 }), (list) => {
        const { marks } = dayChart(list)
        marks.forEach((m, i) => {
          const before = marks[i - 1]
          if (before) expect(m.x - before.x).toBeGreaterThanOrEqual((before.day ? 0.15 : 0.075) - 1e-9)
        })
      }),
    )
  })
})

describe('troubles of a day', () => {
  const clip = (id: string, start: number | null, length: number, over: Partial<HeardClip> = {}): HeardClip => ({
    ...{ id, lane: 'A001', day: 'Day 1', start, length, recorder: false, hasSound: false },
    ...over,
  })
  it('are clips of one roll that share timecode, not those of two cameras', () => {
    const { doubled } = dayTroubles([
      clip('a', 0, 10),
      clip('b', 9, 5),
      clip('c', 14, 5),
      clip('d', 12, 9, { lane: 'B001' }),
      clip('e', 0, 10, { day: 'Day 2' }),
    ])
    expect([...doubled].sort()).toEqual(['a', 'b'])
  })
  it('find a short clip inside a long one, and the next after both', () => {
    const { doubled } = dayTroubles([clip('long', 0, 100), clip('short', 10, 5), clip('next', 90, 20)])
    expect([...doubled].sort()).toEqual(['long', 'next', 'short'])
  })
  it('are pictures that no recorder covers, on days that have one', () => {
    const recorder = { lane: 'Sound', recorder: true, hasSound: true }
    const { unheard } = dayTroubles([
      ...[clip('r1', 0, 50, recorder), clip('r2', 50, 50, recorder)],
      ...[clip('covered', 40, 20), clip('half', 90, 20), clip('own', 200, 5, { hasSound: true }), clip('other day', 0, 5, { day: 'Day 2' })],
    ])
    expect([...unheard]).toEqual(['half'])
  })
  it('name gaps, the longest first, and leave clips without timecode alone', () => {
    const { gaps, doubled } = dayTroubles([clip('a', 0, 10), clip('b', 12, 3), clip('c', 60, 5), clip('x', null, 9), clip('y', null, 9)])
    expect(gaps.map((g) => [g.after, g.seconds])).toEqual([
      ['b', 45],
      ['a', 2],
    ])
    expect(doubled.size).toBe(0)
  })
})
