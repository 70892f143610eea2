/** The day chart as a view of its own: from all days down to single frames, ten thousand clips in motion. */
import type { LaneClip } from '@naranja/contract'
import { type DayChart, dayTroubles, type Troubles } from '@naranja/core/daychart'
import { formatFrames, seconds } from '@naranja/core/time'
import { fitText } from './day.ts'

export const rowHeight = 24
export const rulerHeight = 24
export const leftEdge = 130
const rightEdge = 12

/** A part of the axis, from 0 to 1. */
export interface Window {
  readonly from: number
  readonly to: number
}
export const whole: Window = { from: 0, to: 1 }

/** Clips lane by lane in the order of their beginnings, for quick questions about what is in sight. */
export interface Laid {
  readonly chart: DayChart
  readonly lanes: readonly { readonly ids: readonly string[]; readonly x: Float64Array; readonly width: Float64Array; readonly widest: number }[]
  readonly clips: ReadonlyMap<string, LaneClip>
  readonly troubles: Troubles
  /** The narrowest window: some twenty frames. */
  readonly least: number
}

export function layOut(chart: DayChart, list: readonly LaneClip[]): Laid {
  const lanes = chart.lanes.map((_, lane) => {
    const own = chart.clips.filter((c) => c.lane === lane).sort((a, b) => a.x - b.x)
    return {
      ids: own.map((c) => c.id),
      x: Float64Array.from(own, (c) => c.x),
      width: Float64Array.from(own, (c) => c.width),
      widest: own.reduce((n, c) => Math.max(n, c.width), 0),
    }
  })
  const troubles = dayTroubles(
    list.map((c) => ({
      ...{ id: c.id, lane: c.lane, day: c.day, start: c.start === null ? null : seconds(c.start, c.rate), length: seconds(c.frames, c.rate) },
      ...{ recorder: c.sound, hasSound: c.hasSound },
    })),
  )
  return { chart, lanes, clips: new Map(list.map((c) => [c.id, c])), troubles, least: Math.min(1, 1 / Math.max(1, chart.seconds)) }
}

const scaleOf = (w: Window, width: number): number => (width - leftEdge - rightEdge) / (w.to - w.from)
export const pixelOf = (x: number, w: Window, width: number): number => leftEdge + (x - w.from) * scaleOf(w, width)
export const shareAt = (pixel: number, w: Window, width: number): number => w.from + (pixel - leftEdge) / scaleOf(w, width)

/** The window after a zoom by `factor` (below 1 is closer) that keeps what is at `share` where it is. */
export function zoomed(w: Window, share: number, factor: number, least: number): Window {
  const span = Math.max(least, Math.min(1, (w.to - w.from) * factor))
  const at = (share - w.from) / (w.to - w.from)
  const from = Math.max(0, Math.min(1 - span, share - at * span))
  return { from, to: from + span }
}
export function moved(w: Window, by: number): Window {
  const span = w.to - w.from
  const from = Math.max(0, Math.min(1 - span, w.from + by))
  return { from, to: from + span }
}

/** The first index whose value is at least `v`. */
function firstFrom(list: Float64Array, v: number): number {
  let [a, b] = [0, list.length]
  while (a < b) {
    const m = (a + b) >> 1
    if ((list[m] as number) < v) a = m + 1
    else b = m
  }
  return a
}

/** The clip at a point of the chart; null beside any. */
export function clipUnder(f: Laid, w: Window, x: number, y: number, width: number): string | null {
  const lane = f.lanes[Math.floor((y - rulerHeight) / rowHeight)]
  if (!lane || x < leftEdge) return null
  const share = shareAt(x, w, width)
  const slack = 3 / scaleOf(w, width)
  let best: string | null = null
  let near = Number.POSITIVE_INFINITY
  for (let i = firstFrom(lane.x, share - lane.widest - slack); i < lane.x.length && (lane.x[i] as number) <= share + slack; i++) {
    const [a, b] = [lane.x[i] as number, (lane.x[i] as number) + (lane.width[i] as number)]
    const away = share < a ? a - share : share > b ? share - b : 0
    if (away <= slack && away < near) [best, near] = [lane.ids[i] as string, away]
  }
  return best
}

const colours = ['bar', 'bar-2', 'ink', 'ink-2', 'ink-3', 'line', 'tide', 'lemon'] as const
/** What the parts of the drawing share: what is in sight, and how far the axis reaches to the right. */
interface Sight {
  readonly g: CanvasRenderingContext2D
  readonly f: Laid
  readonly window: Window
  readonly width: number
  readonly right: number
  readonly scale: number
  readonly selected: string | null
  readonly ink: Readonly<Record<(typeof colours)[number], string>>
}

export function drawDayView(
  g: CanvasRenderingContext2D,
  width: number,
  height: number,
  colour: (n: string) => string,
  f: Laid,
  window: Window,
  selected: string | null,
): void {
  const ink = Object.fromEntries(colours.map((n) => [n, colour(n)])) as Sight['ink']
  const s: Sight = { g, f, window, width, right: width - rightEdge, scale: scaleOf(window, width), selected, ink }
  g.textBaseline = 'middle'
  drawMarks(s, height)
  f.chart.lanes.forEach((_, n) => {
    drawLane(s, n)
  })
}

