import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { chartX, clipAt, dayHeight, drawDays, type DayFacts, fitText, laneHeight, lanesFrom, layDays, wantedBoxes, type WantedGroup } from './day.ts'
import { laneClip } from './made.testing.ts'
import { recorder } from './recorder.testing.ts'

const clips = [
  laneClip('a', 'A001', 900000),
  laneClip('b', 'A001', 901000),
  laneClip('c', 'Deck card 1', null),
  laneClip('d', 'A003', 990000, { away: true }),
  laneClip('s', 'SR01', 900100, { sound: true, frames: 1000 }),
]
const facts = (more: Partial<DayFacts> = {}): DayFacts => ({
  chart: layDays(clips),
  clips: new Map(clips.map((c) => [c.id, c])),
  uses: [],
  selected: null,
  left: 120,
  wanted: [],
  eventId: null,
  ...more,
})
const group = (name: string, n = 1): WantedGroup => ({ name, reel: null, eventIds: Array.from({ length: n }, (_, i) => `${name}/${i}`) })
const width = 1000
const drawn = (f: DayFacts) => {
  const r = recorder()
  drawDays(r.g, 0, width, (n) => n, f)
  return r
}
const bars = (f: DayFacts, colour: string) => drawn(f).marks.filter((m) => m.what === 'fillRect' && m.args[3] === 10 && m.fill === colour)

describe('the layout', () => {
  it('counts time in seconds, so that clips of other rates stand where they were shot', () => {
    const chart = layDays([laneClip('x', 'A', 25 * 3600), laneClip('y', 'B', 50 * 3600, { rate: { num: 50, den: 1 }, frames: 500 })])
    const [x, y] = chart.clips
    expect([x?.x, x?.width]).toEqual([y?.x, y?.width])
  })
  it('has room for every lane, and above them for what is wanted: one row, at most three', () => {
    const chart = layDays(clips)
    expect(dayHeight(chart)).toBeGreaterThanOrEqual(lanesFrom(0) + chart.lanes.length * laneHeight)
    const more = [1, 5, 6, 14, 15, 500].map((n) => dayHeight(chart, n) - dayHeight(chart))
    expect(more).toEqual([1, 1, 2, 2, 3, 3].map((rows) => rows * laneHeight + 4))
    expect(more).toEqual([1, 5, 6, 14, 15, 500].map((n) => lanesFrom(n) - lanesFrom(0)))
  })
  it('finds each clip where it is drawn, and nothing in another lane', () => {
    for (const f of [facts(), facts({ wanted: [group('reel C071', 3)] })])
      for (const p of f.chart.clips) {
        const x = chartX(p.x + p.width / 2, f.left, width)
        const first = lanesFrom(f.wanted.length)
        expect(clipAt(f, 0, x, first + p.lane * laneHeight + 5, width)).toBe(p.id)
        expect(clipAt(f, 0, x, first + (p.lane + f.chart.lanes.length) * laneHeight + 5, width)).toBeNull()
      }
  })
})

