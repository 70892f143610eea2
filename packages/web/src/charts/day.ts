/** Draws the day chart: timecode across, a lane per roll, what a cut uses as brackets below the clips; above the lanes what was not found. */
import type { LaneClip } from '@naranja/contract'
import { type DayChart, dayChart } from '@naranja/core/daychart'
import { seconds } from '@naranja/core/time'

export const laneHeight = 17
export const head = 22

export interface Use {
  readonly clipId: string
  readonly eventId: string
  /** Share of the clip, 0 to 1. */
  readonly in: number
  readonly out: number
}

/** The lane of events without an original. */
export const wantedLane = 'wanted'

export interface WantedGroup {
  readonly name: string
  readonly reel: string | null
  readonly eventIds: readonly string[]
}

export interface WantedBox {
  /** Null for the last one, which stands for all that found no room. */
  readonly group: WantedGroup | null
  readonly eventIds: readonly string[]
  readonly text: string
  readonly x: number
  readonly width: number
  readonly row: number
}

const rowsOf = (groups: number): number => (groups === 0 ? 0 : groups <= 5 ? 1 : groups <= 14 ? 2 : 3)
/** Pixels that the boxes of so many groups take above the lanes. */
export const wantedHeight = (groups: number): number => (groups === 0 ? 0 : rowsOf(groups) * laneHeight + 4)

const shortened = (name: string): string => (name.length > 24 ? `${name.slice(0, 23)}…` : name)
/** Digits and letters of one width, with air on both sides. */
const widthOf = (text: string): number => text.length * 6.7 + 10
const between = 8
const moreText = (n: number): string => `${n} ${n === 1 ? 'event' : 'events'} more`

/** The boxes at a width, in their order, row after row; those without room are one box at the end. */
export function wantedBoxes(groups: readonly WantedGroup[], left: number, width: number): WantedBox[] {
  const rows = rowsOf(groups.length)
  const [from, to] = [left + 12, width - 12]
  const all = groups.reduce((n, g) => n + g.eventIds.length, 0)
  const out: WantedBox[] = []
  let [x, row] = [from, 0]
  for (const [i, group] of groups.entries()) {
    const text = `${shortened(group.reel ?? group.name)}${group.eventIds.length > 1 ? ` · ${group.eventIds.length}` : ''}`
    const w = widthOf(text)
    if (row < rows - 1 && x > from && x + w > to) [x, row] = [from, row + 1]
    // In the last row there must be room to say how many more there are.
    const room = row === rows - 1 && i < groups.length - 1 ? widthOf(moreText(all)) + between : 0
    if (row === rows - 1 && x > from && x + w + room > to) {
      const eventIds = groups.slice(i).flatMap((g) => g.eventIds)
      const more = moreText(eventIds.length)
      out.push({ group: null, eventIds, text: more, x, width: widthOf(more), row })
      break
    }
    out.push({ group, eventIds: group.eventIds, text, x, width: w, row })
    x += w + between
  }
  return out
}

export const layDays = (clips: readonly LaneClip[]): DayChart =>
  dayChart(
    clips.map((c) => ({ id: c.id, lane: c.lane, day: c.day, start: c.start === null ? null : seconds(c.start, c.rate), length: seconds(c.frames, c.rate) })),
  )
export const dayHeight = (chart: DayChart, wanted = 0): number => head + wantedHeight(wanted) + chart.lanes.length * laneHeight + 6
/** Where the lanes begin below the top of a chart that has so many groups of wanted events. */
export const lanesFrom = (wanted: number): number => head + wantedHeight(wanted)

export interface DayFacts {
  readonly chart: DayChart
  readonly clips: ReadonlyMap<string, LaneClip>
  readonly uses: readonly Use[]
  readonly selected: string | null
  readonly left: number
  readonly wanted: readonly WantedGroup[]
  readonly eventId: string | null
  /** Events that each lane holds, by its name, and the lane that was chosen. */
  readonly counts?: ReadonlyMap<string, number>
  readonly lane?: string | null
}

