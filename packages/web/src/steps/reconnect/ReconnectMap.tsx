/** Cut strip, threads and day chart in one canvas: from each event to where it lands. */
import type { CutDetail, EventShape, LaneClip } from '@naranja/contract'
import { type KeyboardEvent, useMemo, useState } from 'react'
import {
  Canvas,
  clipAt,
  dayHeight,
  drawDays,
  drawStrip,
  drawThreads,
  eventAt,
  foldLanes,
  frameAt,
  head,
  landingsOf,
  laneHeight,
  lanesFrom,
  layDays,
  layThreads,
  left,
  neighbour,
  settled,
  stripHeight,
  threadAt,
  type Use,
  usePictures,
  useStrip,
  type View,
  wantedBoxes,
  wantedLane,
} from '../../charts/index.ts'
import { landing } from '@naranja/core/reconnect'
import type { FrameRange } from '@naranja/core/time'
import { number, Only, plural } from '../../ui/index.ts'
import type { CutView } from '../cutlists/index.ts'
import { type Landed, namedBy, rollsOf, wouldLand } from './landing.ts'
import { type Group, groupsOf, shiftText } from './RepairDialog.tsx'

const air = 34

/** A group of unmatched events on its way: from where, and where it is now. */
interface Drag {
  readonly group: Group
  readonly from: { readonly x: number; readonly y: number }
  readonly at: { readonly x: number; readonly y: number }
  readonly known: Map<string | null, Aimed>
}
type Aimed = { readonly lane: string | null; readonly events: readonly FrameRange[] } & Landed

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

/** Rolls are folded from so many lanes on. */
const foldFrom = 24

/** The day chart that events land on, and where each of them does. Rolls that ask for nothing are folded where there are many. */
export function useGround(cut: CutDetail | undefined, byId: CutView['byId'], lanes: readonly LaneClip[]) {
  const [folds, setFolds] = useState(true)
  const whole = useMemo(() => layDays(lanes), [lanes])
  const clips = useMemo(() => new Map(lanes.map((l) => [l.id, l])), [lanes])
  const wanted = useMemo(() => (cut ? groupsOf(cut, byId, 'not-found') : []), [cut, byId])
  const onAll = useMemo(() => landingsOf(cut?.events ?? [], byId, whole, clips), [cut, byId, whole, clips])
  const folded = useMemo(() => {
    if (whole.lanes.length < foldFrom) return { chart: whole, members: new Map<string, readonly string[]>() }
    const calm = (lane: string) => [...(onAll.rolls.get(lane) ?? [])].every((id) => settled.has(byId.get(id)?.state ?? 'likely'))
    return foldLanes(whole, calm)
  }, [whole, onAll, byId])
  const { chart, members } = folds ? folded : { chart: whole, members: folded.members }
  const landings = useMemo(() => (chart === whole ? onAll : landingsOf(cut?.events ?? [], byId, chart, clips)), [cut, byId, chart, whole, onAll, clips])
  return { chart, clips, wanted, landings, members, folds, setFolds }
}
type Ground = ReturnType<typeof useGround>

