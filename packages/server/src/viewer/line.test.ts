import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { askedBy } from '../platform/index.ts'
import { Line, Nobody } from './line.ts'

/** Lets everything that waits for nothing else happen. */
const settle = () => new Promise((r) => setTimeout(r, 0))

/** Wishes of people, by their names; each goes on until it is let go. */
function office(places: number) {
  const line = new Line(places)
  const begun: string[] = []
  const doors: (() => void)[] = []
  const dropped: string[] = []
  const wish = (who: string, name: string, gone?: AbortSignal) =>
    askedBy(who, () =>
      line
        .add(() => {
          begun.push(`${who} ${name}`)
          return new Promise<void>((r) => doors.push(r))
        }, gone)
        .catch((e: Error) => {
          if (!(e instanceof Nobody)) throw e
          dropped.push(`${who} ${name}`)
        }),
    )
  const finish = async () => {
    doors.shift()?.()
    await settle()
  }
  return { begun, dropped, wish, finish, atWork: () => doors.length }
}

describe('a line', () => {
  it('lets people take turns, and makes of each what was asked for last', async () => {
    const o = office(1)
    for (const n of ['1', '2', '3', '4']) void o.wish('Mara', n)
    void o.wish('Ilse', '1')
    void o.wish('Ilse', '2')
    for (let i = 0; i < 6; i++) await o.finish()
    expect(o.begun).toEqual(['Mara 1', 'Mara 4', 'Ilse 2', 'Mara 3', 'Ilse 1', 'Mara 2'])
  })
  it('makes nothing that nobody waits for any more, and drops the oldest of far too much', async () => {
    const o = office(1)
    const left = new AbortController()
    void o.wish('Mara', 'first')
    void o.wish('Mara', 'left', left.signal)
    void o.wish('Mara', 'stays')
    left.abort()
    await o.finish()
    await o.finish()
    await o.finish()
    expect([o.begun, o.dropped]).toEqual([['Mara first', 'Mara stays'], ['Mara left']])
    const many = office(1)
    for (let n = 0; n < 310; n++) void many.wish('Mara', String(n))
    await settle()
    expect(many.dropped).toEqual(Array.from({ length: 9 }, (_, i) => `Mara ${i + 1}`))
  })
  it('never has more at work than places, loses nothing, and keeps nobody waiting for another’s pile', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 4 }), fc.array(fc.constantFrom('a', 'b', 'c'), { maxLength: 60 }), async (places, people) => {
        const o = office(places)
        people.forEach((who, i) => void o.wish(who, String(i)))
        await settle()
        const most: number[] = []
        for (let i = 0; i < people.length; i++) {
          most.push(o.atWork())
          await o.finish()
        }
        expect(Math.max(0, ...most)).toBeLessThanOrEqual(places)
        expect(o.begun).toHaveLength(people.length)
        // Once all wait, each person who still waits is served before anybody is served twice.
        const later = o.begun.slice(places).map((b) => b[0])
        const total = (w: string) => people.filter((p) => p === w).length
        const [least] = [...new Set(people)].sort((x, y) => total(x) - total(y))
        if (least && later.includes(least)) expect(later.indexOf(least)).toBeLessThan(new Set(people).size)
      }),
      { numRuns: 60 },
    )
  })
})
