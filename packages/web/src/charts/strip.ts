/** Draws the cut strip: the whole cut with its worst states above, the part looked at with pictures below. */
import type { CutDetail, EventShape, LinkRow } from '@naranja/contract'
import { speedText } from '@naranja/core/cutlist'
import { formatFrames } from '@naranja/core/time'
import { stateColour } from '../ui/index.ts'

/** Frames of the cut that the lower part shows. */
export interface View {
  readonly from: number
  readonly to: number
}
export interface StripFacts {
  readonly cut: CutDetail
  readonly links: ReadonlyMap<string, LinkRow>
  readonly view: View
  readonly frame: number
  readonly eventId: string | null
  readonly picture: (url: string) => HTMLImageElement | null
  readonly thumb: (e: EventShape) => string | null
  readonly compact?: boolean
  /** A part of the cut that was brushed over. */
  readonly brush?: View | null
  /** Events that step back. */
  readonly dimmed?: (e: EventShape) => boolean
}

export const left = 112
/** How bad a state is. */
export const rank: Readonly<Record<string, number>> = { 'not-found': 5, several: 4, likely: 2, 'set-by-hand': 1, confirmed: 1, certain: 1, 'none-needed': 0 }
/** Heights of a track of pictures and of sound; compact where a chart stands below. */
const heights = (compact: boolean) => (compact ? { picture: 46, sound: 6 } : { picture: 58, sound: 13 })

/** Tracks from the top, with the place of each. */
function rows(cut: CutDetail, compact: boolean): { track: string; top: number; height: number; gap: number }[] {
  const h = heights(compact)
  let top = 44
  return tracksOf(cut).map((track) => {
    const picture = track.startsWith('V')
    const row = { track, top, height: picture ? h.picture : h.sound, gap: picture ? 8 : 3 }
    top += row.height + row.gap
    return row
  })
}

/** Tracks of a cut, kept for as long as its events are: every event asks where its track stands. */
const tracksKnown = new WeakMap<readonly EventShape[], readonly string[]>()
export const tracksOf = (cut: CutDetail): readonly string[] => {
  const known = tracksKnown.get(cut.events)
  if (known) return known
  const all = [...new Set(cut.events.map((e) => e.track))]
  const number = (t: string) => Number(t.slice(1))
  const tracks = [
    ...all.filter((t) => t.startsWith('V')).sort((a, b) => number(b) - number(a)),
    ...all.filter((t) => t.startsWith('A')).sort((a, b) => number(a) - number(b)),
  ]
  tracksKnown.set(cut.events, tracks)
  return tracks
}

export const stripHeight = (cut: CutDetail, compact = false): number => {
  const last = rows(cut, compact).at(-1)
  return (last ? last.top + last.height + last.gap : 44) + 4
}

/** Record frame at x of the lower part. */
export const frameAt = (view: View, x: number, width: number): number => view.from + ((x - left) / (width - left - 12)) * (view.to - view.from)
export const xOf = (view: View, frame: number, width: number): number => left + ((frame - view.from) / (view.to - view.from)) * (width - left - 12)

/** A wheel zooms around a frame with Ctrl, and moves along with Shift or sideways; otherwise it scrolls the page. */
export function turned(
  e: WheelEvent,
  width: number,
  around: number,
  { zoom, pan }: { readonly zoom: (factor: number, around: number) => void; readonly pan: (by: number) => void },
): void {
  if (!e.ctrlKey && !e.shiftKey && Math.abs(e.deltaX) < Math.abs(e.deltaY)) return
  e.preventDefault()
  if (e.ctrlKey) zoom(e.deltaY > 0 ? 1.15 : 0.87, around)
  else pan((e.deltaX || e.deltaY) / width)
}

/** The event at a place of the strip, top track first. */
export function eventAt(cut: CutDetail, view: View, x: number, y: number, width: number, compact = false): EventShape | null {
  const f = frameAt(view, x, width)
  const row = rows(cut, compact).find((r) => y >= r.top && y < r.top + r.height + r.gap)
  return cut.events.find((e) => e.track === row?.track && e.recordIn - cut.start <= f && e.recordOut - cut.start > f) ?? null
}

/** Events of which something stands in a part of the cut. */
export const eventsIn = (cut: CutDetail, part: View): ReadonlySet<string> =>
  new Set(cut.events.flatMap((e) => (e.recordIn - cut.start < part.to && e.recordOut - cut.start > part.from ? [e.id] : [])))

/** Lower edge of a track's events, where threads begin. */
export const bottomOf = (cut: CutDetail, track: string, compact = false): number => {
  const row = rows(cut, compact).find((r) => r.track === track)
  return row ? row.top + row.height + (track.startsWith('V') ? 4 : 0) : 44
}

