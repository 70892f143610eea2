/** Threads from the events of a cut strip to where they land on the day chart below: single for what is in sight, bundled by roll otherwise. */
import type { CutDetail, EventShape, LaneClip, LinkRow } from '@naranja/contract'
import type { DayChart } from '@naranja/core/daychart'
import { stateColour } from '../ui/index.ts'
import { chartX, head, laneHeight, lanesFrom, wantedBoxes, type WantedGroup, wantedLane } from './day.ts'
import { bottomOf, left, rank, type View, xOf } from './strip.ts'

/** With more in sight, those are bundled too. */
export const singleAtMost = 60

/** Where an event lands: a row of the chart, and a share of its width from 0 to 1. On the lane of the wanted it hangs where its box is. */
interface Landing {
  readonly lane: string
  readonly row: number
  readonly share: number
}

export interface Landings {
  readonly of: ReadonlyMap<string, readonly Landing[]>
  /** Events that lead to each lane, or may, in the order of the lanes; lanes without any are left out. */
  readonly rolls: ReadonlyMap<string, ReadonlySet<string>>
}

/** Where events land. */
export function landingsOf(
  events: readonly EventShape[],
  links: ReadonlyMap<string, LinkRow>,
  chart: DayChart,
  clips: ReadonlyMap<string, LaneClip>,
): Landings {
  const placed = new Map(chart.clips.map((c) => [c.id, c]))
  const of = new Map<string, Landing[]>()
  const rolls = new Map<string, Set<string>>([[wantedLane, new Set<string>()], ...chart.lanes.map((l) => [l.name, new Set<string>()] as const)])
  for (const e of events) {
    const l = links.get(e.id)
    if (!l || l.state === 'none-needed') continue
    const ends: Landing[] = []
    if (l.state === 'not-found') ends.push({ lane: wantedLane, row: -1, share: 0 })
    else
      for (const { clipId, range } of l.clipId && l.range ? [{ clipId: l.clipId, range: l.range }] : l.state === 'several' ? l.candidates : []) {
        const [p, clip] = [placed.get(clipId), clips.get(clipId)]
        if (!p || !clip) continue
        const share = p.x + p.width * Math.max(0, Math.min(1, (range.in + range.out) / 2 / clip.frames))
        ends.push({ lane: chart.lanes[p.lane]?.name ?? '', row: p.lane, share })
      }
    of.set(e.id, ends)
    for (const end of ends) rolls.get(end.lane)?.add(e.id)
  }
  return { of, rolls: new Map([...rolls].filter(([, ids]) => ids.size > 0)) }
}

interface Point {
  readonly x: number
  readonly y: number
}

/** One event, or several of a roll. */
export interface Thread {
  readonly event: EventShape | null
  readonly roll: string
  readonly count: number
  readonly from: Point
  readonly ends: readonly Point[]
  /** Of all its events the worst. */
  readonly state: LinkRow['state']
  /** Its events stand before or behind what is in sight. */
  readonly aside: boolean
}

export interface ThreadFacts {
  readonly cut: CutDetail
  readonly links: ReadonlyMap<string, LinkRow>
  readonly landings: Landings
  readonly view: View
  readonly selected: string | null
  /** Where the chart begins. */
  readonly top: number
  readonly wanted: readonly WantedGroup[]
  /** Only these events have threads. */
  readonly only?: ReadonlySet<string> | undefined
}