describe('the drawing', () => {
  it('has a bar for each picture, another colour for sound, a dashed frame for what is away', () => {
    const { marks, texts } = drawn(facts())
    expect(bars(facts(), 'bar')).toHaveLength(3)
    expect(bars(facts(), 'tide')).toHaveLength(1)
    expect(marks.filter((m) => m.what === 'strokeRect' && m.dashed)).toHaveLength(1)
    expect(texts()).toEqual(expect.arrayContaining(['A001', 'A003', 'SR01', 'Deck card 1', 'no timecode']))
  })
  it('sets a bracket below what the cut uses, as wide as it uses', () => {
    const f = facts({ uses: [{ clipId: 'a', eventId: 'cut/V1/001', in: 0.25, out: 0.75 }] })
    const p = f.chart.clips.find((c) => c.id === 'a')
    const ends = drawn(f)
      .marks.filter((m) => m.what === 'moveTo' || m.what === 'lineTo')
      .map((m) => m.args[0] as number)
    const from = chartX((p?.x ?? 0) + (p?.width ?? 0) * 0.25, f.left, width)
    const to = Math.max(from + 3, chartX((p?.x ?? 0) + (p?.width ?? 0) * 0.75, f.left, width))
    expect(ends).toEqual(expect.arrayContaining([from, to]))
  })
  it('draws of thousands what can be told apart, wherever the clips stand in the list, and always the selected one', () => {
    const many = Array.from({ length: 4000 }, (_, i) => laneClip(`c${i}`, 'A001', 900_000 + ((i * 1237) % 4000) * 260))
    const of = (list: typeof many, selected: string | null = null) =>
      facts({
        chart: layDays(list),
        clips: new Map(list.map((c) => [c.id, c])),
        selected,
        uses: list.map((c) => ({ clipId: c.id, eventId: c.id, in: 0, out: 1 })),
      })
    const sorted = many.toSorted((a, b) => (a.start ?? 0) - (b.start ?? 0))
    expect(bars(of(sorted), 'bar').length).toBeLessThan(width * 2)
    expect(drawn(of(sorted)).marks.filter((m) => m.what === 'stroke').length).toBeLessThan(width * 3)
    // Whatever the order, every pixel that a clip covers is covered.
    const covered = (list: typeof many) => {
      const on = new Set<number>()
      for (const { args } of bars(of(list), 'bar')) {
        const [x, , w] = args as [number, number, number]
        for (let p = Math.floor(x); p < Math.ceil(x + w); p++) on.add(p)
      }
      return [...on].sort((a, b) => a - b)
    }
    expect(covered(many)).toEqual(covered(sorted))
    expect(bars(of(sorted, 'c77'), 'bar-2')).toHaveLength(1)
  })
  it('hangs wanted events above the lanes, dashed, named and counted', () => {
    const f = facts({ wanted: [{ ...group('reel C071', 3), reel: 'C071' }, group('A005C001_261109_SF.mp4')] })
    expect(drawn(f).texts()).toEqual(expect.arrayContaining(['wanted', 'C071 · 3', 'A005C001_261109_SF.mp4']))
    expect(drawn(facts()).texts()).not.toContain('wanted')
  })
  it('writes no hour into the name of a day', () => {
    const list = Array.from({ length: 40 }, (_, i) => laneClip(`c${i}`, 'A001', 900_000 + i * 9000))
    const chart = layDays(list)
    const f = facts({ chart: { ...chart, marks: chart.marks.map((m, i) => (i === 0 ? { ...m, day: 'The 29th of November' } : m)) } })
    const written = drawn(f)
      .marks.filter((m) => m.what === 'fillText' && /\d\d:\d\d$/.test(String(m.args[0])))
      .map((m) => ({ from: m.args[1] as number, to: (m.args[1] as number) + String(m.args[0]).length * 6 }))
    expect(written.length).toBeGreaterThan(1)
    expect(f.chart.marks.length).toBeGreaterThan(written.length)
    for (const [i, w] of written.entries()) expect(written[i + 1]?.from ?? Number.POSITIVE_INFINITY).toBeGreaterThan(w.to)
  })
  it('lets nothing lie over the hours and what is wanted', () => {
    const r = recorder()
    const f = facts({ wanted: [group('C071')] })
    drawDays(
      r.g,
      0,
      width,
      (n) => n,
      f,
      () => r.g.fillText('between', 0, 0),
    )
    const texts = r.texts()
    for (const over of ['wanted', 'C071', 'Day 1 10:00']) expect(texts.indexOf(over)).toBeGreaterThan(texts.indexOf('between'))
    expect(texts.indexOf('A001')).toBeLessThan(texts.indexOf('between'))
  })
  it('marks the selected clip by a frame, not by colour alone', () => {
    const frames = (f: DayFacts) => drawn(f).marks.filter((m) => m.what === 'strokeRect' && !m.dashed).length
    expect(frames(facts({ selected: 'a' }))).toBe(frames(facts()) + 1)
  })
})

describe('names', () => {
  it('of wanted events never touch, stay inside, and count every event once', () => {
    const groups = fc.array(
      fc.tuple(fc.string({ minLength: 1, maxLength: 60 }), fc.integer({ min: 1, max: 400 })).map(([name, n]) => group(name, n)),
      { maxLength: 60 },
    )
    fc.assert(
      fc.property(groups, fc.integer({ min: 600, max: 3000 }), (list, wide) => {
        const boxes = wantedBoxes(list, 80, wide)
        expect(boxes.flatMap((b) => b.eventIds)).toEqual(list.flatMap((g) => g.eventIds))
        expect(boxes.filter((b) => !b.group).length).toBeLessThanOrEqual(1)
        boxes.forEach((b, i) => {
          const next = boxes[i + 1]
          expect(b.x + b.width).toBeLessThanOrEqual(wide - 12)
          expect(lanesFrom(0) + b.row * laneHeight + laneHeight).toBeLessThanOrEqual(lanesFrom(list.length))
          if (next) expect(next.row > b.row || next.x > b.x + b.width).toBe(true)
        })
      }),
    )
  })
  it('that are too long end in an ellipsis and fit', () => {
    const { g } = recorder()
    expect(fitText(g, 'short', 100)).toBe('short')
    const t = fitText(g, 'B001_SALTFERRY_LONG_REEL', 60)
    expect(t).toMatch(/…$/)
    expect(t.length * 6).toBeLessThanOrEqual(60)
  })
})
