/** Draws the day chart: timecode across, a lane per roll, what a cut uses as brackets below the clips. */
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

export const layDays = (clips: readonly LaneClip[]): DayChart =>
  dayChart(
    clips.map((c) => ({ id: c.id, lane: c.lane, day: c.day, start: c.start === null ? null : seconds(c.start, c.rate), length: seconds(c.frames, c.rate) })),
  )
export const dayHeight = (chart: DayChart, wanted: boolean): number => head + (chart.lanes.length + (wanted ? 1 : 0)) * laneHeight + 6

export interface DayFacts {
  readonly chart: DayChart
  readonly clips: ReadonlyMap<string, LaneClip>
  readonly uses: readonly Use[]
  readonly selected: string | null
  readonly left: number
  readonly wanted: readonly { readonly eventId: string; readonly name: string }[]
  readonly eventId: string | null
  /** Events that each lane holds, by its name, and the lane that was chosen. */
  readonly counts?: ReadonlyMap<string, number>
  readonly lane?: string | null
}

export const chartX = (x: number, left: number, width: number): number => left + x * (width - left - 12)

export function drawDays(g: CanvasRenderingContext2D, top: number, width: number, colour: (n: string) => string, f: DayFacts): void {
  const right = width - 12
  g.textBaseline = 'middle'
  for (const m of f.chart.marks) {
    const x = chartX(m.x, f.left, width)
    g.fillStyle = colour('line')
    g.fillRect(x - 3, top + 14, 1, f.chart.lanes.length * laneHeight + 4)
    g.fillStyle = colour('ink-3')
    g.font = '11px "JetBrains Mono Variable", monospace'
    const label = m.day ? `${m.day} ${m.label}` : m.label
    g.fillText(label, Math.min(x, right - g.measureText(label).width), top + 9)
  }
  f.chart.lanes.forEach((lane, i) => {
    const y = top + head + i * laneHeight
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
  for (const p of f.chart.clips) {
    const clip = f.clips.get(p.id)
    const x = chartX(p.x, f.left, width)
    const w = Math.max(3, p.width * (right - f.left) - 1)
    const y = top + head + p.lane * laneHeight + 1
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
  for (const u of f.uses) {
    const p = placed.get(u.clipId)
    if (!p) continue
    const a = chartX(p.x + p.width * u.in, f.left, width)
    const b = Math.max(a + 3, chartX(p.x + p.width * u.out, f.left, width))
    const y = top + head + p.lane * laneHeight + 13
    g.strokeStyle = colour(u.eventId === f.eventId ? 'ink' : 'ink-2')
    g.lineWidth = u.eventId === f.eventId ? 2 : 1.2
    g.beginPath()
    g.moveTo(a, y - 3)
    g.lineTo(a, y)
    g.lineTo(b, y)
    g.lineTo(b, y - 3)
    g.stroke()
  }
  if (f.wanted.length > 0) {
    const y = top + head + f.chart.lanes.length * laneHeight
    laneLabel(g, colour, f, 'wanted', y + 2, colour('pomegranate'))
    for (const w of wantedBoxes(f.wanted, f.left)) {
      g.strokeStyle = colour('pomegranate')
      g.lineWidth = w.eventId === f.eventId ? 2 : 1
      g.setLineDash([4, 3])
      g.strokeRect(w.x, y + 3, w.width, 13)
      g.setLineDash([])
      g.font = '11px "JetBrains Mono Variable", monospace'
      g.fillStyle = colour('ink-2')
      g.fillText(w.name, w.x + 5, y + 10)
    }
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

/** Where wanted events hang, left to right. */
export function wantedBoxes(wanted: DayFacts['wanted'], left: number): { eventId: string; name: string; x: number; width: number }[] {
  let x = left + 12
  return wanted.map((w) => {
    const name = w.name.length > 24 ? `${w.name.slice(0, 23)}…` : w.name
    const width = name.length * 6.7 + 10
    const box = { eventId: w.eventId, name, x, width }
    x += width + 8
    return box
  })
}

export function fitText(g: CanvasRenderingContext2D, text: string, width: number): string {
  if (g.measureText(text).width <= width) return text
  let t = text
  while (t.length > 1 && g.measureText(`${t}…`).width > width) t = t.slice(0, -1)
  return `${t}…`
}

/** The clip at a place of the chart. */
export function clipAt(f: Pick<DayFacts, 'chart' | 'left'>, top: number, x: number, y: number, width: number): string | null {
  const lane = Math.floor((y - top - head) / laneHeight)
  const hit = f.chart.clips.filter(
    (p) => p.lane === lane && x >= chartX(p.x, f.left, width) - 2 && x <= Math.max(chartX(p.x, f.left, width) + 4, chartX(p.x + p.width, f.left, width)) + 2,
  )
  return hit.at(-1)?.id ?? null
}
