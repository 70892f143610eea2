/** Draws two turnovers of a cut one above the other, with a thread from each event to where it is now. */
import type { CutChange, CutDetail, EventShape } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { left, type View, xOf } from './strip.ts'

export const kinds = ['new', 'gone', 'moved', 'trimmed', 'changed', 'same'] as const
export type ChangeKind = CutChange['kind']
/** Lines of threads and boxes: each kind has a colour and a pattern of its own. */
export const kindLook: Readonly<Record<ChangeKind, { colour: string; dash: readonly number[]; word: string }>> = {
  same: { colour: 'ink-3', dash: [], word: 'as it was' },
  moved: { colour: 'tide', dash: [], word: 'moved' },
  trimmed: { colour: 'lemon', dash: [6, 3], word: 'trimmed' },
  changed: { colour: 'lemon', dash: [2, 3], word: 'changed' },
  new: { colour: 'leaf', dash: [], word: 'new' },
  gone: { colour: 'pomegranate', dash: [3, 3], word: 'gone' },
}

const rowHeight = { picture: 26, sound: 8 }
const air = 86
const top = 30

/** Tracks of a cut: pictures from the top down, then sound. */
function rowsOf(cut: CutDetail): { track: string; height: number }[] {
  const all = [...new Set(cut.events.map((e) => e.track))]
  const n = (t: string) => Number(t.slice(1))
  const pictures = all.filter((t) => t.startsWith('V')).sort((a, b) => n(b) - n(a))
  const sound = all.filter((t) => t.startsWith('A')).sort((a, b) => n(a) - n(b))
  return [...pictures.map((track) => ({ track, height: rowHeight.picture })), ...sound.map((track) => ({ track, height: rowHeight.sound }))]
}

/** Where each track of a cut stands below `from`. */
function placed(cut: CutDetail, from: number): Map<string, { y: number; height: number }> {
  let y = from
  return new Map(
    rowsOf(cut).map(({ track, height }) => {
      const at = { y, height }
      y += height + 4
      return [track, at]
    }),
  )
}
const heightOf = (cut: CutDetail): number => rowsOf(cut).reduce((sum, r) => sum + r.height + 4, 0)
const below = (before: CutDetail): number => top + heightOf(before) + air

export const turnoversHeight = (before: CutDetail, after: CutDetail): number => below(before) + heightOf(after) + 8

export interface TurnoverFacts {
  readonly before: CutDetail
  readonly after: CutDetail
  readonly changes: readonly CutChange[]
  /** Record frames from midnight that are in sight. */
  readonly view: View
  readonly shown: ReadonlySet<ChangeKind>
  readonly selected: ReadonlySet<CutChange>
}

interface Box {
  readonly change: CutChange
  readonly event: EventShape
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** Every event in sight with its place; the earlier cut's above. */
export function turnoverBoxes(
  f: Pick<TurnoverFacts, 'before' | 'after' | 'changes' | 'view'>,
  width: number,
): { above: Map<CutChange, Box>; below: Map<CutChange, Box> } {
  const boxes = (cut: CutDetail, from: number, id: (c: CutChange) => string | null): Map<CutChange, Box> => {
    const rows = placed(cut, from)
    const byId = new Map(cut.events.map((e) => [e.id, e]))
    return new Map(
      f.changes.flatMap((change) => {
        const event = byId.get(id(change) ?? '')
        const row = event && rows.get(event.track)
        if (!event || !row || event.recordOut <= f.view.from || event.recordIn >= f.view.to) return []
        const [a, b] = [Math.max(left, xOf(f.view, event.recordIn, width)), Math.min(width - 12, xOf(f.view, event.recordOut, width))]
        return [[change, { change, event, x: a, y: row.y, width: Math.max(1, b - a - 1), height: row.height }] as const]
      }),
    )
  }
  return { above: boxes(f.before, top, (c) => c.before), below: boxes(f.after, below(f.before), (c) => c.after) }
}

export function changeAt(f: Pick<TurnoverFacts, 'before' | 'after' | 'changes' | 'view'>, x: number, y: number, width: number): CutChange | null {
  const { above, below } = turnoverBoxes(f, width)
  for (const box of [...above.values(), ...below.values()])
    if (x >= box.x && x <= box.x + box.width + 1 && y >= box.y && y <= box.y + box.height) return box.change
  return null
}

/** What the parts of the drawing share. */
interface Drawing {
  readonly g: CanvasRenderingContext2D
  readonly width: number
  readonly colour: (n: string) => string
  readonly f: TurnoverFacts
}

export function drawTurnovers(g: CanvasRenderingContext2D, width: number, colour: (n: string) => string, f: TurnoverFacts): void {
  const d: Drawing = { g, width, colour, f }
  g.textBaseline = 'middle'
  drawRuler(d)
  drawTrackNames(d)
  const { above, below: under } = turnoverBoxes(f, width)
  const thread = (c: CutChange) => drawThread(d, c, above.get(c), under.get(c))
  for (const c of f.changes) if (f.shown.has(c.kind) && !f.selected.has(c)) thread(c)
  for (const c of f.selected) thread(c)
  for (const box of [...above.values(), ...under.values()]) drawBox(d, box)
}

function drawRuler({ g, width, colour, f: { after, view } }: Drawing): void {
  const second = Math.round(after.rate.num / after.rate.den)
  const steps = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600].map((s) => s * second)
  const step = steps.find((s) => ((width - left) * s) / (view.to - view.from) > 104) ?? 3600 * second
  g.font = '11px "JetBrains Mono Variable", monospace'
  for (let n = Math.ceil(view.from / step) * step; n < view.to; n += step) {
    const x = xOf(view, n, width)
    g.fillStyle = colour('line')
    g.fillRect(x, 8, 1, 14)
    g.fillStyle = colour('ink-3')
    if (x + 84 < width) g.fillText(formatFrames(n, after.rate, after.drop), x + 4, 14)
  }
}

