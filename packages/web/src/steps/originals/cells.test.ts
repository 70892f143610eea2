/** What keys and pasted blocks do in the list of originals. */
import type { ClipRow } from '@naranja/contract'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { blockOf, keyMeans, pasted, type Stand } from './cells.ts'
import type { ClipColumn } from './columns.tsx'

const plain = { ctrlKey: false, metaKey: false, altKey: false, shiftKey: false }
const inList: Stand = { at: 3, rows: 10, fields: 4, inCell: false, many: false }
const inCell: Stand = { ...inList, inCell: true }
const nowhere: Stand = { ...inList, at: -1 }

describe('a key', () => {
  it.each([
    ['goes down', { key: 'ArrowDown' }, inList, { what: 'row', to: 4, range: false }],
    ['chooses a range with Shift', { key: 'ArrowUp', shiftKey: true }, inList, { what: 'row', to: 2, range: true }],
    ['does not leave the list', { key: 'PageDown' }, inList, { what: 'row', to: 9, range: false }],
    ['goes to an end, with Control too', { key: 'End', ctrlKey: true }, inCell, { what: 'row', to: 9, range: false }],
    ['is left to others with Control', { key: 'ArrowDown', ctrlKey: true }, inList, null],
    ['goes to the next cell', { key: 'ArrowRight' }, inList, { what: 'column', by: 1 }],
    ['goes to no cell where none can be typed into', { key: 'ArrowLeft' }, { ...inList, fields: 0 }, null],
    ['ticks, in a cell as well', { key: ' ' }, inCell, { what: 'tick' }],
    ['ticks nothing where nothing is chosen', { key: ' ' }, nowhere, null],
    ['chooses all', { key: 'a', ctrlKey: true }, inList, { what: 'all' }],
    ['chooses all on another keyboard', { key: 'A', metaKey: true }, inList, { what: 'all' }],
    ['leaves a cell', { key: 'Escape' }, inCell, { what: 'nothing chosen' }],
    ['lets go of many', { key: 'Escape' }, { ...inList, many: true }, { what: 'nothing chosen' }],
    ['is left to others where there is nothing to let go of', { key: 'Escape' }, inList, null],
    ['opens what is chosen outside a cell, which is not for the list', { key: 'Enter' }, inList, null],
    ['begins to change what stands in a cell', { key: 'F2' }, inCell, { what: 'edit' }],
    ['empties a cell', { key: 'Delete' }, inCell, { what: 'empty' }],
    ['begins to type', { key: 'ß' }, inCell, { what: 'type', text: 'ß' }],
    ['types nothing with Control', { key: 'v', ctrlKey: true }, inCell, null],
    ['of no letter types nothing', { key: 'F5' }, inCell, null],
  ])('%s', (_, e, stand, wanted) => expect(keyMeans({ ...plain, ...e }, stand)).toEqual(wanted))
})

describe('a block that is pasted', () => {
  const row = (n: number) => ({ id: `c${n}`, scene: null, shot: `old ${n}`, take: null }) as unknown as ClipRow
  const rows = [0, 1, 2, 3].map(row)
  const fields = ['scene', 'shot'].map((code) => ({ code, field: code }) as unknown as ClipColumn)

  it('is lines of cells, however its lines end', () => {
    for (const end of ['\n', '\r\n', '\r'])
      expect(blockOf(`1\tA${end}2\tB${end}`)).toEqual([
        ['1', 'A'],
        ['2', 'B'],
      ])
    expect(blockOf('1\n\n2')).toEqual([['1'], [''], ['2']])
  })
  it('fills the fields to the right and the clips below, and tells what was there', () => {
    expect(
      pasted(
        [
          ['1', 'A'],
          ['2', 'B'],
        ],
        rows,
        1,
        fields,
        new Set(),
      ),
    ).toEqual({
      edits: [
        { clipId: 'c1', field: 'scene', before: null, value: '1' },
        { clipId: 'c1', field: 'shot', before: 'old 1', value: 'A' },
        { clipId: 'c2', field: 'scene', before: null, value: '2' },
        { clipId: 'c2', field: 'shot', before: 'old 2', value: 'B' },
      ],
      left: 0,
    })
  })
  it('empties what it has nothing for, leaves what is the same, and counts the lines that found no clip', () => {
    expect(
      pasted(
        [
          ['', 'old 3'],
          ['5', 'x'],
          ['6', 'y'],
        ],
        rows,
        3,
        fields,
        new Set(),
      ),
    ).toEqual({ edits: [], left: 2 })
    expect(pasted([[' ', ' ']], rows, 0, fields, new Set()).edits).toEqual([{ clipId: 'c0', field: 'shot', before: 'old 0', value: null }])
  })
  it('of one value fills every clip that is chosen', () => {
    const { edits } = pasted([['7']], rows, 0, fields, new Set(['c1', 'c3']))
    expect(edits.map((e) => [e.clipId, e.value])).toEqual([
      ['c1', '7'],
      ['c3', '7'],
    ])
  })
  it('never loses a line: each is put in or counted', () => {
    fc.assert(
      fc.property(fc.array(fc.stringMatching(/^[a-z]{1,3}$/), { minLength: 2, maxLength: 8 }), fc.nat(3), (lines, at) => {
        const { edits, left } = pasted(
          lines.map((l) => [l]),
          rows,
          at,
          fields,
          new Set(),
        )
        return edits.length + left === lines.length
      }),
    )
  })
})
