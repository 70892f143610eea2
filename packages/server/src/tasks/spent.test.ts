import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { SpentClock } from './spent.ts'

describe('what tasks take of their worker', () => {
  it('is shared while several run, and stands still while one is held', () => {
    let now = 0
    const clock = new SpentClock(() => now)
    clock.begin('a')
    now = 10_000
    clock.begin('b')
    expect(clock.of('a')).toEqual({ whole: 10, active: 10, beside: 2 })
    now = 20_000
    clock.set('a', false)
    now = 30_000
    expect([clock.of('a'), clock.of('b')]).toEqual([
      { whole: 15, active: 20, beside: 1 },
      { whole: 15, active: 20, beside: 1 },
    ])
    clock.set('a', true)
    now = 32_000
    clock.end('b')
    now = 33_000
    expect(clock.of('a')).toEqual({ whole: 17, active: 23, beside: 1 })
  })
  it('adds up to the time in which anything ran', () => {
    const steps = fc.array(fc.record({ id: fc.constantFrom('a', 'b', 'c'), what: fc.constantFrom('stop', 'go'), wait: fc.integer({ min: 0, max: 9 }) }))
    fc.assert(
      fc.property(steps, (list) => {
        let [now, ran] = [0, 0]
        const clock = new SpentClock(() => now * 1000)
        const going = new Set(['a', 'b', 'c'])
        for (const id of going) clock.begin(id)
        for (const s of list) {
          now += s.wait
          if (going.size > 0) ran += s.wait
          clock.set(s.id, s.what === 'go')
          if (s.what === 'go') going.add(s.id)
          else going.delete(s.id)
        }
        expect(['a', 'b', 'c'].reduce((n, id) => n + clock.of(id).whole, 0)).toBeCloseTo(ran, 6)
      }),
    )
  })
})