function drawTrackNames({ g, colour, f: { before, after } }: Drawing): void {
  g.font = '12px "Hanken Grotesk Variable", sans-serif'
  for (const [cut, from] of [
    [before, top],
    [after, below(before)],
  ] as const)
    for (const [track, row] of placed(cut, from)) {
      g.fillStyle = colour('ink-3')
      if (row.height > 12) g.fillText(track, 12, row.y + row.height / 2)
    }
}

/** From where an event was to where it is; a loose end where it is new or gone. */
function drawThread({ g, colour, f }: Drawing, c: CutChange, a: Box | undefined, b: Box | undefined): void {
  const look = kindLook[c.kind]
  const bottom = top + heightOf(f.before)
  const strong = f.selected.has(c)
  g.strokeStyle = strong ? colour('ink') : colour(look.colour)
  g.lineWidth = strong ? 2 : 1.2
  g.globalAlpha = strong ? 1 : c.kind === 'same' ? 0.3 : 0.85
  g.setLineDash(strong ? [] : [...look.dash])
  g.beginPath()
  if (a && b) {
    const [x, y] = [a.x + a.width / 2, b.x + b.width / 2]
    g.moveTo(x, a.y + a.height + 1)
    g.lineTo(x, bottom)
    g.bezierCurveTo(x, bottom + air * 0.45, y, bottom + air * 0.55, y, bottom + air)
    g.lineTo(y, b.y)
  } else if (a && c.kind === 'gone') {
    g.moveTo(a.x + a.width / 2, a.y + a.height + 1)
    g.lineTo(a.x + a.width / 2, bottom + 18)
  } else if (b && c.kind === 'new') {
    g.moveTo(b.x + b.width / 2, b.y)
    g.lineTo(b.x + b.width / 2, bottom + air - 18)
  }
  g.stroke()
  g.setLineDash([])
  g.globalAlpha = 1
}

/** An event: new is full, gone is hatched, the others have a line of their pattern below. */
function drawBox({ g, colour, f }: Drawing, box: Box): void {
  const { change: c, event: e } = box
  const look = kindLook[c.kind]
  const dim = !f.shown.has(c.kind) || c.kind === 'same'
  g.globalAlpha = dim ? 0.55 : 1
  g.fillStyle = colour('raised')
  g.fillRect(box.x, box.y, box.width, box.height)
  g.fillStyle = colour(look.colour)
  if (c.kind === 'new') {
    g.globalAlpha = 0.35
    g.fillRect(box.x, box.y, box.width, box.height)
    g.globalAlpha = 1
  } else if (c.kind === 'gone') hatch(g, box, colour(look.colour))
  const dash = look.dash.length ? look.dash : [box.width, 0]
  for (let q = box.x; q < box.x + box.width; q += (dash[0] ?? 1) + (dash[1] ?? 0) || 1)
    g.fillRect(q, box.y + box.height - 2, Math.min(dash[0] ?? 1, box.x + box.width - q), 2)
  if (box.width > 30 && box.height > 12) {
    g.save()
    g.beginPath()
    g.rect(box.x, box.y, box.width - 3, box.height)
    g.clip()
    g.font = '11px "Hanken Grotesk Variable", sans-serif'
    g.fillStyle = colour('ink-2')
    g.fillText(e.kind === 'black' ? 'black' : (e.clipName ?? e.reel ?? ''), box.x + 4, box.y + box.height / 2 - 1)
    g.restore()
  }
  g.globalAlpha = 1
  if (f.selected.has(c)) {
    g.strokeStyle = colour('ink')
    g.lineWidth = 2
    g.strokeRect(box.x - 1, box.y - 1, box.width + 2, box.height + 2)
  }
}

function hatch(g: CanvasRenderingContext2D, box: Box, colour: string): void {
  g.save()
  g.beginPath()
  g.rect(box.x, box.y, box.width, box.height)
  g.clip()
  g.strokeStyle = colour
  g.globalAlpha = 0.6
  g.lineWidth = 1.5
  for (let q = box.x - box.height; q < box.x + box.width; q += 7) {
    g.beginPath()
    g.moveTo(q, box.y + box.height)
    g.lineTo(q + box.height, box.y)
    g.stroke()
  }
  g.restore()
}