export function drawStrip(g: CanvasRenderingContext2D, width: number, colour: (n: string) => string, facts: StripFacts): void {
  const { cut, links, view } = facts
  const right = width - 12
  const whole = (f: number) => left + (f / Math.max(1, cut.length)) * (right - left)
  g.textBaseline = 'middle'
  g.font = '12px "Hanken Grotesk Variable", sans-serif'
  g.fillStyle = colour('ink-3')
  g.fillText('whole cut', 12, 15)
  // Worst state per pixel.
  const worst = new Map<number, { state: string; away: boolean }>()
  for (const e of cut.events) {
    const l = links.get(e.id)
    if (!l) continue
    const lost = l.away || l.fromCopy
    const r = (rank[l.state] ?? 0) + (lost ? 3 : 0)
    const [a, b] = [
      Math.round(whole(e.recordIn - cut.start)),
      Math.max(Math.round(whole(e.recordIn - cut.start)) + 1, Math.round(whole(e.recordOut - cut.start)) - 1),
    ]
    for (let x = a; x < b; x++) {
      const old = worst.get(x)
      if (!old || r > (rank[old.state] ?? 0) + (old.away ? 3 : 0)) worst.set(x, { state: l.state, away: lost })
    }
  }
  for (const [x, w] of worst) {
    const c = stateColour[w.state as keyof typeof stateColour]
    const open = w.state === 'several' || w.state === 'not-found'
    g.globalAlpha = open ? 1 : w.state === 'none-needed' ? 0.35 : 0.45
    g.fillStyle = colour(w.away && !open ? 'ink-2' : c)
    if (w.away && !open) {
      // Away is hatched.
      for (let y = 9; y < 20; y++) if ((x + y) % 4 < 2) g.fillRect(x, y, 1, 1)
    } else g.fillRect(x, 9, 1, 11)
    if (open && !worstAt(worst, x - 1, w.state)) g.fillRect(x + 1, 4, 2, 4)
  }
  g.globalAlpha = 1
  if (facts.brush) {
    const [a, b] = [whole(facts.brush.from), whole(facts.brush.to)]
    g.globalAlpha = 0.22
    g.fillStyle = colour('ink')
    g.fillRect(a, 4, b - a, 21)
    g.globalAlpha = 1
    g.fillRect(a - 1, 3, 2, 23)
    g.fillRect(b - 1, 3, 2, 23)
  }
  g.strokeStyle = colour('ink')
  g.lineWidth = 1
  g.strokeRect(whole(view.from) + 0.5, 6.5, Math.max(4, whole(view.to) - whole(view.from) - 1), 16)
  g.fillStyle = colour('ink')
  g.fillRect(whole(facts.frame) - 0.5, 4, 1.5, 20)

  // Time.
  const x = (f: number) => xOf(view, f, width)
  const second = Math.round(cut.rate.num / cut.rate.den)
  const steps = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600].map((s) => s * second)
  const step = steps.find((s) => ((right - left) * s) / (view.to - view.from) > 104) ?? 3600 * second
  g.font = '11px "JetBrains Mono Variable", monospace'
  g.fillStyle = colour('ink-3')
  g.fillText('record', 12, 34)
  for (let f = Math.ceil((cut.start + view.from) / step) * step - cut.start; f < view.to; f += step) {
    if (f < view.from) continue
    g.fillStyle = colour('line')
    g.fillRect(x(f), 28, 1, 14)
    g.fillStyle = colour('ink-3')
    if (x(f) + 84 < width) g.fillText(formatFrames(cut.start + f, cut.rate, cut.drop), x(f) + 4, 34)
  }

  let end = 44
  for (const { track, top, height, gap } of rows(cut, facts.compact ?? false)) {
    g.font = '12px "Hanken Grotesk Variable", sans-serif'
    g.fillStyle = colour('ink-3')
    if (height > 8) g.fillText(track, 12, top + height / 2)
    for (const e of cut.events) {
      if (e.track !== track) continue
      const a = Math.max(left, x(e.recordIn - cut.start))
      const b = Math.min(right, x(e.recordOut - cut.start))
      if (b <= left || a >= right || b <= a) continue
      drawEvent(g, colour, { ...facts, scale: right - left }, e, a, b, top, height, x(e.recordIn - cut.start))
    }
    end = top + height + gap
  }
  const ph = x(facts.frame + 0.5)
  if (ph >= left && ph <= right) {
    g.fillStyle = '#000'
    g.fillRect(ph - 2, 28, 4, end - 30)
    g.fillStyle = '#fff'
    g.fillRect(ph - 1, 28, 2, end - 30)
  }
}

const worstAt = (worst: Map<number, { state: string }>, x: number, state: string): boolean => worst.get(x)?.state === state

