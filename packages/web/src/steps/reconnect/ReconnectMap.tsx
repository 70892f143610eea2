/** Cut strip, threads and day chart in one canvas: from each event to where it lands. */
import type { CutDetail, EventShape, LaneClip, LinkRow } from '@naranja/contract'
import { type KeyboardEvent, useMemo, useState } from 'react'
import {
  Canvas,
  dayHeight,
  drawDays,
  drawStrip,
  drawThreads,
  frameAt,
  lanesFrom,
  layThreads,
  left,
  neighbour,
  type OnPointer,
  stripHeight,
  turned,
  type Use,
  usePictures,
  useStrip,
  type View,
  wantedLane,
} from '../../charts/index.ts'
import { number, Only, plural } from '../../ui/index.ts'
import type { CutView } from '../cutlists/index.ts'
import { aimOf, type Drag, drawAim, isRepair, type Onto } from './drag.ts'
import { type Group, groupsOf } from './groups.ts'
import { rollsOf } from './landing.ts'
import { type Pointed, pointedAt } from './pointed.ts'
import type { Ground } from './useGround.ts'

const air = 34

interface Props {
  view: CutView & { cut: CutDetail }
  lanes: readonly LaneClip[]
  onClip: (id: string) => void
  /** A group was dropped on a lane, or drawn along by so many frames of the cut. */
  onRepair: (group: Group, lane: string | null, shift: number | null) => void
  /** The roll whose events are looked at alone. */
  roll: string | null
  onRoll: (roll: string | null) => void
  /** All events are looked at again. */
  onAll: () => void
  ground: Ground
  /** Events in the state that is looked at alone. */
  only: ReadonlySet<string> | undefined
  /** The part of the cut whose events are looked at alone. */
  brush: View | null
  onBrush: (part: View | null) => void
}

/** The parts of clips that the cut shows, as shares of the clips. */
const usesOf = (links: readonly LinkRow[], clips: Ground['clips']): Use[] =>
  links.flatMap((l): Use[] => {
    const clip = l.clipId ? clips.get(l.clipId) : undefined
    if (!clip || !l.range || !clip.frames) return []
    return [{ clipId: clip.id, eventId: l.eventId, in: Math.max(0, l.range.in / clip.frames), out: Math.min(1, l.range.out / clip.frames) }]
  })

/** The next roll that holds events, as they stand on the chart; beyond the last and before the first none is chosen. */
function nextRoll(names: readonly string[], roll: string | null, by: 1 | -1): string | null {
  const at = roll === null ? (by === 1 ? 0 : names.length - 1) : names.indexOf(roll) + by
  return names[at] ?? null
}

const keysText =
  'Arrow keys left and right go from event to event, up and down from roll to roll, plus and minus zoom, B keeps to the events in sight, Alt and down shows the original, R repairs many at once.'

