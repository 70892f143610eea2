import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dayChart } from './index.ts'

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