function drawEvent(
  g: CanvasRenderingContext2D,
  colour: (n: string) => string,
  facts: StripFacts & { scale: number },
  e: EventShape,
  a: number,
  b: number,
  top: number,
  h: number,
  start: number,
): void {
  const link = facts.links.get(e.id)
  const w = Math.max(1, b - a - 1.5)
  const c = link ? colour(stateColour[link.state]) : colour('ink-3')
  const picture = e.medium === 'picture'
  g.save()
  g.beginPath()
  g.rect(a, top, w, h)
  g.clip()
  g.fillStyle = e.kind === 'black' ? '#000' : colour('raised')
  g.fillRect(a, top, w, h)
  const url = picture && w > 3 ? facts.thumb(e) : null
  const image = url ? facts.picture(url) : null
  if (image) {
    const iw = (h * image.naturalWidth) / image.naturalHeight
    for (let q = start; q < b; q += iw) if (q + iw > a) g.drawImage(image, q, top, iw, h)
  }
  g.font = '11px "Hanken Grotesk Variable", sans-serif'
  if (!image && w > 26 && h > 8) {
    g.fillStyle = e.kind === 'black' ? '#bcbcbc' : colour('ink-2')
    g.fillText(e.kind === 'black' ? 'black' : e.kind === 'title' ? 'title' : (e.clipName ?? e.reel ?? ''), a + 5, top + h / 2)
  }
  if (link && (link.state === 'several' || link.state === 'not-found' || link.away || link.fromCopy)) {
    // Whatever does not come from its original is hatched in its colour over the picture.
    g.globalAlpha = image ? 0.5 : 0.35
    g.strokeStyle = c
    g.lineWidth = 2
    for (let q = a - h; q < b; q += 9) {
      g.beginPath()
      g.moveTo(q, top + h)
      g.lineTo(q + h, top)
      g.stroke()
    }
    g.globalAlpha = 1
  }
  if (e.transition.frames > 0) {
    const d = (e.transition.frames / (facts.view.to - facts.view.from)) * facts.scale
    g.fillStyle = 'rgba(0,0,0,.55)'
    g.beginPath()
    g.moveTo(a, top)
    g.lineTo(a + d, top)
    g.lineTo(a, top + h)
    g.fill()
    g.strokeStyle = '#fff'
    g.lineWidth = 1
    g.beginPath()
    g.moveTo(a + d, top)
    g.lineTo(a, top + h)
    g.stroke()
  }
  if (e.speed && picture) drawSpeed(g, e.speed, a, b, top, h)
  if (facts.dimmed?.(e)) {
    g.globalAlpha = 0.72
    g.fillStyle = colour('page')
    g.fillRect(a, top, w, h)
    g.globalAlpha = 1
  }
  g.restore()
  if (picture) {
    g.fillStyle = c
    g.globalAlpha = link?.state === 'certain' || link?.state === 'none-needed' ? 0.7 : 1
    const y = top + h + 1
    if (link?.state === 'likely') for (let q = a; q < a + w; q += 8) g.fillRect(q, y, Math.min(5, a + w - q), 3)
    else if (link?.state === 'not-found') for (let q = a; q < a + w; q += 5) g.fillRect(q, y, Math.min(2, a + w - q), 3)
    else g.fillRect(a, y, w, 3)
    g.globalAlpha = 1
  }
  if (facts.eventId === e.id) {
    g.strokeStyle = colour('ink')
    g.lineWidth = 2
    g.strokeRect(a - 1, top - 1, w + 2, h + (picture ? 6 : 2))
  }
}

/** An event that does not run as it was shot: its speed in a corner, and arrowheads that stand closer the faster it runs; a freeze is a bar. */
function drawSpeed(g: CanvasRenderingContext2D, step: NonNullable<EventShape['speed']>, a: number, b: number, top: number, h: number): void {
  const [speed, text] = [step.num / step.den, speedText(step)]
  g.font = '11px "JetBrains Mono Variable", monospace'
  const wide = g.measureText(text).width + 8
  const y = top + h - 8
  g.fillStyle = 'rgba(0,0,0,.62)'
  g.fillRect(a, top + h - 15, b - a, 15)
  g.fillStyle = '#fff'
  const from = b - a > wide + 4 ? a + wide : a + 4
  if (from > a + 4) g.fillText(text, a + 4, y)
  if (speed === 0) {
    g.fillRect(from + 2, y - 1, Math.max(0, b - from - 8), 2)
    return
  }
  const way = speed < 0 ? -1 : 1
  const apart = Math.max(7, Math.min(28, 14 / Math.abs(speed)))
  for (let x = from + 6; x < b - 6; x += apart) {
    g.beginPath()
    g.moveTo(x + 3 * way, y)
    g.lineTo(x - 2 * way, y - 3.5)
    g.lineTo(x - 2 * way, y + 3.5)
    g.fill()
  }
}