export function ReconnectMap({ view: v, lanes, onClip, onRepair, roll, onRoll, onAll, ground, only, brush, onBrush }: Props) {
  const { chart, clips, wanted, landings, members, folds, setFolds } = ground
  const [drag, setDrag] = useState<Drag | null>(null)
  const { cut, byId, frame, event } = v
  const picture = usePictures()
  const strip = useStrip(cut, frame)
  const uses = useMemo(() => usesOf(v.links, clips), [v.links, clips])
  const rolls = useMemo(() => rollsOf(lanes, cut), [lanes, cut])
  const top = stripHeight(cut, true) + air
  const height = top + dayHeight(chart, wanted.length)
  const firstLane = top + lanesFrom(wanted.length)
  const onto: Onto = { cut, rolls, chart, folded: folds ? members : new Map(), firstLane }

  const quiet = [...members.values()].reduce((n, m) => n + m.length, 0)
  const counts = useMemo(() => new Map([...landings.rolls].map(([lane, ids]) => [lane, ids.size])), [landings])
  const inRoll = (id: string) => roll === null || (landings.rolls.get(roll)?.has(id) ?? false)
  const looked = (id: string) => inRoll(id) && (!only || only.has(id))
  const threadsAt = (width: number) => layThreads({ cut, links: byId, landings, view: strip.view, selected: event?.id ?? null, top, wanted, only }, width)

  const draw = (g: CanvasRenderingContext2D, width: number, _h: number, colour: (n: string) => string) => {
    const eventId = event?.id ?? null
    drawStrip(g, width, colour, {
      ...{ cut, links: byId, view: strip.view, frame, eventId, picture, thumb: v.thumb, compact: true },
      brush,
      ...(roll === null && !only ? {} : { dimmed: (e: EventShape) => e.id !== eventId && !looked(e.id) }),
    })
    const days = { chart, clips, uses, selected: byId.get(eventId ?? '')?.clipId ?? null, left, wanted, eventId, counts, lane: roll }
    drawDays(g, top, width, colour, days, () => drawThreads(g, colour, threadsAt(width), top, event?.id ?? null, roll, inRoll))
    if (drag) drawAim(g, drag, aimOf(drag, onto, width), firstLane, width, height, colour)
  }
  const stepRoll = (by: 1 | -1) => onRoll(nextRoll([...landings.rolls.keys()], roll, by))
  const go = (e: EventShape | undefined) => {
    if (!e) return
    v.select(e)
    v.setFrame(e.recordIn - cut.start)
  }
  const onPoint = (p: Pointed | null, x: number, y: number) => {
    if (p?.what === 'event') {
      v.setFrame(p.frame)
      v.select(p.event)
    } else if (p?.what === 'wanted') {
      go(cut.events.find((q) => p.eventIds.includes(q.id)))
      const group = groupsOf(cut, byId).find((q) => q.name === p.group?.name)
      if (group) setDrag({ group, from: { x, y }, at: { x, y }, known: new Map() })
      else onRoll(wantedLane)
    } else if (p?.what === 'roll') onRoll(p.roll === roll ? null : p.roll)
    else if (p?.what === 'thread') go(p.event)
    else if (p?.what === 'clip') {
      const used = v.links.find((l) => l.clipId === p.clipId)
      if (used) go(cut.events.find((q) => q.id === used.eventId))
      else onClip(p.clipId)
    }
  }
  const onPointer: OnPointer = (x, y, w, kind) => {
    if (drag) {
      if (kind === 'move') return setDrag({ ...drag, at: { x, y } })
      if (kind !== 'up') return
      setDrag(null)
      const now = { ...drag, at: { x, y } }
      const aim = aimOf(now, onto, w)
      if (isRepair(now, aim)) onRepair(drag.group, aim.lane, aim.shift)
      return
    }
    if (strip.brushed(kind, x, y, w, onBrush)) return
    if (kind !== 'down') return
    onPoint(pointedAt({ cut, view: strip.view, threads: threadsAt(w), ground, top }, x, y, w), x, y)
  }
  const onKey = (e: KeyboardEvent) => {
    const act: Record<string, () => void> = {
      ArrowRight: () => go(neighbour(cut, event?.id ?? null, 1, looked)),
      ArrowLeft: () => go(neighbour(cut, event?.id ?? null, -1, looked)),
      ArrowDown: () => {
        const id = byId.get(event?.id ?? '')?.clipId
        if (!e.altKey) stepRoll(1)
        else if (id) onClip(id)
      },
      ArrowUp: () => stepRoll(-1),
      Escape: onAll,
      b: () => onBrush(brush ? null : strip.view),
      '+': () => strip.zoom(0.6, frame),
      '=': () => strip.zoom(0.6, frame),
      '-': () => strip.zoom(1.6, frame),
    }
    const f = act[e.key]
    if (!f) return
    e.preventDefault()
    f()
  }
  return (
    <div className="relative">
      {members.size > 0 && <Fold top={top - 26} folds={folds} quiet={quiet} setFolds={setFolds} />}
      <Canvas
        height={height}
        label={`Cut strip and day chart: ${plural(cut.events.length, 'event')} land on ${plural(chart.lanes.length, 'lane')}; ${plural(landings.rolls.get(wantedLane)?.size ?? 0, 'event is', 'events are')} wanted and not found. ${keysText}`}
        draw={draw}
        onKey={onKey}
        onWheel={(e, x, w) => turned(e, w, frameAt(strip.view, x, w), strip)}
        onPointer={onPointer}
      />
    </div>
  )
}

interface FoldProps {
  readonly top: number
  readonly folds: boolean
  /** Rolls that are settled. */
  readonly quiet: number
  readonly setFolds: (folds: boolean) => void
}
/** Folds the rolls that are settled into one line, or shows them again. */
const Fold = ({ top, folds, quiet, setFolds }: FoldProps) => (
  <button
    type="button"
    aria-pressed={folds}
    onClick={() => setFolds(!folds)}
    className="absolute right-3 z-10 rounded border border-line bg-panel px-2 text-[12px] text-ink-2 hover:border-ink-3 hover:text-ink"
    style={{ top }}
  >
    {folds ? `${number(quiet)} settled rolls folded` : `Fold ${number(quiet)} settled rolls`}
  </button>
)

/** Says that only the events of one roll are looked at, and ends that. */
export const OnlyRoll = ({ roll, count, onAll }: { roll: string; count: number; onAll: () => void }) => (
  <Only which={`${roll}, ${plural(count, 'event')}`} onAll={onAll}>
    {roll}
  </Only>
)
