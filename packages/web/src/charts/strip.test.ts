import type { CutDetail, EventShape, LinkRow } from '@naranja/contract'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cutOf, event, link } from './made.testing.ts'
import { recorder } from './recorder.testing.ts'
import { bottomOf, drawStrip, eventAt, eventsIn, frameAt, left, stripHeight, tracksOf, type View, xOf } from './strip.ts'

const width = 1000
const drawn = (
  cut: CutDetail,
  links: LinkRow[],
  more: { view?: View; eventId?: string; frame?: number; thumb?: string; dimmed?: (e: EventShape) => boolean } = {},
) => {
  const r = recorder()
  drawStrip(r.g, width, (n) => n, {
    cut,
    links: new Map(links.map((l) => [l.eventId, l])),
    view: more.view ?? { from: 0, to: cut.length },
    frame: more.frame ?? 0,
    eventId: more.eventId ?? null,
    ...(more.dimmed ? { dimmed: more.dimmed } : {}),
    thumb: () => more.thumb ?? null,
    picture: () => (more.thumb ? ({ naturalWidth: 160, naturalHeight: 90 } as HTMLImageElement) : null),
  })
  return r
}

describe('tracks', () => {
  const cut = cutOf(...['A2', 'V1', 'A10', 'V2', 'A1'].map((t) => event(t, '001', 0, 50)))
  it('stand with the upper picture on top and sound below, by number', () => expect(tracksOf(cut)).toEqual(['V2', 'V1', 'A1', 'A2', 'A10']))
  it('lie below one another, and all of them inside the strip', () => {
    for (const compact of [false, true]) {
      const bottoms = tracksOf(cut).map((t) => bottomOf(cut, t, compact))
      expect(bottoms).toEqual([...bottoms].sort((a, b) => a - b))
      expect(bottoms.at(-1)).toBeLessThanOrEqual(stripHeight(cut, compact))
    }
    expect(stripHeight(cut, true)).toBeLessThan(stripHeight(cut))
  })
})

describe('places', () => {
  it('and frames are each other’s, at any zoom', () => {
    fc.assert(
      fc.property(fc.nat(100_000), fc.integer({ min: 1, max: 100_000 }), fc.integer({ min: 300, max: 4000 }), fc.nat(1000), (from, span, w, share) => {
        const view = { from, to: from + span }
        const f = from + (span * share) / 1000
        expect(frameAt(view, xOf(view, f, w), w)).toBeCloseTo(f, 3)
      }),
    )
  })
  it('hold the event that is seen there', () => {
    const cut = cutOf(event('V1', '001', 0, 50), event('V1', '002', 50, 80), event('V2', '003', 20, 30), event('A1', '004', 10, 40))
    const view = { from: 0, to: 80 }
    for (const e of cut.events) {
      const y = bottomOf(cut, e.track) - 6
      const at = (f: number) => eventAt(cut, view, xOf(view, f - cut.start, width), y, width)?.id
      expect([at(e.recordIn + 0.1), at(e.recordOut - 0.1)]).toEqual([e.id, e.id])
    }
    expect(eventAt(cut, view, xOf(view, 60, width), bottomOf(cut, 'V2') - 6, width)).toBeNull()
    expect(eventAt(cut, view, xOf(view, 60, width), 10, width)).toBeNull()
  })
})

describe('a part of the cut', () => {
  const cut = cutOf(event('V1', '001', 0, 50), event('V1', '002', 50, 80), event('A1', '003', 40, 60))
  it('holds the events of which something stands in it', () => {
    const numbers = (from: number, to: number) => cut.events.filter((e) => eventsIn(cut, { from, to }).has(e.id)).map((e) => e.number)
    expect([numbers(0, 40), numbers(49.5, 50), numbers(50, 90), numbers(80, 90)]).toEqual([['001'], ['001', '003'], ['002', '003'], []])
  })
  it('that was brushed over stands out above', () => {
    const r = recorder()
    const facts = { cut, links: new Map(), view: { from: 0, to: 80 }, frame: 0, eventId: null, thumb: () => null, picture: () => null }
    drawStrip(r.g, width, (n) => n, { ...facts, brush: { from: 20, to: 60 } })
    const x = (f: number) => left + (f / 80) * (width - left - 12)
    expect(r.marks.some((m) => m.what === 'fillRect' && m.args[0] === x(20) && Math.abs((m.args[2] as number) - (x(60) - x(20))) < 0.01)).toBe(true)
  })
})

