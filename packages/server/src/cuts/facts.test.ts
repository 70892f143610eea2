/** What reconnection knows of an original. */
import { rate } from '@naranja/core/time'
import { emptyTechnical } from '@naranja/media'
import { describe, expect, it } from 'vitest'
import type { ClipRecord } from '../records/index.ts'
import { calledOf, factOf } from './facts.ts'

const clip = (facts: Partial<ClipRecord> = {}): ClipRecord =>
  ({
    ...{ id: 'a', name: 'A001C001.mov', path: Buffer.from('Day 1/A001/A001C001.mov'), roll: 'A001', reel: 'A001', reelSource: 'file', start: 90_000 },
    ...{ frames: 250, modified: new Date(5000), contentId: 'content', formerNames: [], described: {}, gone: '' },
    technical: { ...emptyTechnical, codec: 'H.264', width: 1920, height: 1080, rate: rate(25), hasPicture: true },
    ...facts,
  }) as unknown as ClipRecord
const around = { volume: 'Quay drive', away: false, fromCopy: false, light: undefined, copies: undefined, called: [] }

describe('an original', () => {
  it('stands in its volume and folders, with slashes between', () => {
    expect(factOf(clip(), around).place).toBe('Quay drive/Day 1/A001/')
    expect(factOf(clip({ path: Buffer.from('A001C001.mov') }), around).place).toBe('Quay drive/')
  })
  it('goes by the names of its copies and its light copies, by what it was called and by what a person calls it', () => {
    const copies = { names: ['A001C001.mxf', 'A001C001_proxy.mov'], paths: ['/Proxies/A001C001_proxy.mov'], mapped: [] }
    const described = { plain: { value: 'Ferry leaves', from: 'typed' } } as unknown as ClipRecord['described']
    const f = factOf(clip({ formerNames: ['old.mov'], described }), { ...around, copies, called: ['small.mp4'] })
    // A copy that is called the same, but for its extension, is no other name.
    expect(f.aliases).toEqual(['A001C001_proxy.mov', 'small.mp4', 'old.mov', 'Ferry leaves'])
    expect(f.copies).toEqual(['/Proxies/A001C001_proxy.mov'])
  })
  it.each([
    ['here', '', false, false, false],
    ['on a volume that is away', '', true, true, false],
    ['gone from a volume that is here', 'file', false, true, true],
    ['gone, as it was when its volume went away', 'file', true, true, false],
  ] as const)('is %s', (_, gone, volumeAway, away, isGone) => {
    expect(factOf(clip({ gone }), { ...around, away: volumeAway })).toMatchObject({ away, gone: isGone })
  })
  it.each([
    ['file', false],
    ['folder', true],
    ['rule', true],
    ['typed', false],
  ] as const)('has a reel from its %s', (reelSource, derived) => expect(factOf(clip({ reelSource } as Partial<ClipRecord>), around).reelDerived).toBe(derived))
  it('is a movie, numbered pictures, or sound', () => {
    const t = clip().technical
    const sequence = { base: 'moon_', ext: 'dpx', digits: 4, first: 1001, last: 1100, missing: [] } as unknown as NonNullable<typeof t.sequence>
    expect(factOf(clip({ technical: { ...t, sequence } }), around)).toMatchObject({ form: 'numbered pictures', firstNumber: 1001 })
    expect(factOf(clip({ technical: { ...t, hasPicture: false } }), around)).toMatchObject({ form: 'sound', hasPicture: false })
    expect(factOf(clip(), around)).toMatchObject({ form: 'movie', pixels: 1920 * 1080, recorded: 5000 })
  })
})

describe('names of light copies', () => {
  it('are those of what is one, not of what only looks like one', () => {
    const clips = [clip(), clip({ id: 'b', name: 'small.mp4' }), clip({ id: 'c', name: 'smaller.mp4' }), clip({ id: 'd', name: 'like.mp4' })]
    const light = new Map([
      ['b', { standing: 'proven', of: 'a' }],
      ['c', { standing: 'marked', of: 'a' }],
      ['d', { standing: 'suspected', of: 'a' }],
      ['e', { standing: 'proven', of: null }],
    ]) as never
    expect([...calledOf(clips, light)]).toEqual([['a', ['small.mp4', 'smaller.mp4']]])
  })
})
