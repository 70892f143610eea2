import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { type Chip, derive, type DescribedClip, fieldValue, findTable, matchTable, pieces, type Readable, runs, type TableClip } from './index.ts'

const clip = (values: Partial<Record<Readable, string>>): DescribedClip => ({
  id: values.name ?? '?',
  values: {
    ...{ name: null, folder: null, above: null, volume: null, roll: null, day: null, timecode: null },
    ...{ scene: null, take: null, angle: null, camera: null, reel: null, plain: null, notes: null },
    ...values,
  },
})
const value = (of: Readable, part: 'all' | ['piece' | 'run', number] = 'all', form: 'as-is' | 'upper' | 'lower' | 'plain-number' = 'as-is'): Chip => ({
  kind: 'value',
  of,
  part: part === 'all' ? { kind: 'all' } : { kind: part[0], nth: part[1] },
  form,
})

describe('a value', () => {
  it('is kept in NFC without spaces at its ends, on one line, and is nothing when it is empty', () => {
    expect(fieldValue('scene', '  12A\u0065\u0301\n ')).toEqual({ value: '12A\u00e9', problem: null })
    expect(fieldValue('scene', ' \n ').value).toBeNull()
    expect(fieldValue('notes', 'first\nsecond').value).toBe('first\nsecond')
    expect(fieldValue('plain', 'a\tb').value).toBe('a b')
  })
  it('that is too long is refused with how long it may be', () => {
    expect(fieldValue('take', 'x'.repeat(101))).toEqual({ value: null, problem: 'Take holds 100 characters; this has 101. Shorten it.' })
    expect(fieldValue('take', 'x'.repeat(100)).problem).toBeNull()
  })
})

describe('parts of a text', () => {
  it('are pieces between signs, and runs of letters or of digits', () => {
    expect(pieces('A001_C003-day 2')).toEqual(['A001', 'C003', 'day', '2'])
    expect(runs('A001_C003')).toEqual(['A', '001', 'C', '003'])
    expect(runs('Fähre12')).toEqual(['Fähre', '12'])
  })
  it('lose no letter and no digit', () => {
    const kept = (s: string) => s.replace(/[^\p{L}\p{M}\p{N}]/gu, '')
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (s) => {
        expect(pieces(s).join('')).toBe(kept(s))
        expect(runs(s).join('')).toBe(kept(s))
      }),
    )
  })
})

describe('values by rule', () => {
  const a = clip({ name: 'A001_C003', folder: 'Scene 12', roll: 'A001', take: '3' })
  it('are put together from chips', () => {
    expect(derive([a], { field: 'scene', chips: [value('folder', ['run', 2])], onlyEmpty: false })).toEqual([
      { id: 'A001_C003', value: '12', why: 'from its folder' },
    ])
    expect(
      derive([a], {
        field: 'plain',
        chips: [value('name', ['piece', 1]), { kind: 'text', text: ' take ' }, value('name', ['run', -1], 'plain-number')],
        onlyEmpty: false,
      })[0]?.value,
    ).toBe('A001 take 3')
    expect(derive([a], { field: 'camera', chips: [value('name', ['run', 1], 'lower')], onlyEmpty: false })[0]?.value).toBe('a')
  })
  it('leave a clip as it is where a chip finds nothing, and say what', () => {
    expect(derive([a], { field: 'scene', chips: [value('angle')], onlyEmpty: false })[0]).toEqual({
      id: 'A001_C003',
      value: null,
      why: 'its angle is not known',
    })
    expect(derive([a], { field: 'scene', chips: [value('folder', ['piece', 3])], onlyEmpty: false })[0]?.why).toBe('its folder has no such part: Scene 12')
  })
  it('leave alone what is filled, where asked, and what is so already', () => {
    expect(derive([a], { field: 'take', chips: [value('name')], onlyEmpty: true })[0]).toMatchObject({ value: null, why: 'it is filled' })
    expect(derive([a], { field: 'take', chips: [value('name', ['run', -1], 'plain-number')], onlyEmpty: false })[0]).toMatchObject({
      value: null,
      why: 'it is so already',
    })
  })
  it('change nothing when they are applied twice', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (name, text) => {
        const chips: Chip[] = [{ kind: 'text', text }, value('name', ['piece', 1])]
        const once = derive([clip({ name })], { field: 'scene', chips, onlyEmpty: false })[0]?.value
        fc.pre(typeof once === 'string')
        expect(derive([clip({ name, scene: once as string })], { field: 'scene', chips, onlyEmpty: false })[0]?.value).toBeNull()
      }),
    )
  })
})

