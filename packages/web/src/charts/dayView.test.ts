import type { LaneClip } from '@naranja/contract'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { layDays } from './day.ts'
import { clipUnder, drawDayView, type Laid, layOut, moved, pixelOf, rowHeight, rulerHeight, shareAt, whole, type Window, zoomed } from './dayView.ts'
import { laneClip } from './made.testing.ts'
import { recorder } from './recorder.testing.ts'

const laid = (clips: LaneClip[]): Laid => layOut(layDays(clips), clips)
const width = 1000
const draw = (f: Laid, w: Window = whole, selected: string | null = null) => {
  const { g, marks, texts } = recorder()
  drawDayView(g, width, 600, (n) => n, f, w, selected)
  return { marks, texts: texts() }
}
const windows = fc
  .tuple(fc.double({ min: 0, max: 0.9, noNaN: true }), fc.double({ min: 0.01, max: 0.1, noNaN: true }))
  .map(([from, span]) => ({ from, to: from + span }))

describe('zooming', () => {
  it('keeps what is under the pointer where it is, and stays within the axis', () => {
    fc.assert(
      fc.property(windows, fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0.3, max: 3, noNaN: true }), (w, part, factor) => {
        const share = w.from + part * (w.to - w.from)
        const z = zoomed(w, share, factor, 0.001)
        expect(z.from).toBeGreaterThanOrEqual(0)
        expect(z.to).toBeLessThanOrEqual(1 + 1e-9)
        // At the ends of the axis it cannot stay.
        if (z.from > 0 && z.to < 1) expect(pixelOf(share, z, width)).toBeCloseTo(pixelOf(share, w, width), 4)
        expect(shareAt(pixelOf(share, z, width), z, width)).toBeCloseTo(share, 9)
      }),
    )
  })
  it('goes no closer than some frames, and moving keeps the span', () => {
    expect(zoomed(whole, 0.5, 1e-9, 0.01)).toEqual({ from: 0.495, to: 0.505 })
    expect(moved({ from: 0.2, to: 0.3 }, -1)).toEqual({ from: 0, to: 0.09999999999999998 })
  })
})

describe('the view', () => {
  const clips = [
    ...[laneClip('a', 'A001', 900_000), laneClip('b', 'A001', 900_100), laneClip('c', 'A001', 990_000)],
    ...[laneClip('s', 'SR01', 899_000, { sound: true, hasSound: true, frames: 1500 }), laneClip('x', 'Deck', null)],
  ]
  const f = laid(clips)
  it('finds every clip where it is drawn', () => {
    for (const [lane, l] of f.lanes.entries())
      l.ids.forEach((id, i) => {
        const x = pixelOf((l.x[i] as number) + (l.width[i] as number) / 4, whole, width)
        const found = clipUnder(f, whole, x, rulerHeight + lane * rowHeight + 8, width)
        // Of two that overlap either may be meant.
        expect(id === 'b' ? ['a', 'b'] : [id]).toContain(found)
      })
    expect(clipUnder(f, whole, 20, 40, width)).toBeNull()
  })
  it('marks timecode that is there twice, and pictures without sound, by shape', () => {
    expect([...f.troubles.doubled].sort()).toEqual(['a', 'b'])
    expect([...f.troubles.unheard].sort()).toEqual(['c'])
    const lemon = draw(f).marks.filter((m) => m.what === 'fillRect' && m.fill === 'lemon')
    expect(lemon.length).toBeGreaterThan(4)
  })
  it('shows names and single frames when it is close', () => {
    const at = f.lanes[0]?.x[0] as number
    const near = zoomed(whole, at, 0.001, f.least)
    const { texts, marks } = draw(f, near)
    expect(texts.some((t) => t.startsWith('a.mov'))).toBe(true)
    expect(marks.filter((m) => m.what === 'fillRect' && m.fill === 'ink-2').length).toBeGreaterThan(10)
  })
  it('of ten thousand clips draws what can be told apart, and no more', () => {
    const many = laid(Array.from({ length: 10_000 }, (_, i) => laneClip(`c${i}`, `R${i % 40}`, 900_000 + Math.floor(i / 40) * 300)))
    const bars = (w: Window) => draw(many, w).marks.filter((m) => m.what === 'fillRect' && m.fill === 'bar').length
    expect(bars(whole)).toBeLessThanOrEqual(40 * width)
    expect(bars({ from: 0.5, to: 0.51 })).toBeLessThan(400)
  })
})
