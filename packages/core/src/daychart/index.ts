/** Where clips stand on the day chart: timecode across, idle time folded, a lane per roll. Positions run from 0 to 1. */

import { natural } from '../lists/index.ts'

export * from './troubles.ts'

export interface ChartClip {
  readonly id: string
  readonly lane: string
  readonly day: string
  /** Seconds of timecode from midnight; null without timecode. */
  readonly start: number | null
  /** Seconds it lasts. */
  readonly length: number
}

export interface Placed {
  readonly id: string
  readonly lane: number
  readonly x: number
  readonly width: number
}

export interface DayChart {
  /** Seconds that the whole axis stands for. */
  readonly seconds: number
  readonly lanes: readonly { readonly name: string; readonly note: string }[]
  readonly clips: readonly Placed[]
  /** Labels along the axis: `10:02`, with the day where it begins. */
  readonly marks: readonly { readonly x: number; readonly label: string; readonly day: string | null }[]
}

interface Span {
  readonly day: string
  readonly in: number
  readonly out: number
}

/** Seconds of nothing that a fold takes on the axis, as a share of all that is shown. */
const foldShare = 0.02

/** Joins the clips' times into stretches in which something was shot; gaps up to `near` seconds do not fold. */
function stretches(clips: readonly ChartClip[], near: number): Span[] {
  const out: { day: string; in: number; out: number }[] = []
  const timed = clips.filter((c) => c.start !== null).sort((a, b) => natural(a.day, b.day) || (a.start ?? 0) - (b.start ?? 0))
  for (const c of timed) {
    const last = out.at(-1)
    const from = c.start ?? 0
    if (last && last.day === c.day && from <= last.out + near) last.out = Math.max(last.out, from + c.length)
    else out.push({ day: c.day, in: from, out: from + c.length })
  }
  return out
}

const clock = (s: number): string => `${String(Math.floor(s / 3600) % 24).padStart(2, '0')}:${String(Math.floor(s / 60) % 60).padStart(2, '0')}`

/** Lays the chart out. Clips without timecode follow one another in their lane, at the same scale. */
export function dayChart(clips: readonly ChartClip[]): DayChart {
  const names = [...new Set(clips.map((c) => c.lane))].sort(natural)
  const timedLanes = new Set(clips.filter((c) => c.start !== null).map((c) => c.lane))
  const order = [...names.filter((n) => timedLanes.has(n)), ...names.filter((n) => !timedLanes.has(n))]
  const spans = stretches(clips, 20)
  const shown = spans.reduce((n, s) => n + s.out - s.in, 0)
  const untimed = new Map<string, number>()
  for (const c of clips) if (c.start === null) untimed.set(c.lane, (untimed.get(c.lane) ?? 0) + c.length)
  const longest = Math.max(0, ...untimed.values())
  const fold = Math.max(shown, longest, 1) * foldShare
  const total = Math.max(shown + fold * (spans.length + 1), longest * 1.3, 1)
  let passed = 0
  const starts = spans.map((s, i) => {
    const x = fold * (i + 1) + passed
    passed += s.out - s.in
    return x
  })
  // Stretches stand in the order of days, and of times within a day.
  const ofDay = new Map<string, { from: number; to: number }>()
  for (const [i, s] of spans.entries()) ofDay.set(s.day, { from: ofDay.get(s.day)?.from ?? i, to: i })
  const at = (day: string, s: number): number => {
    let { from: i, to } = ofDay.get(day) ?? { from: 0, to: -1 }
    while (i < to) {
      const middle = (i + to + 1) >> 1
      if ((spans[middle] as Span).in <= s) i = middle
      else to = middle - 1
    }
    const span = spans[i]
    return span ? ((starts[i] ?? 0) + s - span.in) / total : 0
  }
  const laneOf = new Map(order.map((n, i) => [n, i]))
  const cursor = new Map<string, number>()
  const placed = clips.map((c): Placed => {
    const lane = laneOf.get(c.lane) ?? 0
    const width = c.length / total
    if (c.start !== null) return { id: c.id, lane, x: at(c.day, c.start), width }
    const x = cursor.get(c.lane) ?? fold / total
    cursor.set(c.lane, x + width + fold / 4 / total)
    return { id: c.id, lane, x, width }
  })
  let day: string | null = null
  let right = -1
  const marks: DayChart['marks'][number][] = []
  spans.forEach((s, i) => {
    const x = (starts[i] ?? 0) / total
    const begins = s.day !== day
    day = s.day
    // A day takes the place of a time that stands too near; two labels never share a place.
    if (x < right && begins && marks.at(-1)?.day === null) marks.pop()
    else if (x < right) return
    // A label takes about this much of the width; one with its day takes more.
    right = x + (begins ? 0.15 : 0.075)
    marks.push({ x, label: clock(s.in), day: begins ? s.day : null })
  })
  return { seconds: total, lanes: order.map((name) => ({ name, note: timedLanes.has(name) ? '' : 'no timecode' })), clips: placed, marks }
}
