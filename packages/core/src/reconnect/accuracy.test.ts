import { describe, expect, it } from 'vitest'
import { bentOriginals, bentWays, outcomeOf } from '../testing/index.ts'
import { reconnect } from './index.ts'

describe('two thousand events bent in twenty ways', () => {
  const clips = bentOriginals(7)
  const ways = bentWays(clips, 100, 3)
  const outcomes = ways.map((w) => outcomeOf(w, reconnect(w.cut, clips)))
  it('are in equal shares', () => expect([ways.length, ...new Set(outcomes.map((o) => o.events))]).toEqual([20, 100]))
  it.each(outcomes)('are never certain and wrong: $name', (o) => expect(o.wrongCertain).toBe(0))
  it('are right without a hand in 97 of 100 that can be decided', () => {
    const sum = (of: (o: (typeof outcomes)[number]) => number) => outcomes.reduce((n, o) => n + of(o), 0)
    expect(sum((o) => o.right) / sum((o) => o.decidable)).toBeGreaterThanOrEqual(0.97)
    expect(sum((o) => o.decidable)).toBeGreaterThanOrEqual(1800)
  })
  it('are several, likely or not found where nothing can decide them', () => {
    for (const o of outcomes) expect(o.open).toBe(o.events - o.decidable)
  })
})
