/** What follows from the data is made once for each version, and never kept where it was made of something else. */
import { setImmediate as soon } from 'node:timers/promises'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { Derived, steadily } from './index.ts'

it('is the same until the version is another, and asked for again where it failed', async () => {
  const kept = new Derived<Promise<{ n: number }>>({ things: 2 })
  let made = 0
  const ask = (thing: string, version: string) => kept.of(thing, version, async () => ({ n: ++made }))
  // However many ask at once.
  expect((await Promise.all([ask('a', '1'), ask('a', '1'), ask('a', '1')])).map((x) => x.n)).toEqual([1, 1, 1])
  expect((await ask('a', '2')).n).toBe(2)
  // Of a thing only the latest is kept, and of things only so many.
  expect((await ask('a', '1')).n).toBe(3)
  await ask('b', '1')
  await ask('c', '1')
  expect((await ask('a', '1')).n).toBe(6)
  await expect(kept.of('d', '1', () => Promise.reject(new Error('not now')))).rejects.toThrow('not now')
  expect((await ask('d', '1')).n).toBe(7)
})

it('takes no more bytes than it may', async () => {
  const kept = new Derived<Promise<{ size: number }>>({ bytes: { most: 100, of: (x) => x.size } })
  let made = 0
  const ask = async (thing: string, size: number) =>
    kept.of(thing, '', async () => {
      made++
      return { size }
    })
  await ask('a', 60)
  await ask('a', 60)
  expect(made).toBe(1)
  // The second leaves no room for the first; what alone is larger than all of it is not kept.
  await ask('b', 60)
  await ask('a', 60)
  expect(made).toBe(3)
  await ask('c', 101)
  await ask('c', 101)
  expect(made).toBe(5)
  await ask('a', 60)
  expect(made).toBeLessThanOrEqual(6)
})

it('is made anew after a while where that was asked for', async () => {
  const kept = new Derived<{ n: number }>({ things: 4, lasts: 20 })
  let made = 0
  const ask = () => kept.of('folder', '', () => ({ n: ++made })).n
  expect([ask(), ask()]).toEqual([1, 1])
  await new Promise((r) => setTimeout(r, 60))
  expect(ask()).toBe(2)
})

it('never keeps what was made of another state, however often that changes while it is made', async () => {
  const changes = fc.array(fc.record({ after: fc.nat(3) }), { maxLength: 8 })
  await fc.assert(
    fc.asyncProperty(changes, fc.array(fc.nat(8), { maxLength: 8 }), async (moves, asks) => {
      const kept = new Derived<Promise<{ of: number }>>({ things: 3 })
      let now = 0
      const ask = () =>
        steadily(
          kept,
          'answer',
          async () => String(now),
          async () => {
            await soon()
            const of = now
            await soon()
            return { of }
          },
        )
      const asking = asks.map(async (after) => {
        for (let i = 0; i < after; i++) await soon()
        await ask()
      })
      for (const { after } of moves) {
        now++
        for (let i = 0; i < after; i++) await soon()
      }
      await Promise.all(asking)
      expect((await ask()).of).toBe(now)
    }),
  )
})
