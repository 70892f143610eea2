import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { type Called, calledAnew, firstStep, type InList, namesAfter, stillKnown } from './index.ts'
import type { Technical } from '../clip/index.ts'

const listed = (over: Partial<InList> = {}): InList => ({ removed: false, same: true, files: 1, ...over })

describe('a file that is met', () => {
  it.each([
    // in the list, made here, its parts in the list: becomes
    [null, false, false, 'read'],
    [null, true, false, 'own-file'],
    [null, false, true, 'read'],
    [listed(), false, false, 'here'],
    [listed({ same: false }), false, false, 'read'],
    [listed({ removed: true }), false, false, 'back'],
    [listed({ removed: true, same: false }), false, false, 'read'],
    [listed({ removed: true }), true, false, 'own-file'],
    // What stands in the list stays there, whatever it is.
    [listed(), true, false, 'here'],
    [listed({ same: false }), true, false, 'read'],
    [listed(), false, true, 'apart'],
    [listed({ same: false }), false, true, 'apart'],
    [listed({ files: 3 }), false, true, 'here'],
    [listed({ files: 3, same: false }), false, true, 'read'],
  ] as const)('%o, made here: %s, its parts in the list: %s, is %s', (inList, madeHere, partsListed, is) => {
    expect(firstStep(inList, madeHere, partsListed)).toBe(is)
  })
})

describe('what a file said', () => {
  const of = (over: Partial<Technical>) => ({ codec: 'ProRes', fault: null, ...over }) as Technical
  const good = of({ frames: 100 })
  it('stays known while it cannot be read, and only then', () => {
    const unreadable = of({ frames: 0, codec: 'unknown', fault: 'The file is cut short.' })
    expect(stillKnown(unreadable, good)).toEqual({ ...good, fault: 'The file is cut short.' })
    expect(stillKnown(unreadable, null)).toBe(unreadable)
    expect(stillKnown(unreadable, { ...good, frames: 0 })).toBe(unreadable)
    const shorter = { ...good, frames: 50, fault: 'A frame cannot be decoded.' }
    expect(stillKnown(shorter, good)).toBe(shorter)
    expect(stillKnown({ ...good, frames: 7 }, good).frames).toBe(7)
  })
})

const read: Called = {
  ...{ name: 'A001C001.mov', formerNames: [], roll: 'A001', rollGiven: false, place: 'A001/A001C001.mov', tree: 'Day 1/A001' },
  ...{ start: 90_000, startSource: 'file', reel: 'A001', reelSource: 'folder' },
  described: { scene: { value: '1', from: 'file' }, notes: { value: 'of the file', from: 'side-file' } },
}

describe('a clip whose file was read anew', () => {
  it('is called as the file says where people said nothing', () => {
    const before = { ...read, start: 5, reel: 'B', roll: 'B', described: { scene: { value: '9', from: 'file' as const } } }
    expect(calledAnew(read, before)).toEqual(read)
  })
  it.each([
    ['a roll that was given', { roll: 'Mine', rollGiven: true }, { roll: 'Mine', rollGiven: true, place: 'Mine/A001C001.mov' }],
    ['a reel that was typed', { reel: 'X', reelSource: 'typed' }, { reel: 'X', reelSource: 'typed' }],
    ['a reel of a table', { reel: 'X', reelSource: 'table' }, { reel: 'X', reelSource: 'table' }],
    ['a reel by rule, where the file itself has none', { reel: 'X', reelSource: 'rule' }, { reel: 'X', reelSource: 'rule' }],
    ['nothing of a reel that a folder told', { reel: 'X', reelSource: 'folder' }, {}],
    ['nothing of a start by rule, where the file has one', { start: 7, startSource: 'rule' }, {}],
    ['its tree', { tree: 'elsewhere' }, { tree: 'elsewhere' }],
    ['its earlier names', { name: 'old.mov', formerNames: ['older.mov'] }, { formerNames: ['older.mov', 'old.mov'] }],
    [
      'what was typed of it',
      { described: { notes: { value: 'mine', from: 'typed' } } },
      { described: { ...read.described, notes: { value: 'mine', from: 'typed' } } },
    ],
    ['nothing that files told of it before', { described: { take: { value: '3', from: 'side-file' } } }, {}],
  ] as const)('keeps %s', (_, before, kept) => {
    expect(calledAnew(read, { ...read, ...before } as Called)).toEqual({ ...read, ...kept })
  })
  it('keeps a start by rule where the file has none, and gives way to the reel that the file itself has', () => {
    const none = { ...read, start: null, startSource: 'none' as const }
    expect(calledAnew(none, { ...none, start: 7, startSource: 'rule' })).toEqual({ ...none, start: 7, startSource: 'rule' })
    const own = { ...read, reelSource: 'file' }
    expect(calledAnew(own, { ...read, reel: 'X', reelSource: 'rule' })).toEqual(own)
  })
})

it('keeps the last twenty names, each once, and never the one it has', () => {
  fc.assert(
    fc.property(fc.array(fc.constantFrom(...'abcdefghijklmnopqrstuvwxyz'), { minLength: 1, maxLength: 60 }), (names) => {
      let clip = { name: names[0] as string, formerNames: [] as string[] }
      for (const n of names.slice(1)) clip = { name: n, formerNames: namesAfter(clip, n) }
      expect(clip.formerNames).not.toContain(clip.name)
      expect(new Set(clip.formerNames).size).toBe(clip.formerNames.length)
      expect(clip.formerNames.length).toBe(Math.min(20, new Set(names.filter((n) => n !== clip.name)).size))
    }),
  )
})
