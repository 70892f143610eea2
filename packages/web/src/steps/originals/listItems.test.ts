/** Groups in the list of originals. */
import type { ClipRow } from '@naranja/contract'
import { describe, expect, it } from 'vitest'
import { itemsOf } from './listItems.ts'

const row = (id: string, roll: string, day: string, camera: string | null) => ({ id, roll, day, camera }) as unknown as ClipRow
const rows = [row('1', 'A001', 'Day 1', 'A'), row('2', 'A001', 'Day 1', 'B'), row('3', 'A001', 'Day 2', null), row('4', 'A002', 'Day 2', null)]
const told = (group: Parameters<typeof itemsOf>[1]) => itemsOf(rows, group).map((i) => (i.kind === 'head' ? `${i.name}/${i.more}/${i.count}` : i.row.id))

describe('the list', () => {
  it('has no heads without groups', () => expect(told('none')).toEqual(['1', '2', '3', '4']))
  it('tells rolls of one name apart by their day', () => expect(told('roll')).toEqual(['A001/Day 1/2', '1', '2', 'A001/Day 2/1', '3', 'A002/Day 2/1', '4']))
  it('goes by days', () => expect(told('day')).toEqual(['Day 1//2', '1', '2', 'Day 2//2', '3', '4']))
  it('goes by cameras, and says where there is none', () => expect(told('camera')).toEqual(['A//1', '1', 'B//1', '2', 'No camera//2', '3', '4']))
})