export const chartX = (x: number, left: number, width: number): number => left + x * (width - left - 12)

/** `between`: what lies over the lanes and under what must stay readable. */
export function drawDays(
  g: CanvasRenderingContext2D,
  top: number,
  width: number,
  colour: (n: string) => string,
  f: DayFacts,
  between: () => void = () => {},
): void {
  const right = width - 12
  const lanes = top + lanesFrom(f.wanted.length)
  g.textBaseline = 'middle'
  for (const m of f.chart.marks) {
    const x = chartX(m.x, f.left, width)
    g.fillStyle = colour('line')
    g.fillRect(x - 3, top + 14, 1, lanes - top - head + f.chart.lanes.length * laneHeight + 4)
  }
  f.chart.lanes.forEach((lane, i) => {
    const y = lanes + i * laneHeight
    laneLabel(g, colour, f, lane.name, y, colour('ink-2'))
    g.fillStyle = colour('line')
    g.fillRect(f.left, y + laneHeight - 2, right - f.left, 1)
    if (lane.note) {
      g.fillStyle = colour('ink-3')
      g.font = '11px "Hanken Grotesk Variable", sans-serif'
      g.textAlign = 'right'
      g.fillText(lane.note, right, y + laneHeight / 2 - 3)
      g.textAlign = 'left'
    }
  })
  /** The plain bar drawn last on each lane: what lies within it, to half a pixel, is not told apart from it. */
  const last = new Map<number, { readonly from: number; readonly to: number }>()
  for (const p of f.chart.clips) {
    const clip = f.clips.get(p.id)
    const x = chartX(p.x, f.left, width)
    const w = Math.max(3, p.width * (right - f.left) - 1)
    const y = lanes + p.lane * laneHeight + 1
    if (!clip?.sound && !clip?.away && f.selected !== p.id) {
      const drawn = last.get(p.lane)
      if (drawn && x >= drawn.from && x + w < drawn.to + 0.5) continue
      last.set(p.lane, { from: x, to: x + w })
    }
    g.fillStyle = clip?.sound ? colour('tide') : colour(f.selected === p.id ? 'bar-2' : 'bar')
    g.globalAlpha = clip?.sound ? 0.5 : 1
    if (clip?.away) {
      g.strokeStyle = colour('ink-3')
      g.setLineDash([3, 2])
      g.strokeRect(x + 0.5, y + 0.5, w - 1, 9)
      g.setLineDash([])
      g.beginPath()
      g.moveTo(x, y + 10)
      g.lineTo(x + w, y)
      g.stroke()
    } else g.fillRect(x, y, w, 10)
    g.globalAlpha = 1
    if (f.selected === p.id) {
      g.strokeStyle = colour('ink')
      g.lineWidth = 1.5
      g.strokeRect(x - 1, y - 1, w + 2, 12)
    }
  }
  const placed = new Map(f.chart.clips.map((c) => [c.id, c]))
  const brackets = new Set<string>()
  for (const u of f.uses) {
    const p = placed.get(u.clipId)
    if (!p) continue
    const a = chartX(p.x + p.width * u.in, f.left, width)
    const b = Math.max(a + 3, chartX(p.x + p.width * u.out, f.left, width))
    const y = lanes + p.lane * laneHeight + 13
    const seat = `${p.lane} ${Math.round(a * 2)} ${Math.round(b * 2)}`
    if (u.eventId !== f.eventId && brackets.has(seat)) continue
    brackets.add(seat)
    g.strokeStyle = colour(u.eventId === f.eventId ? 'ink' : 'ink-2')
    g.lineWidth = u.eventId === f.eventId ? 2 : 1.2
    g.beginPath()
    g.moveTo(a, y - 3)
    g.lineTo(a, y)
    g.lineTo(b, y)
    g.lineTo(b, y - 3)
    g.stroke()
  }
  between()
  drawOver(g, top, width, colour, f)
}

