/** What is decided before a cut is brought in. */
import type { CutPreview } from '@naranja/contract'
import { rate } from '@naranja/core/time'
import { describe, expect, it } from 'vitest'
import { asTold, followedBy, isReadable, mayShareNumbers, readingAsked, unsignedIn } from './importing.ts'

type File = CutPreview['files'][number]
const file = (facts: Partial<File> = {}) => ({ format: 'edl', events: 3, refusal: null, table: null, drop: false, ...facts }) as unknown as File
const seen = (files: File[], facts: Partial<CutPreview> = {}) => ({ rate: rate(25), fault: null, files, ...facts }) as unknown as CutPreview

describe('the next turnover of a cut', () => {
  const cuts = [{ name: 'Reel 1 v2' }, { name: 'Salt Ferry' }, { name: '0412' }]
  it.each([
    ['Salt_Ferry v3.edl', undefined],
    ['salt ferry v03.edl', 'Salt Ferry'],
    ['Salt Ferry.cut12.OTIO', 'Salt Ferry'],
    ['Salt Ferry turnover 4.csv', 'Salt Ferry'],
    ['0413.edl', undefined],
    ['Another.edl', undefined],
  ])('is seen by its name: %s', (name, wanted) => expect(followedBy(name, cuts)?.name).toBe(wanted))
})

describe('how numbers are read', () => {
  it('is asked of the API only where somebody has said so', () => {
    expect(readingAsked(asTold)).toEqual({})
    expect(readingAsked({ rate: '29.97', count: 'list', perLabel: 2, drop: 'plain' })).toEqual({ rate: '29.97', perLabel: 2, drop: false })
    expect(readingAsked({ ...asTold, drop: 'drop' })).toEqual({ drop: true })
  })
  it('is open for drop-frame where the rate has it and the file has no word for it', () => {
    const [edl, otio, table] = [file(), file({ format: 'otio' }), file({ format: 'table' })]
    const at = (r: CutPreview['rate'], ...files: File[]) => unsignedIn(seen(files, { rate: r }))
    expect(at(rate(30000, 1001), edl, table)).toBe(table)
    expect(at(rate(60000, 1001), otio)).toBe(otio)
    expect(at(rate(30000, 1001), edl)).toBeUndefined()
    expect(at(rate(24000, 1001), otio)).toBeUndefined()
  })
  it('may share numbers in lists above 30 frames a second', () => {
    const at = (r: CutPreview['rate'], format: File['format']) => mayShareNumbers(seen([file({ format })], { rate: r }))
    expect([at(rate(50), 'edl'), at(rate(30), 'edl'), at(rate(50), 'otio')]).toEqual([true, false, false])
  })
})

describe('what can be brought in', () => {
  const table = (fault: string | null) => file({ format: 'table', table: { fault } as unknown as NonNullable<File['table']> })
  it.each([
    ['files that can be read', [file(), table(null)], null, true],
    ['nothing with a file that cannot', [file(), file({ refusal: 'It is a picture.' })], null, false],
    ['nothing with an empty file', [file({ events: 0 })], null, false],
    ['nothing with a table of which too little is known', [table('Say which column is the record timecode.')], null, false],
    ['nothing that does not go together', [file(), file()], 'Their rates differ.', false],
  ])('is %s', (_, files, fault, wanted) => expect(isReadable(seen(files, { fault } as Partial<CutPreview>))).toBe(wanted))
})