/** The threads of a cut as they are drawn at a width. Events before and after what is in sight begin at its edges. */
export function layThreads(f: ThreadFacts, width: number): Thread[] {
  const { cut, links, landings, view, only } = f
  const shown = cut.events.filter((e) => (e.medium === 'picture' && (!only || only.has(e.id))) || e.id === f.selected)
  const inSight = (e: EventShape) => e.recordOut - cut.start > view.from && e.recordIn - cut.start < view.to
  const single = shown.reduce((n, e) => n + (inSight(e) ? 1 : 0), 0) <= singleAtMost
  const hung = new Map(
    wantedBoxes(f.wanted, left, width).flatMap((b) =>
      b.eventIds.map((id) => [id, { x: b.x + b.width / 2, y: f.top + head + b.row * laneHeight + 1 }] as const),
    ),
  )
  const lanes = f.top + lanesFrom(f.wanted.length)
  const at = (l: Landing, id: string): Point =>
    (l.lane === wantedLane ? hung.get(id) : undefined) ?? { x: chartX(l.share, left, width), y: lanes + l.row * laneHeight + 2 }
  const out: Thread[] = []
  const bundles = new Map<string, { roll: string; aside: boolean; y: number; xs: number[]; from: number[]; low: number; state: LinkRow['state'] }>()
  for (const e of shown) {
    const [l, ends] = [links.get(e.id), landings.of.get(e.id) ?? []]
    if (!l || ends.length === 0) continue
    const seen = inSight(e)
    const [a, b] = [Math.max(e.recordIn - cut.start, view.from), Math.min(e.recordOut - cut.start, view.to)]
    const x = seen ? xOf(view, (a + b) / 2, width) : e.recordIn - cut.start < view.from ? left : width - 12
    const y = bottomOf(cut, e.track, true) + 2
    if ((seen && single) || e.id === f.selected) {
      out.push({ event: e, roll: ends[0]?.lane ?? '', count: 1, from: { x, y }, ends: ends.map((end) => at(end, e.id)), state: l.state, aside: !seen })
      if (seen && single) continue
    }
    const side = seen ? 'in' : x === left ? 'before' : 'after'
    for (const end of ends) {
      const key = `${side} ${end.lane}`
      const p = at(end, e.id)
      const old = bundles.get(key)
      if (!old) bundles.set(key, { roll: end.lane, aside: !seen, y: p.y, xs: [p.x], from: [x], low: y, state: l.state })
      else {
        old.xs.push(p.x)
        old.from.push(x)
        old.low = Math.max(old.low, y)
        if ((rank[l.state] ?? 0) > (rank[old.state] ?? 0)) old.state = l.state
      }
    }
  }
  const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length
  for (const b of bundles.values())
    out.push({
      ...{ event: null, roll: b.roll, count: b.xs.length, from: { x: mean(b.from), y: b.low }, ends: [{ x: mean(b.xs), y: b.y }] },
      ...{ state: b.state, aside: b.aside },
    })
  return out
}

/** What asks for nothing more. */
export const settled: ReadonlySet<LinkRow['state']> = new Set(['certain', 'confirmed', 'set-by-hand'])
/** Control points of a thread's curve. */
const curve = (t: Thread, end: Point, top: number) => ({ a: { x: t.from.x, y: t.from.y + 40 }, b: { x: end.x, y: top - 6 } })

/** Draws threads; what belongs to another roll than the chosen one steps back. `top`: where the chart begins. */
export function drawThreads(
  g: CanvasRenderingContext2D,
  colour: (n: string) => string,
  threads: readonly Thread[],
  top: number,
  selected: string | null,
  roll: string | null,
  inRoll: (eventId: string) => boolean,
): void {
  const draw = (t: Thread) => {
    const strong = t.event !== null && t.event.id === selected
    const chosen = roll !== null && (t.event ? inRoll(t.event.id) : t.roll === roll)
    const calm = settled.has(t.state)
    g.strokeStyle = strong || chosen ? colour('ink') : calm ? colour('ink-3') : colour(stateColour[t.state])
    // What asks for nothing, and what is out of sight, steps back.
    const plain = (calm ? 0.4 : t.state === 'likely' ? 0.5 : t.event ? 0.85 : 0.65) * (t.aside ? 0.4 : 1)
    g.globalAlpha = strong ? 1 : roll !== null ? (chosen ? 0.9 : 0.15) : plain
    // A bundle is as wide as it holds many.
    g.lineWidth = strong ? 2 : t.event || t.aside ? 1.2 : Math.min(5, 1.2 + 0.6 * Math.log2(t.count))
    g.setLineDash(strong ? [] : t.state === 'likely' ? [5, 3] : t.state === 'not-found' ? [3, 3] : [])
    for (const end of t.ends) {
      const { a, b } = curve(t, end, top)
      g.beginPath()
      g.moveTo(t.from.x, t.from.y)
      g.bezierCurveTo(a.x, a.y, b.x, b.y, end.x, end.y)
      g.stroke()
    }
    g.setLineDash([])
    g.globalAlpha = 1
  }
  for (const t of threads) if (t.event?.id !== selected) draw(t)
  for (const t of threads) if (t.event && t.event.id === selected) draw(t)
}

/** The thread at a place, to within a few pixels; null where none is. */
export function threadAt(threads: readonly Thread[], top: number, x: number, y: number): Thread | null {
  let best: Thread | null = null
  let near = 6
  for (const t of threads)
    for (const end of t.ends) {
      const { a, b } = curve(t, end, top)
      for (let i = 0; i <= 128; i++) {
        const u = i / 128
        const v = 1 - u
        const px = v * v * v * t.from.x + 3 * v * v * u * a.x + 3 * v * u * u * b.x + u * u * u * end.x
        const py = v * v * v * t.from.y + 3 * v * v * u * a.y + 3 * v * u * u * b.y + u * u * u * end.y
        const away = Math.hypot(px - x, py - y)
        if (away < near) [best, near] = [t, away]
      }
    }
  return best
}
