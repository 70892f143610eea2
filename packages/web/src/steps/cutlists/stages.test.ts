import type { LaneClip, LinkRow, PlanRow, PullRow } from '@naranja/contract'
import { describe, expect, it } from 'vitest'
import { cutOf, event, link } from '../../charts/made.testing.ts'
import { stagesOf } from './stages.ts'

const rate = { num: 25, den: 1 }
const clip: LaneClip = {
  ...{ id: 'c', name: 'A001C002_SF.mov', lane: 'Day 1', reel: 'A001_FERRY', start: 10 * 3600 * 25, drop: false, frames: 100, rate },
  ...{ day: 'Day 1', away: false, sound: false, hasSound: false },
}
const e = event('V1', '002', 0, 40, { reel: 'A001', clipName: 'A001C002_SF', sourceIn: { h: 10, m: 0, s: 0, f: 10, drop: false } })
const cut = cutOf(e)
const tied = link(e, 'certain', false, { clipId: 'c', range: { in: 10, out: 50 } })
const planned: PlanRow = {
  ...{ eventId: e.id, number: '002', track: 'V1', name: clip.name, recordIn: 0, recordOut: 40, clipId: 'c', clipFrames: 100 },
  ...{ source: { in: 10, out: 50 }, used: { in: 10, out: 50 }, step: { num: 1, den: 1 }, handles: { wanted: 12, head: 10, tail: 12 } },
  ...{ dissolve: 0, scale: 100, notes: [], finishing: null, block: null, missing: 0, partial: false, couldFinish: false },
}
const pull: PullRow = {
  ...{ id: 'p', clipId: 'c', name: clip.name, range: { in: 4, out: 60 }, path: '/x/A001C002_SF_000004-000059.mov' },
  ...{ state: 'checked', fromCopy: false, faults: [] },
}
const row = (l: LinkRow, p: PlanRow, pulls: PullRow[] = [], facts: Partial<typeof e> = {}) => {
  const mine = { ...e, ...facts }
  return stagesOf({ ...cut, events: [mine] }, new Map([[mine.id, l]]), new Map([['c', clip]]), [p], pulls)[0] as ReturnType<typeof stagesOf>[number]
}

describe('the stages of an event', () => {
  it('say what the list says, which original it is, and what stands in the conformed cut', () => {
    const r = row(tied, planned, [], { reel: 'A001_FERRY' })
    expect(r.imported.name).toBe('A001C002_SF')
    expect(r.reconnected).toMatchObject({ name: 'A001C002_SF.mov', detail: '10:00:00:10 – 10:00:02:00  A001_FERRY  frames 10–49 of 100' })
    expect(r.conformed).toMatchObject({ name: 'A001C002_SF.mov', detail: 'frames 10–49  handles 10 and 12' })
    expect(r.differs).toEqual([])
  })
  it.each([
    ['a reel cut short', {}, ['its reel cut short']],
    ['another reel', { reel: 'B001' }, ['another reel']],
    ['another name', { reel: null, clipName: 'SHOT 12' }, ['called otherwise']],
    ['another count', { reel: null, sourceIn: { h: 11, m: 0, s: 0, f: 10, drop: false } }, ['counted otherwise']],
    ['an end that is not there', { reel: null }, ['reaches past its original']],
  ])('tell %s', (what, facts, differs) => {
    const l = what === 'an end that is not there' ? { ...tied, range: { in: 10, out: 140 } } : tied
    expect(row(l, planned, [], facts).differs).toEqual(differs)
  })
  it('compare the end of the range, which is shown first, where an event runs backwards', () => {
    const sourceOut = { h: 10, m: 0, s: 2, f: 0, drop: false }
    expect(row(tied, planned, [], { reel: null, speed: { num: -1, den: 1 }, sourceOut }).differs).toEqual([])
  })
  it('point at the checked pull that holds its frames, counted from its own first', () => {
    expect(row(tied, planned, [pull]).conformed).toMatchObject({ name: 'A001C002_SF_000004-000059.mov', detail: 'pull  frames 6–45  handles 10 and 12' })
    expect(row(tied, planned, [{ ...pull, state: 'being-made' }]).conformed.name).toBe(clip.name)
    expect(row(tied, planned, [{ ...pull, range: { in: 12, out: 60 } }]).conformed.name).toBe(clip.name)
  })
  it('say what is open, and what cannot be rendered', () => {
    const r = row(link(e, 'several'), { ...planned, clipId: null, used: null, block: 'several originals fit' })
    expect([r.reconnected.name, r.conformed.name, r.differs]).toEqual(['could be several', 'several originals fit', ['tied to nothing', 'cannot be rendered']])
  })
})