export function ReconnectMap({ view: v, lanes, onClip, onRepair, roll, onRoll, onAll, ground, only, brush, onBrush }: Props) {
  const { chart, clips, wanted, landings, members, folds, setFolds } = ground
  const [drag, setDrag] = useState<Drag | null>(null)
  const { cut, byId, frame, event } = v
  const picture = usePictures()
  const strip = useStrip(cut, frame)
  const uses = useMemo(
    () =>
      v.links.flatMap((l): Use[] => {
        const clip = l.clipId ? clips.get(l.clipId) : undefined
        return clip && l.range && clip.frames
          ? [{ clipId: clip.id, eventId: l.eventId, in: Math.max(0, l.range.in / clip.frames), out: Math.min(1, l.range.out / clip.frames) }]
          : []
      }),
    [v.links, clips],
  )
  const rolls = useMemo(() => rollsOf(lanes, cut), [lanes, cut])
  const top = stripHeight(cut, true) + air
  const height = top + dayHeight(chart, wanted.length)
  const firstLane = top + lanesFrom(wanted.length)

  const quiet = [...members.values()].reduce((n, m) => n + m.length, 0)
  const counts = useMemo(() => new Map([...landings.rolls].map(([lane, ids]) => [lane, ids.size])), [landings])
  const inRoll = (id: string) => roll === null || (landings.rolls.get(roll)?.has(id) ?? false)
  const looked = (id: string) => inRoll(id) && (!only || only.has(id))
  const threadsAt = (width: number) => layThreads({ cut, links: byId, landings, view: strip.view, selected: event?.id ?? null, top, wanted, only }, width)

  /** What would land on a lane, of lanes that are folded into one on the one that takes the most, or along in time. Asked once for each drag. */
  const onLane = (d: Drag, name: string | null): Aimed => {
    const known = d.known.get(name)
    if (known) return known
    const lanes = name === null ? [null] : (folds && members.get(name)) || [name]
    const events = namedBy(cut, d.group)
    const all = lanes.map((lane) => ({ lane, events, ...wouldLand(events, d.group.reel, cut.rate, rolls, lane) }))
    const best = all.reduce((a, b) => ((b.best?.lands ?? 0) > (a.best?.lands ?? 0) ? b : a))
    d.known.set(name, best)
    return best
  }
  /** Where a drag would land now: on a lane, or along in time; with what would come of it. */
  const aimOf = (d: Drag, width: number) => {
    const row = Math.floor((d.at.y - firstLane) / laneHeight)
    const name = chart.lanes[row]?.name
    const along = d.at.x - d.from.x
    if (name !== undefined) {
      const { lane, events, best } = onLane(d, name)
      return {
        lane,
        shift: best && best.frames !== 0 ? best.frames : null,
        row,
        text: best
          ? `${lane === name ? '' : `${lane}: `}${best.lands} of ${events.length} land${best.frames ? ` with ${shiftText(best.frames, cut)}` : ''}`
          : 'none would land here',
      }
    }
    const frames = Math.abs(along) < 8 ? 0 : Math.round(((along / (width - left - 12)) * chart.seconds * cut.rate.num) / cut.rate.den)
    const { events, spans, best } = onLane(d, null)
    // A shift that lands most is caught when it is near.
    const near = best && Math.abs(best.frames - frames) < (chart.seconds * cut.rate.num) / cut.rate.den / 40 ? best.frames : frames
    return { lane: null, shift: near || null, row: -1, text: near ? `${shiftText(near, cut)}: ${landing(events, spans, near)} of ${events.length} land` : '' }
  }

  const draw = (g: CanvasRenderingContext2D, width: number, _h: number, colour: (n: string) => string) => {
    const eventId = event?.id ?? null
    drawStrip(g, width, colour, {
      ...{ cut, links: byId, view: strip.view, frame, eventId, picture, thumb: v.thumb, compact: true },
      brush,
      ...(roll === null && !only ? {} : { dimmed: (e: EventShape) => e.id !== eventId && !looked(e.id) }),
    })
    const days = { chart, clips, uses, selected: byId.get(eventId ?? '')?.clipId ?? null, left, wanted, eventId, counts, lane: roll }
    drawDays(g, top, width, colour, days, () => drawThreads(g, colour, threadsAt(width), top, event?.id ?? null, roll, inRoll))
    if (drag) {
      const aim = aimOf(drag, width)
      if (aim.row >= 0) {
        g.strokeStyle = colour('ink')
        g.lineWidth = 1.5
        g.strokeRect(left - 2, firstLane + aim.row * laneHeight - 1, width - left - 8, laneHeight)
      }
      const name = `${drag.group.name}, ${plural(drag.group.eventIds.length, 'event')}`
      g.font = '12px "Hanken Grotesk Variable", sans-serif'
      const w = Math.max(g.measureText(name).width, g.measureText(aim.text).width) + 16
      const x = Math.max(left, Math.min(width - w - 12, drag.at.x + 10))
      const y = Math.max(4, Math.min(height - 42, drag.at.y - 46))
      g.fillStyle = colour('raised')
      g.fillRect(x, y, w, 38)
      g.strokeStyle = colour('ink-2')
      g.lineWidth = 1
      g.strokeRect(x + 0.5, y + 0.5, w - 1, 37)
      g.fillStyle = colour('ink')
      g.fillText(name, x + 8, y + 12)
      g.fillStyle = colour('ink-2')
      g.fillText(aim.text, x + 8, y + 27)
    }
  }
  /** The next roll that holds events, as they stand on the chart; beyond the last and before the first none is chosen. */
  const stepRoll = (by: 1 | -1) => {
    const names = [...landings.rolls.keys()]
    const at = roll === null ? (by === 1 ? 0 : names.length - 1) : names.indexOf(roll) + by
    onRoll(names[at] ?? null)
  }
  const go = (e: EventShape | undefined) => {
    if (!e) return
    v.select(e)
    v.setFrame(e.recordIn - cut.start)
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
      {members.size > 0 && (
        <button
          type="button"
          aria-pressed={folds}
          onClick={() => setFolds(!folds)}
          className="absolute right-3 z-10 rounded border border-line bg-panel px-2 text-[12px] text-ink-2 hover:border-ink-3 hover:text-ink"
          style={{ top: top - 26 }}
        >
          {folds ? `${number(quiet)} settled rolls folded` : `Fold ${number(quiet)} settled rolls`}
        </button>
      )}
      <Canvas
        height={height}
        label={`Cut strip and day chart: ${plural(cut.events.length, 'event')} land on ${plural(chart.lanes.length, 'lane')}; ${plural(landings.rolls.get(wantedLane)?.size ?? 0, 'event is', 'events are')} wanted and not found. Arrow keys left and right go from event to event, up and down from roll to roll, plus and minus zoom, B keeps to the events in sight, Alt and down shows the original, R repairs many at once.`}
        draw={draw}
        onKey={onKey}
        onWheel={(e, x, w) => {
          if (!e.ctrlKey && Math.abs(e.deltaX) < Math.abs(e.deltaY) && !e.shiftKey) return
          e.preventDefault()
          if (e.ctrlKey) strip.zoom(e.deltaY > 0 ? 1.15 : 0.87, frameAt(strip.view, x, w))
          else strip.pan((e.deltaX || e.deltaY) / w)
        }}
        onPointer={(x, y, w, kind) => {
          if (drag) {
            if (kind === 'move') return setDrag({ ...drag, at: { x, y } })
            if (kind !== 'up') return
            setDrag(null)
            const aim = aimOf({ ...drag, at: { x, y } }, w)
            if (Math.hypot(x - drag.from.x, y - drag.from.y) > 8 && (aim.lane !== null || aim.shift !== null)) onRepair(drag.group, aim.lane, aim.shift)
            return
          }
          if (strip.brushed(kind, x, y, w, onBrush)) return
          if (kind !== 'down') return
          const e = eventAt(cut, strip.view, x, y, w, true)
          if (e) {
            v.setFrame(Math.max(0, Math.min(cut.length - 1, Math.floor(frameAt(strip.view, x, w)))))
            v.select(e)
            return
          }
          const box = wantedBoxes(wanted, left, w).find((q) => {
            const from = top + head + q.row * laneHeight
            return x >= q.x && x <= q.x + q.width && y >= from && y < from + laneHeight
          })
          if (box) {
            go(cut.events.find((q) => box.eventIds.includes(q.id)))
            const group = groupsOf(cut, byId).find((q) => q.name === box.group?.name)
            if (group) setDrag({ group, from: { x, y }, at: { x, y }, known: new Map() })
            else onRoll(wantedLane)
            return
          }
          if (x < left - 4 && y >= top + head) {
            const name = y < firstLane ? wantedLane : chart.lanes[Math.floor((y - firstLane) / laneHeight)]?.name
            if (name !== undefined && landings.rolls.has(name)) onRoll(name === roll ? null : name)
            return
          }
          if (y < firstLane) {
            const t = threadAt(threadsAt(w), top, x, y)
            if (t?.event) go(t.event)
            else if (t) onRoll(t.roll === roll ? null : t.roll)
            return
          }
          const clip = clipAt({ chart, left, wanted }, top, x, y, w)
          const used = clip && v.links.find((l) => l.clipId === clip)
          if (used) go(cut.events.find((q) => q.id === used.eventId))
          else if (clip) onClip(clip)
        }}
      />
    </div>
  )
}

/** Says that only the events of one roll are looked at, and ends that. */
export const OnlyRoll = ({ roll, count, onAll }: { roll: string; count: number; onAll: () => void }) => (
  <Only which={`${roll}, ${plural(count, 'event')}`} onAll={onAll}>
    {roll}
  </Only>
)
