/** An index of originals finds what a plain search finds. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bareStem, stem } from '../naming/index.ts'
import { inventory } from './inventory.ts'
import type { ClipFacts } from './model.ts'

const clipOf = (name: string, i: number, facts: Partial<ClipFacts> = {}): ClipFacts =>
  ({ id: `c${i}`, name, aliases: [], place: 'Card/', reel: null, start: null, ...facts }) as ClipFacts
const ids = (clips: readonly ClipFacts[]) => clips.map((c) => c.id)
/** Names of few letters and signs, so that many are nearly alike; some with signs beyond ASCII. */
const name = fc
  .tuple(fc.constantFrom('A', 'a', 'B1', 'ß', 'ä', '_', ''), fc.stringMatching(/^0{0,2}[0-9]{0,3}$/), fc.constantFrom('', 'C01', '_x', ' X', '_proxy', 'é'))
  .map((parts) => `${parts.join('')}.mov`)
const names = fc.array(name, { maxLength: 40 })

describe('names', () => {
  it('are found exactly, and loosely whatever their case, padding and signs', () => {
    fc.assert(
      fc.property(names, name, (list, asked) => {
        const clips = list.map((n, i) => clipOf(n, i))
        const inv = inventory(clips)
        const own = stem(asked)
        expect(ids(inv.exactly(asked))).toEqual(ids(clips.filter((c) => stem(c.name) === own)))
        const loosely = new Set(inv.loosely(asked))
        const alike = clips.filter((c) => bareStem(stem(c.name)) === bareStem(own))
        expect([asked, ids(alike.filter((c) => !loosely.has(c)))]).toEqual([asked, []])
        for (const c of clips) expect(inv.byId(c.id)).toBe(c)
        expect(inv.byId('another')).toBeUndefined()
      }),
    )
  })
  it('are found by a beginning of eight characters or more, and by none that is shorter', () => {
    const clips = ['A001C002_261108_SF.mov', 'A001C002_261108_TF.mov', 'A001C003_261108_SF.mov', 'A001X.mov'].map((n, i) => clipOf(n, i))
    const inv = inventory(clips)
    expect(ids(inv.loosely('A001C002_26'))).toEqual(['c0', 'c1'])
    expect(ids(inv.loosely('A001C002'))).toEqual(['c0', 'c1'])
    expect(ids(inv.loosely('A001C0'))).toEqual([])
  })
})

describe('reels', () => {
  const reel = fc.constantFrom('A001', 'a001', 'A001_SF', 'A001_SFX', 'A001_SALTFERRY_261108', 'B1', 'AX', '', 'A 0 0 1')
  it('are found in full, cut off, and where one is the beginning of the other, in the order of the clips', () => {
    fc.assert(
      fc.property(fc.array(fc.option(reel), { maxLength: 30 }), reel, (list, asked) => {
        const clips = list.map((r, i) => clipOf('x.mov', i, { reel: r }))
        const found = inventory(clips).onReel(asked)
        const key = (r: string) => r.toLowerCase().replaceAll(' ', '')
        const wanted = clips.filter((c) => {
          if (c.reel === null || /^(AX|)$/.test(c.reel) || /^(AX|)$/.test(asked)) return false
          const [a, b] = [key(asked), key(c.reel)]
          const cut = [7, 8, 16].some((n) => b.length > n && b.slice(0, n) === a)
          return a === b || cut || (a.length >= 3 && b.startsWith(`${a}_`)) || (b.length >= 3 && a.startsWith(`${b}_`))
        })
        expect(new Set(ids(found))).toEqual(new Set(ids(wanted)))
        expect(new Set(found).size).toBe(found.length)
      }),
    )
  })
})
