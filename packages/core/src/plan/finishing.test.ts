import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { assembleCut } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import { type Framing, layout } from '../framing/index.ts'
import type { Link } from '../reconnect/index.ts'
import { rate } from '../time/index.ts'
import { type CopyStanding, type FinishingSource, finishingFault, makePlan, type PlanClip, planPulls } from './index.ts'

const picture = { width: 1920, height: 1080, pixelAspect: 1 }
const standing = (more: Partial<CopyStanding> = {}): CopyStanding => ({
  ...{ kind: 'intermediate', checked: true, sameRate: true, burnIns: 0 },
  layout: layout(picture, { width: 1920, height: 1080 }, 'fit', false),
  ...more,
})

describe('a copy that something is finished from', () => {
  it.each<[string, Partial<CopyStanding>, RegExp | null]>([
    ['a checked intermediate', {}, null],
    ['a proxy', { kind: 'proxy' }, /nothing is finished from a proxy/],
    ['one that failed its check', { checked: false }, /not passed its check/],
    ['one at another rate', { sameRate: false }, /another rate/],
    ['one with text', { burnIns: 1 }, /drawn into it/],
    ['a smaller one', { layout: layout(picture, { width: 1280, height: 720 }, 'fit', false) }, null],
    ['one with black around', { layout: layout(picture, { width: 1920, height: 1440 }, 'fit', false) }, /does not fill its frame/],
    ['one filled in', { layout: layout(picture, { width: 1440, height: 1080 }, 'fill', false) }, /only a part/],
    [
      'one of a crop',
      { layout: layout({ ...picture, crop: { x: 400, y: 200, width: 960, height: 540 } }, { width: 960, height: 540 }, 'fit', false) },
      /only a part/,
    ],
  ])('%s', (_, more, reason) => {
    const said = finishingFault(standing(more))
    if (reason) expect(said).toMatch(reason)
    else expect(said).toBeNull()
  })
  it('shows all of the picture and nothing else, whatever the sizes', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 64, max: 8192 }),
        fc.integer({ min: 64, max: 8192 }),
        fc.integer({ min: 64, max: 8192 }),
        fc.integer({ min: 64, max: 8192 }),
        fc.constantFrom<Framing>('fit', 'fill', 'stretch', 'centre'),
        (w, h, rw, rh, framing) => {
          const l = layout({ width: w, height: h, pixelAspect: 1 }, { width: rw & ~1, height: rh & ~1 }, framing, true)
          if (finishingFault(standing({ layout: l })) !== null) return
          expect(Math.abs(l.take.width - w) + Math.abs(l.take.height - h)).toBeLessThanOrEqual(4)
          expect(Math.abs(l.place.width - l.raster.width) + Math.abs(l.place.height - l.raster.height)).toBeLessThanOrEqual(4)
        },
      ),
    )
  })
})

describe('the plan of a cut with a finishing source', () => {
  const pal = rate(25)
  const text = `001  A  V  C  00:00:00:10 00:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: a.mov
002  A  A  C  00:00:00:10 00:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: a.mov
`
  const cut = assembleCut('cut', pal, [readEdl(text, { rate: pal, file: 'x' }).value])
  const planned = (finishing: Partial<FinishingSource> | null, link: Partial<Link> = {}) => {
    const source: FinishingSource = {
      ...{ name: 'a full.mov', held: { in: 0, out: 100 }, width: 960, height: 540, sound: true, original: false, notes: [], fault: null },
      ...finishing,
    }
    const clip: PlanClip = {
      id: 'a',
      name: 'a.mov',
      rate: pal,
      frames: 100,
      width: 1920,
      height: 1080,
      pixelAspect: 1,
      holes: [],
      ...(finishing ? { finishing: source } : {}),
    }
    const links = cut.events.map(
      (e): Link => ({
        eventId: e.id,
        state: 'certain',
        away: true,
        fromCopy: finishing !== null,
        clipId: 'a',
        range: { in: 10, out: 35 },
        at: { first: 10, k: 0, step: { num: 1, den: 1 } },
        countedAt: 'list',
        reason: '',
        beyond: '',
        candidates: [],
        ...link,
      }),
    )
    return makePlan(cut, links, new Map([['a', clip]]), { width: 1920, height: 1080, handles: 8, placeholders: false })
  }
  const [picture, sound] = [0, 1]

  it('stops at an original that is away, unless a copy was named; then every frame comes from it, and it is said', () => {
    expect(planned(null).events.map((e) => e.block)).toEqual(['its original is away: a.mov', 'its original is away: a.mov'])
    const p = planned({ notes: ['with a look in it'] })
    expect(p.events.map((e) => [e.block, e.finishing])).toEqual([
      [null, 'a full.mov'],
      [null, null],
    ])
    expect(p.events[picture]?.notes.map((n) => n.text)).toContain('from the intermediate a full.mov, as decided, with a look in it')
    // Half as large as its original: the enlargement is the copy's.
    expect(p.events[picture]?.scale).toBe(200)
    expect(planPulls(p).map((x) => x.range)).toEqual([{ in: 2, out: 43 }])
  })
  it('takes handles only from what the copy holds, and stops where it lacks frames', () => {
    expect(planned({ held: { in: 6, out: 36 } }).events[picture]).toMatchObject({ block: null, handles: { wanted: 8, head: 4, tail: 1 } })
    expect(planned({ held: { in: 11, out: 33 } }).events[picture]?.block).toBe('3 frames of it are not in its finishing source a full.mov')
  })
  it('stops where the copy cannot be read, or has not all sound while the original is away too', () => {
    expect(planned({ fault: 'is away: not connected' }).events[picture]?.block).toBe('its finishing source a full.mov is away: not connected')
    const p = planned({ sound: false })
    expect([p.events[picture]?.block, p.events[sound]?.block]).toEqual([null, 'its finishing source a full.mov does not hold all of its sound'])
    expect(planned({ sound: false, original: true }, { away: false }).events[sound]?.block).toBeNull()
  })
})