/** What must stay readable: the hours, and the boxes of what is wanted. */
function drawOver(g: CanvasRenderingContext2D, top: number, width: number, colour: (n: string) => string, f: DayFacts): void {
  const right = width - 12
  g.textBaseline = 'middle'
  g.font = '11px "JetBrains Mono Variable", monospace'
  let free = 0
  for (const m of f.chart.marks) {
    const label = m.day ? `${m.day} ${m.label}` : m.label
    const w = g.measureText(label).width
    const x = Math.min(chartX(m.x, f.left, width), right - w)
    // Where a day's name needs the room, the hour after it goes without.
    if (x < free && !m.day) continue
    free = x + w + 6
    g.fillStyle = colour('page')
    g.fillRect(x - 2, top + 2, w + 4, 14)
    g.fillStyle = colour('ink-3')
    g.fillText(label, x, top + 9)
  }
  if (f.wanted.length === 0) return
  laneLabel(g, colour, f, wantedLane, top + head, colour('pomegranate'))
  for (const b of wantedBoxes(f.wanted, f.left, width)) {
    const y = top + head + b.row * laneHeight
    g.fillStyle = colour('page')
    g.fillRect(b.x, y + 1, b.width, 13)
    g.strokeStyle = colour(b.group ? 'pomegranate' : 'ink-3')
    g.lineWidth = f.eventId !== null && b.eventIds.includes(f.eventId) ? 2 : 1
    g.setLineDash([4, 3])
    g.strokeRect(b.x, y + 1, b.width, 13)
    g.setLineDash([])
    g.font = '11px "JetBrains Mono Variable", monospace'
    g.fillStyle = colour('ink-2')
    g.fillText(b.text, b.x + 5, y + 8)
  }
}

/** A lane's name with how many events it holds, on a raised ground where it was chosen. */
function laneLabel(g: CanvasRenderingContext2D, colour: (n: string) => string, f: DayFacts, name: string, y: number, ink: string): void {
  const chosen = f.lane === name
  if (chosen) {
    g.fillStyle = colour('raised')
    g.fillRect(6, y - 1, f.left - 8, laneHeight - 2)
    g.strokeStyle = colour('ink')
    g.lineWidth = 1
    g.strokeRect(6.5, y - 0.5, f.left - 9, laneHeight - 3)
  }
  const count = f.counts?.get(name)
  g.font = '11px "JetBrains Mono Variable", monospace'
  const room = count ? g.measureText(String(count)).width + 8 : 0
  if (count) {
    g.fillStyle = colour(chosen ? 'ink' : 'ink-3')
    g.textAlign = 'right'
    g.fillText(String(count), f.left - 8, y + laneHeight / 2 - 2)
    g.textAlign = 'left'
  }
  g.font = '12px "Hanken Grotesk Variable", sans-serif'
  g.fillStyle = chosen ? colour('ink') : ink
  g.fillText(fitText(g, name, f.left - 20 - room), 12, y + laneHeight / 2 - 2)
}

export function fitText(g: CanvasRenderingContext2D, text: string, width: number): string {
  if (g.measureText(text).width <= width) return text
  let t = text
  while (t.length > 1 && g.measureText(`${t}…`).width > width) t = t.slice(0, -1)
  return `${t}…`
}

/** The clip at a place of the chart. */
export function clipAt(f: Pick<DayFacts, 'chart' | 'left' | 'wanted'>, top: number, x: number, y: number, width: number): string | null {
  const lane = Math.floor((y - top - lanesFrom(f.wanted.length)) / laneHeight)
  const hit = f.chart.clips.filter(
    (p) => p.lane === lane && x >= chartX(p.x, f.left, width) - 2 && x <= Math.max(chartX(p.x, f.left, width) + 4, chartX(p.x + p.width, f.left, width)) + 2,
  )
  return hit.at(-1)?.id ?? null
}
