import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { addedTo, type FoundCopy, type Original, pairCopies, without } from './index.ts'

const original = (id: string, more: Partial<Original> = {}): Original => ({
  id,
  name: `${id}.mov`,
  aliases: [],
  contentId: `c-${id}`,
  roll: id.slice(0, 4),
  path: `Day 1/${id.slice(0, 4)}/${id}.mov`,
  frames: 100,
  rate: rate(25),
  start: 900_000,
  drop: false,
  reel: id.slice(0, 4),
  ...more,
})
const copy = (path: string, more: Partial<FoundCopy> = {}): FoundCopy => ({
  path,
  frames: 100,
  rate: rate(25),
  start: 900_000,
  drop: false,
  reel: null,
  stamp: null,
  ...more,
})
const [a, b] = [original('A001C001'), original('A001C002', { start: 905_000 })]

describe('a copy made elsewhere', () => {
  it('is paired by its name, whatever its wrapper and common ending', () => {
    expect(pairCopies([copy('x/A001C001.mxf'), copy('A001C002_proxy.mp4', { start: null })], [a, b])).toMatchObject([
      { verdict: 'pair', clipId: 'A001C001', by: 'name', map: null },
      { verdict: 'pair', clipId: 'A001C002', by: 'name', map: null },
    ])
  })
  it.each(['A001C001_1.mov', 'A001C001_2.mp4', 'A001C001_light.mov', 'A001C001 copy.mov', 'A001C001_copy.mov', 'A001C001 (1).mov', 'A001C001_proxy_1.mov'])(
    'is paired without a known ending, while no original bears the full name: %s',
    (name) => {
      const [p] = pairCopies([copy(name)], [a, b])
      expect(p).toMatchObject({ verdict: 'pair', clipId: 'A001C001', by: 'name' })
      expect(p && 'evidence' in p && p.evidence.find((e) => e.kind === 'name')?.agreement).toBe('bent')
      const full = original('full', { name })
      expect(pairCopies([copy(name)], [a, full])).toMatchObject([{ verdict: 'pair', clipId: 'full' }])
    },
  )
  it('is paired by its stamp, whatever its name', () => {
    expect(pairCopies([copy('renamed.mov', { stamp: 'c-A001C002', start: 905_000 })], [a, b])).toMatchObject([
      { verdict: 'pair', clipId: 'A001C002', by: 'stamp' },
    ])
    expect(pairCopies([copy('renamed.mov', { stamp: 'c-Z' })], [a, b])).toEqual([
      { verdict: 'unknown', reason: 'its stamp names an original that is not in this project' },
    ])
  })
  it('is refused, with the reason, where count or timecode are not the original’s', () => {
    const reasons = pairCopies(
      [copy('A001C001.mov', { frames: 99, start: null }), copy('A001C001.mov', { start: 900_001 }), copy('A001C001.mov', { start: 0 })],
      [a, b],
    ).map((p) => (p.verdict === 'refused' ? p.reason : p.verdict))
    expect(reasons).toEqual([
      'it has 99 frames, the original 100',
      'it starts at 10:00:00:01, the original at 10:00:00:00: 1 of its 100 frames lies outside',
      'it starts at 00:00:00:00, the original at 10:00:00:00: all its frames lie outside',
    ])
  })
  it('of a part of its original is led back to the frame', () => {
    expect(pairCopies([copy('A001C001.mov', { start: 900_020, frames: 30 })], [a])).toMatchObject([
      {
        verdict: 'pair',
        map: { original: rate(25), copy: rate(25), first: 20 },
        evidence: expect.arrayContaining([expect.objectContaining({ text: 'timecode 10:00:00:20 lies inside the original, 20 frames after its first' })]),
      },
    ])
  })
  it('at another rate has a frame map; a length that is no conversion is refused', () => {
    const pal = original('B001C001', { rate: rate(50), frames: 101, start: 1_800_000 })
    expect(pairCopies([copy('B001C001.mov', { frames: 51 }), copy('B001C001.mov', { frames: 60 })], [pal])).toMatchObject([
      { verdict: 'pair', map: { original: rate(50), copy: rate(25), first: 0 } },
      { verdict: 'refused', reason: 'it has 60 frames at 25; 101 frames at 50 come to 51' },
    ])
  })
  it('with a name that every camera writes is told apart by timecode, reel or folder, and else is several', () => {
    const one = original('1', { name: 'CLIP0001.MP4', path: 'Deck card 1/CLIP0001.MP4', roll: 'Deck card 1', start: null, reel: null })
    const two = original('2', { name: 'CLIP0001.MP4', path: 'Deck card 2/CLIP0001.MP4', roll: 'Deck card 2', start: null, reel: null })
    expect(pairCopies([copy('Deck card 2/CLIP0001.mov', { start: null })], [one, two])).toMatchObject([{ verdict: 'pair', clipId: '2' }])
    expect(pairCopies([copy('CLIP0001.mov', { start: null })], [one, two])).toMatchObject([{ verdict: 'several', clipIds: ['1', '2'] }])
    expect(pairCopies([copy('CLIP0001.mov', { start: null })], [one, { ...two, frames: 90 }])).toMatchObject([{ verdict: 'pair', clipId: '1' }])
  })
  it('with another name is known once one like it is pointed at, and then the rest are', () => {
    const files = [copy('low_A001C001-cut.mov'), copy('low_A001C002-cut.mov', { start: 905_000 })]
    expect(pairCopies(files, [a, b]).map((p) => p.verdict)).toEqual(['unknown', 'unknown'])
    const added = addedTo('A001C001.mov', 'low_A001C001-cut.mov')
    expect(added).toEqual({ before: 'low_', after: '-cut' })
    expect(pairCopies(files, [a, b], added ? [added] : [])).toMatchObject([
      { verdict: 'pair', clipId: 'A001C001' },
      { verdict: 'pair', clipId: 'A001C002' },
    ])
  })
  it('that a person points at is paired whatever its name, and refused where its frames are others', () => {
    const hand = new Map([['scene 4.mov', 'A001C001']])
    expect(pairCopies([copy('scene 4.mov')], [a, b], [], hand)).toMatchObject([{ verdict: 'pair', clipId: 'A001C001', by: 'hand' }])
    expect(pairCopies([copy('scene 4.mov', { frames: 12, start: null })], [a, b], [], hand)).toMatchObject([{ verdict: 'refused', clipId: 'A001C001' }])
  })
  it('has what was added to its name taken off again, whatever it was', () => {
    const text = fc.stringMatching(/^[A-Za-z0-9_-]{0,8}$/)
    fc.assert(
      fc.property(text, fc.stringMatching(/^[A-Z][0-9]{3}C[0-9]{3}$/), text, (before, name, after) => {
        const found = addedTo(`${name}.mov`, `${before}${name}${after}.mxf`)
        expect(found && without(`${before}${name}${after}.mxf`, found)).toBe(name)
      }),
    )
  })
})
