import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type Line, nextLine, placeBetween } from './index.ts'

const line = (batchId: string, more: Partial<Line> = {}): Line => ({ batchId, who: 'Ann', priority: 0, running: 0, served: 0, began: 1, ...more })

describe('the next turn', () => {
  it('is nobody’s where nothing waits', () => expect(nextLine([])).toBeNull())
  it('is what is urgent, and last what can wait', () => {
    expect(nextLine([line('a'), line('b', { priority: 1, served: 9 }), line('c', { priority: -1 })])?.batchId).toBe('b')
    expect(nextLine([line('a', { priority: -1 }), line('b', { running: 5, served: 9 })])?.batchId).toBe('b')
  })
  it('is that of whoever has least running, then of whoever has waited longest', () => {
    expect(nextLine([line('a', { running: 2 }), line('b', { who: 'Ben', running: 1, served: 9 })])?.batchId).toBe('b')
    expect(nextLine([line('a', { served: 4 }), line('b', { who: 'Ben', served: 3 })])?.batchId).toBe('b')
    // Ann's two batches count as hers together.
    expect(nextLine([line('a', { running: 1 }), line('c', { running: 1, served: 2 }), line('b', { who: 'Ben', running: 1, served: 9 })])?.batchId).toBe('b')
  })
  it('is that of the batch set going first, all else the same', () => expect(nextLine([line('b', { began: 2 }), line('a', { began: 1 })])?.batchId).toBe('a'))
  it('comes to everybody and to every batch: nobody gets more than one turn ahead', () => {
    const batches = fc.array(fc.record({ who: fc.constantFrom('Ann', 'Ben', 'Cy'), began: fc.integer({ min: 1, max: 9 }) }), { minLength: 2, maxLength: 6 })
    fc.assert(
      fc.property(batches, (list) => {
        let lines = list.map((b, i) => line(String(i), b))
        const turns = new Map<string, number>()
        for (let t = 1; t <= 60; t++) {
          const next = nextLine(lines) as Line
          turns.set(next.who, (turns.get(next.who) ?? 0) + 1)
          turns.set(next.batchId, (turns.get(next.batchId) ?? 0) + 1)
          lines = lines.map((l) => (l.batchId === next.batchId ? { ...l, served: t } : l))
        }
        const people = [...new Set(list.map((b) => b.who))].map((w) => turns.get(w) ?? 0)
        expect(Math.max(...people) - Math.min(...people)).toBeLessThanOrEqual(1)
        for (const who of new Set(list.map((b) => b.who))) {
          const mine = lines.filter((l) => l.who === who).map((l) => turns.get(l.batchId) ?? 0)
          expect(Math.max(...mine) - Math.min(...mine)).toBeLessThanOrEqual(1)
        }
      }),
    )
  })
})

describe('a place by hand', () => {
  it('lies between its neighbours', () => {
    expect([placeBetween(1, 2), placeBetween(null, 1), placeBetween(3, null), placeBetween(null, null)]).toEqual([1.5, 0, 4, 0])
  })
})