describe('the drawing', () => {
  const a = event('V1', '001', 0, 40)
  const b = event('V1', '002', 40, 100)
  const cut = cutOf(a, b)
  it('names the tracks and the record time', () => {
    const texts = drawn(cut, [link(a, 'certain'), link(b, 'certain')]).texts()
    expect(texts).toEqual(expect.arrayContaining(['whole cut', 'record', 'V1', '01:00:00:00', 'A001C001_SF.mov']))
  })
  it.each([
    ['several', false, true],
    ['not-found', false, true],
    ['certain', true, true],
    ['certain', false, false],
    ['none-needed', false, false],
  ] as const)('hatches what is open or away (%s, away %s): %s', (state, away, hatched) => {
    const plain = drawn(cut, [link(a, 'certain'), link(b, 'certain')]).marks.filter((m) => m.what === 'stroke').length
    const now = drawn(cut, [link(a, 'certain'), link(b, state, away)]).marks.filter((m) => m.what === 'stroke').length
    expect(now > plain).toBe(hatched)
  })
  it('tells likely from not found by the breaks of the edge, not by colour alone', () => {
    const edges = (state: LinkRow['state']) => {
      const bars = drawn(cut, [link(a, 'certain'), link(b, state)]).marks.filter((m) => m.what === 'fillRect' && m.args[3] === 3)
      return [bars.length, Math.max(...bars.slice(1).map((m) => m.args[2] as number))]
    }
    const [certain, likely, lost] = [edges('certain'), edges('likely'), edges('not-found')] as number[][]
    expect(certain?.[0]).toBe(2)
    expect(likely?.[1]).toBe(5)
    expect(lost?.[1]).toBe(2)
  })
  it('lets the worst state of a pixel show in the whole cut', () => {
    // A thousand events of which one is lost: it is seen although it is thinner than a pixel.
    const many = Array.from({ length: 1000 }, (_, i) => event('V1', String(i), i * 10, i * 10 + 10))
    const links = many.map((e, i) => link(e, i === 500 ? 'not-found' : 'certain'))
    const above = drawn(cutOf(...many), links, { view: { from: 0, to: 100 } }).marks.filter((m) => m.what === 'fillRect' && m.args[1] === 9)
    expect(above.some((m) => m.fill === 'pomegranate')).toBe(true)
  })
  it('draws pictures only in sight', () => {
    const many = cutOf(...Array.from({ length: 100 }, (_, i) => event('V1', String(i), i * 50, i * 50 + 50)))
    const all = drawn(many, [], { thumb: '/x', view: { from: 1000, to: 1100 } }).marks.filter((m) => m.what === 'drawImage')
    expect(all.length).toBeGreaterThan(0)
    for (const m of all) {
      const x = m.args[1] as number
      expect(x < width && x + 160 > left).toBe(true)
    }
  })
  it('frames the selected event, and marks the frame looked at', () => {
    const r = drawn(cut, [link(a, 'certain'), link(b, 'certain')], { eventId: b.id, frame: 60 })
    expect(r.marks.some((m) => m.what === 'strokeRect' && Math.abs((m.args[0] as number) - (xOf({ from: 0, to: 100 }, 40, width) - 1)) < 2)).toBe(true)
    const x = xOf({ from: 0, to: 100 }, 60.5, width)
    expect(r.marks.some((m) => m.what === 'fillRect' && m.fill === '#fff' && Math.abs((m.args[0] as number) - (x - 1)) < 0.01)).toBe(true)
  })
  it('lays a dissolve over the head of its event, as long as it lasts', () => {
    const d = event('V1', '002', 40, 100, { transition: { type: 'dissolve', frames: 20, code: 'D', fromBlack: false } })
    const lines = drawn(cutOf(a, d), [link(a, 'certain'), link(d, 'certain')]).marks.filter((m) => m.what === 'lineTo')
    const head = xOf({ from: 0, to: 100 }, 40, width)
    expect(lines.some((m) => Math.abs((m.args[0] as number) - (head + (width - left - 12) * 0.2)) < 0.01)).toBe(true)
  })
  it.each([
    [{ num: 1, den: 2 }, '50 %', 1],
    [{ num: -1, den: 1 }, '−100 %', -1],
    [{ num: 4, den: 1 }, '400 %', 1],
  ] as const)('writes the speed of an event (%o) and points the way it runs', (speed, text, way) => {
    const s = event('V1', '002', 40, 100, { speed })
    const r = drawn(cutOf(a, s), [])
    expect(r.texts()).toContain(text)
    const heads = r.marks.flatMap((m, i) =>
      m.what === 'moveTo' && r.marks[i + 1]?.what === 'lineTo' ? [[m.args[0] as number, r.marks[i + 1]?.args[0] as number]] : [],
    )
    expect(heads.length).toBeGreaterThan(3)
    for (const [tip, back] of heads) expect(Math.sign((tip as number) - (back as number))).toBe(way)
    expect(drawn(cutOf(a, b), []).texts()).not.toContain('100 %')
  })
  it('calls a freeze so, and points nowhere', () => {
    const f = event('V1', '002', 40, 100, { speed: { num: 0, den: 1 } })
    const r = drawn(cutOf(a, f), [])
    expect(r.texts()).toContain('freeze')
    expect(r.marks.some((m) => m.what === 'moveTo')).toBe(false)
  })
  it('lets events step back that are not looked at', () => {
    const r = drawn(cut, [], { dimmed: (e) => e.id === b.id })
    const x = xOf({ from: 0, to: 100 }, 40, width)
    const veils = r.marks.filter((m) => m.what === 'fillRect' && m.fill === 'page')
    expect(veils.map((m) => Math.round(m.args[0] as number))).toEqual([Math.round(x)])
  })
})