/** The times of the axis, each with its label where that has room. */
function drawMarks({ g, f, window, width, right, ink }: Sight, height: number): void {
  g.font = '11px "JetBrains Mono Variable", monospace'
  let free = leftEdge
  for (const m of f.chart.marks) {
    const x = pixelOf(m.x, window, width)
    if (x < leftEdge - 1 || x > right) continue
    g.fillStyle = ink.line
    g.fillRect(x - 3, 16, 1, height)
    const label = m.day ? `${m.day} ${m.label}` : m.label
    if (x < free) continue
    const end = g.measureText(label).width
    g.fillStyle = ink['ink-3']
    g.fillText(label, Math.min(x, right - end), 10)
    free = x + end + 10
  }
}

function drawLane(s: Sight, n: number): void {
  const { g, f, window, right, scale, selected, ink } = s
  const lane = f.chart.lanes[n]
  const own = f.lanes[n]
  if (!lane || !own) return
  const y = rulerHeight + n * rowHeight
  g.fillStyle = ink.line
  g.fillRect(leftEdge, y + rowHeight - 1, right - leftEdge, 1)
  g.font = '12px "Hanken Grotesk Variable", sans-serif'
  g.fillStyle = ink['ink-2']
  g.fillText(fitText(g, lane.name, leftEdge - 22), 12, y + rowHeight / 2)
  let last = -1
  g.save()
  g.beginPath()
  g.rect(leftEdge - 1, y, right - leftEdge + 2, rowHeight)
  g.clip()
  for (let i = firstFrom(own.x, window.from - own.widest); i < own.x.length && (own.x[i] as number) <= window.to; i++) {
    const id = own.ids[i] as string
    const x = leftEdge + ((own.x[i] as number) - window.from) * scale
    const wide = (own.width[i] as number) * scale
    // What shares a pixel with what is drawn already says nothing more.
    const pixel = Math.floor(x)
    const plain = id !== selected && !f.troubles.doubled.has(id) && !f.troubles.unheard.has(id)
    if (plain && wide < 1.5 && pixel === last) continue
    last = pixel
    drawClip(s, id, x, y, wide)
  }
  g.restore()
  if (lane.note) {
    g.fillStyle = ink['ink-3']
    g.font = '11px "Hanken Grotesk Variable", sans-serif'
    g.textAlign = 'right'
    g.fillText(lane.note, right, y + rowHeight / 2)
    g.textAlign = 'left'
  }
}

/** A clip from pixel `x` on, `wide` pixels long, in the lane that begins at `y`. */
function drawClip(s: Sight, id: string, x: number, y: number, wide: number): void {
  const { g, f, right, selected, ink } = s
  const clip = f.clips.get(id)
  const b = Math.max(2, wide - 1)
  if (clip?.away && b >= 6) {
    g.strokeStyle = ink['ink-3']
    g.strokeRect(x + 0.5, y + 4.5, b - 1, rowHeight - 10)
    g.beginPath()
    g.moveTo(x, y + rowHeight - 6)
    g.lineTo(x + b, y + 4)
    g.stroke()
  } else {
    g.fillStyle = clip?.sound ? ink.tide : id === selected ? ink['bar-2'] : ink.bar
    g.globalAlpha = clip?.sound ? 0.5 : clip?.away ? 0.4 : 1
    g.fillRect(x, y + 4, b, rowHeight - 9)
    g.globalAlpha = 1
  }
  if (f.troubles.doubled.has(id)) {
    // Two lines above: timecode that is there twice.
    g.fillStyle = ink.lemon
    g.fillRect(x, y + 1, b, 1.5)
    g.fillRect(x, y + 4, b, 1.5)
  }
  if (f.troubles.unheard.has(id)) {
    // Dots below: nobody recorded sound.
    g.fillStyle = ink.lemon
    for (let dot = x; dot < Math.min(x + b, right); dot += 4) g.fillRect(dot, y + rowHeight - 4, 2, 2)
  }
  if (clip && wide > 64) drawWords(s, clip, x, y, wide)
  if (id === selected) {
    g.strokeStyle = ink.ink
    g.lineWidth = 1.5
    g.strokeRect(x - 1, y + 3, b + 2, rowHeight - 7)
    g.lineWidth = 1
  }
}

/** Name and timecode of a clip as far as they have room, and its frames where each is seen. */
function drawWords({ g, right, ink }: Sight, clip: LaneClip, x: number, y: number, wide: number): void {
  g.fillStyle = ink.ink
  g.font = '11px "JetBrains Mono Variable", monospace'
  const from = Math.max(x, leftEdge) + 4
  const room = Math.min(x + wide, right) - from - 4
  const words = clip.start === null || room < 200 ? clip.name : `${clip.name}  ${formatFrames(clip.start, clip.rate)}`
  if (room > 40) g.fillText(fitText(g, words, room), from, y + rowHeight / 2)
  const perFrame = wide / clip.frames
  if (perFrame <= 5) return
  g.fillStyle = ink['ink-2']
  for (let k = Math.max(0, Math.floor((leftEdge - x) / perFrame)); k <= clip.frames && x + k * perFrame < right; k++)
    g.fillRect(x + k * perFrame, y + rowHeight - 5 - (k % 5 === 0 ? 4 : 0), 1, k % 5 === 0 ? 5 : 2)
}
