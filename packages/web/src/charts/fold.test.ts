import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { layDays } from './day.ts'
import { foldLanes } from './fold.ts'
import { laneClip } from './made.testing.ts'

const rolls = (...names: string[]) => layDays(names.map((n, i) => laneClip(n, n, n.startsWith('Card') ? null : 900_000 + i * 1000)))
const folded = (names: string[], calm: (n: string) => boolean) => foldLanes(rolls(...names), calm).chart.lanes.map((l) => l.name)

describe('folded lanes', () => {
  it('are runs of three and more that ask for nothing, named by the first and the last', () => {
    const names = ['A001', 'A002', 'A003', 'A004', 'B001', 'B002', 'B003']
    expect(folded(names, (n) => n !== 'A004' && n !== 'B002')).toEqual(['A001–003', 'A004', 'B001', 'B002', 'B003'])
    expect(folded(names, () => false)).toEqual(names)
    expect(folded(['Card 9', 'Card 10', 'Card 11', 'Take 4'], () => true)).toEqual(['Take 4', 'Card 9–11'])
  })
  it('never join lanes that are told apart by a note', () => {
    expect(folded(['A001', 'A002', 'A003', 'Card 1', 'Card 2', 'Card 3'], () => true)).toEqual(['A001–003', 'Card 1–3'])
  })
  it('keep every clip where it was, on the lane that its own is part of', () => {
    const names = fc.uniqueArray(fc.nat(60), { minLength: 1, maxLength: 40 }).map((list) => list.map((n) => `A${String(n).padStart(3, '0')}`))
    fc.assert(
      fc.property(names, fc.func(fc.boolean()), (list, calm) => {
        const chart = rolls(...list)
        const { chart: after, members } = foldLanes(chart, calm)
        expect(after.clips.map(({ id, x, width }) => [id, x, width])).toEqual(chart.clips.map(({ id, x, width }) => [id, x, width]))
        for (const [i, c] of after.clips.entries()) {
          const [name, own] = [after.lanes[c.lane]?.name ?? '', chart.lanes[chart.clips[i]?.lane ?? -1]?.name ?? '']
          expect(members.get(name) ?? [name]).toContain(own)
          if (!calm(own)) expect(name).toBe(own)
        }
        expect(after.lanes.flatMap((l) => members.get(l.name) ?? [l.name])).toEqual(chart.lanes.map((l) => l.name))
      }),
    )
  })
})