describe('a table file', () => {
  const none = { scene: null, take: null, angle: null, camera: null, reel: null, plain: null, notes: null }
  const at = (id: string, name: string, reel: string | null, start: number | null): TableClip => ({
    id,
    name,
    reel,
    start,
    rate: rate(25),
    values: { ...none, reel },
  })
  const clips = [at('1', 'A001C001.mp4', 'A001', 90000), at('2', 'CLIP0001.mp4', 'D001', null), at('3', 'CLIP0001.mp4', 'D002', null)]

  it('begins where its heads stand, below heading lines', () => {
    const rows = [['Log of the day'], ['Made by', 'nobody'], ['Clip name', 'Scene', 'Take', 'Weather', 'Scene'], ['A001C001', '12', '3', 'fog', '']]
    expect(findTable(rows)).toEqual({
      head: 2,
      columns: [
        { head: 'Clip name', use: 'name' },
        { head: 'Scene', use: 'scene' },
        { head: 'Take', use: 'take' },
        { head: 'Weather', use: null },
        { head: 'Scene', use: null },
      ],
    })
    expect(
      findTable([
        ['a', 'b'],
        ['Scene', 'Take'],
      ]),
    ).toBeNull()
  })
  it('finds a clip by its name, with or without ending, in any case', () => {
    const [row] = matchTable(
      [
        ['Name', 'Scene'],
        ['a001c001', '12'],
      ],
      0,
      ['name', 'scene'],
      clips,
    )
    expect(row).toEqual({ line: 2, name: 'a001c001', clipId: '1', state: 'found', why: '', changes: [{ field: 'scene', before: null, value: '12' }] })
  })
  it('finds a clip by the beginning of its name, where that is long enough and only one begins so', () => {
    const long = [at('1', 'A001C001_261108_SF.mp4', 'A001', null), at('2', 'A001C002_261108_SF.mp4', 'A001', null)]
    const rows = [
      ['Name', 'Scene'],
      ['A001C002', '4'],
      ['A001C0', '5'],
      ['A001C00', '6'],
    ]
    expect(matchTable(rows, 0, ['name', 'scene'], long).map((r) => r.clipId)).toEqual(['2', null, null])
  })
  it('tells clips of one name apart by reel, and says where it cannot', () => {
    const rows = [
      ['Name', 'Reel', 'Notes'],
      ['CLIP0001', 'D002', 'gulls'],
      ['CLIP0001', '', 'rope'],
      ['CLIP0001', 'D009', 'fog'],
      ['X', '', 'no'],
    ]
    const out = matchTable(rows, 0, ['name', 'reel', 'notes'], clips)
    expect(out.map((r) => [r.clipId, r.state])).toEqual([
      ['3', 'found'],
      [null, 'several'],
      [null, 'not-found'],
      [null, 'not-found'],
    ])
    expect(out[0]?.changes).toEqual([{ field: 'notes', before: null, value: 'gulls' }])
    expect(out[2]?.why).toBe('A clip has this name, but its reel is D001.')
    expect(out[3]?.why).toBe('No clip has this name.')
  })
  it('never takes a clip whose timecode is another', () => {
    const rows = [
      ['Name', 'Start', 'Take'],
      ['A001C001', '01:00:00:01', '1'],
      ['A001C001', '01:00:00:00', '2'],
    ]
    const out = matchTable(rows, 0, ['name', 'start', 'take'], clips)
    expect(out.map((r) => r.clipId)).toEqual([null, '1'])
    expect(out[0]?.why).toBe('A clip has this name, but its timecode is another.')
  })
  it('finds clips by reel and timecode where it has no names', () => {
    const out = matchTable(
      [
        ['Reel', 'Start', 'Scene'],
        ['A001', '01:00:00:00', '7'],
      ],
      0,
      ['reel', 'start', 'scene'],
      clips,
    )
    expect(out[0]).toMatchObject({ clipId: '1', changes: [{ field: 'scene', before: null, value: '7' }] })
  })
  it('tells nothing by an empty cell, and names what does not fit', () => {
    const out = matchTable(
      [
        ['Name', 'Scene', 'Take'],
        ['A001C001', '', 'x'.repeat(200)],
      ],
      0,
      ['name', 'scene', 'take'],
      clips,
    )
    expect(out[0]?.changes).toEqual([])
    expect(out[0]?.why).toMatch(/Take holds 100 characters/)
  })
})
