import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { describable, type Field, matchTable, type TableClip } from '../describe/index.ts'
import { rate } from '../time/index.ts'
import { guardedCell, headOf, isLayoutOf, type LoggedClip, type LogLayout, logTables, plainLayout, unguardedCell, usesOf } from './index.ts'

const nothing = Object.fromEntries(describable.map((f) => [f, null])) as Record<Field, string | null>
const clip = (name: string, more: Partial<LoggedClip> = {}): LoggedClip => ({
  ...{ name, reel: 'A001', roll: 'A001', day: 'Day 1', folder: 'Day 1/A001', start: 900_000, frames: 50, rate: rate(25), drop: false },
  ...{ width: 1920, height: 1080, codec: 'ProRes 422', channels: 2, size: 1000, described: nothing, ...more },
})
const facts = { project: 'The Salt Ferry', date: '2026-11-08', rate: rate(25) }
const clips = [
  clip('A001C001.mov', { described: { ...nothing, scene: '4', take: '2', camera: 'A' } }),
  clip('B001C001.mxf', { reel: null, roll: 'B001', start: null, rate: rate(50), described: { ...nothing, notes: 'soft, at first' } }),
]

describe('a clip log', () => {
  it('has its columns in the order laid out; the end is exclusive, and what has no timecode counts from zero', () => {
    expect(logTables(plainLayout, clips, facts)).toEqual([
      {
        name: 'Clip log',
        rows: [
          ['Name', 'Reel', 'Start', 'End', 'Frames', 'Rate', 'Scene', 'Take', 'Camera', 'Notes'],
          ['A001C001', 'A001', '10:00:00:00', '10:00:02:00', '50', '25', '4', '2', 'A', ''],
          ['B001C001', '', '00:00:00:00', '00:00:01:00', '50', '50', '', '', '', 'soft, at first'],
        ],
      },
    ])
  })
  it('goes out one a roll, with heading lines of its own, and a reel that is said once', () => {
    const layout: LogLayout = {
      ...plainLayout,
      ...{ name: 'Log', split: 'roll', heads: false, reel: 'camera' },
      headings: [
        { label: 'Production', value: 'project' },
        { label: 'Roll', value: 'roll' },
        { label: 'Clips', value: 'clips' },
        { label: '---', value: 'nothing' },
      ],
      columns: [
        { field: 'reel', head: 'TAPE' },
        { field: 'file', head: 'FILE' },
        { field: 'raster', head: 'SIZE' },
        { field: 'length', head: 'DUR' },
      ],
    }
    expect(logTables(layout, clips, facts)).toEqual([
      {
        name: 'Log A001',
        rows: [['Production', 'The Salt Ferry'], ['Roll', 'A001'], ['Clips', '1'], ['---'], ['A', 'A001C001.mov', '1920x1080', '00:00:02:00']],
      },
      {
        name: 'Log B001',
        rows: [['Production', 'The Salt Ferry'], ['Roll', 'B001'], ['Clips', '1'], ['---'], ['', 'B001C001.mxf', '1920x1080', '00:00:01:00']],
      },
    ])
    expect([headOf(layout), usesOf(layout)]).toEqual([3, ['reel', 'name', null, null]])
  })
  it('comes back in by the layout that it went out in, whatever that is, to the same clips with the same descriptions', () => {
    const word = fc.constantFrom('4', '12A', 'soft, "at first"', 'harbour; wide', null)
    const described = fc.record({ scene: word, take: word, notes: word, plain: word })
    const fields = fc.shuffledSubarray(['file', 'scene', 'take', 'notes', 'plain', 'frames', 'codec', 'start', 'roll'] as const, { minLength: 4 })
    fc.assert(
      fc.property(fc.array(described, { minLength: 1, maxLength: 5 }), fields, fc.boolean(), fc.integer({ min: 0, max: 3 }), (list, chosen, heads, lines) => {
        const columns = [{ field: 'name' as const, head: 'Name' }, ...chosen.filter((f) => f !== 'file').map((field) => ({ field, head: field }))]
        const layout: LogLayout = { ...plainLayout, heads, columns, headings: Array.from({ length: lines }, () => ({ label: 'x', value: 'date' as const })) }
        const all = list.map((d, i) => clip(`A001C00${i}.mov`, { described: { ...nothing, ...d } }))
        const [table] = logTables(layout, all, facts)
        const bare: TableClip[] = all.map((c, i) => ({ id: String(i), name: c.name, reel: c.reel, start: c.start, rate: c.rate, values: nothing }))
        const rows = matchTable(table?.rows ?? [], headOf(layout), usesOf(layout), bare).filter((r) => r.state === 'found')
        for (const [i, c] of all.entries()) {
          const changes = rows.find((r) => r.clipId === String(i))?.changes ?? []
          for (const f of ['scene', 'take', 'notes', 'plain'] as const)
            if (columns.some((x) => x.field === f)) expect(changes.find((x) => x.field === f)?.value ?? null).toBe(c.described[f])
        }
      }),
    )
  })
  it('is known again by its heads', () => {
    expect(
      isLayoutOf(
        plainLayout,
        plainLayout.columns.map((c) => ` ${c.head}`),
      ),
    ).toBe(true)
    expect(isLayoutOf(plainLayout, ['Name', 'Scene'])).toBe(false)
    expect(
      isLayoutOf(
        { ...plainLayout, heads: false },
        plainLayout.columns.map((c) => c.head),
      ),
    ).toBe(false)
  })
})

describe('a cell that begins like a formula', () => {
  it.each(['=1+1', '+4', '-4', '@home', '\tx', '\rx'])('is kept from being one: %j', (text) => {
    expect(guardedCell(text)).toBe(`'${text}`)
    expect(unguardedCell(`'${text}`)).toBe(text)
  })
  it('comes back as it was, and no other is touched', () =>
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.constantFrom("'quoted", "it's", "'", "''", '4', 'A-1')), (text) => {
        fc.pre(!/^'[=+\-@\t\r]/.test(text))
        expect(unguardedCell(guardedCell(text))).toBe(text)
      }),
    ))
})
