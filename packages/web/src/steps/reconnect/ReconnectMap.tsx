/** Cut strip, threads and day chart in one canvas: from each event to where it lands. */
import type { CutDetail, EventShape, LaneClip } from '@naranja/contract'
import { type KeyboardEvent, useMemo, useState } from 'react'
import { Canvas, usePictures } from '../../charts/canvas.tsx'
import { neighbour, useStrip } from '../../charts/CutStrip.tsx'
import { chartX, clipAt, dayHeight, drawDays, head, laneHeight, layDays, type Use, wantedBoxes } from '../../charts/day.ts'
import { bottomOf, drawStrip, eventAt, frameAt, left, stripHeight, xOf } from '../../charts/strip.ts'
import { landing } from '@naranja/core/reconnect'
import { plural } from '../../ui/format.ts'
import { stateColour } from '../../ui/marks.tsx'
import type { CutView } from '../cutlists/useCutView.ts'
import { type Group, groupsOf, landings, shiftText } from './RepairDialog.tsx'

const air = 34

/** A group of unmatched events on its way: from where, and where it is now. */
interface Drag {
  readonly group: Group
  readonly from: { readonly x: number; readonly y: number }
  readonly at: { readonly x: number; readonly y: number }
}

interface Props {
  view: CutView & { cut: CutDetail }
  lanes: readonly LaneClip[]
  onClip: (id: string) => void
  /** A group was dropped on a lane, or drawn along by so many frames of the cut. */
  onRepair: (group: Group, lane: string | null, shift: number | null) => void
}

export function ReconnectMap({ view: v, lanes, onClip, onRepair }: Props) {
  const [drag, setDrag] = useState<Drag | null>(null)
  const { cut, byId, frame, event } = v
  const picture = usePictures()
  const strip = useStrip(cut, frame)
  const chart = useMemo(() => layDays(lanes), [lanes])
  const clips = useMemo(() => new Map(lanes.map((l) => [l.id, l])), [lanes])
  const placed = useMemo(() => new Map(chart.clips.map((c) => [c.id, c])), [chart])
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
  const wanted = useMemo(
    () => cut.events.filter((e) => byId.get(e.id)?.state === 'not-found').map((e) => ({ eventId: e.id, name: `${e.number} ${e.clipName ?? e.reel ?? ''}` })),
    [cut, byId],
  )
  const top = stripHeight(cut, true) + air
  const height = top + dayHeight(chart, wanted.length > 0)

  /** Ends of the threads of an event on the chart. */
  const ends = (e: EventShape, width: number): { x: number; y: number }[] => {
    const l = byId.get(e.id)
    if (!l || l.state === 'none-needed') return []
    if (l.state === 'not-found') {
      const box = wantedBoxes(wanted, left).find((w) => w.eventId === e.id)
      return box ? [{ x: box.x + box.width / 2, y: top + head + chart.lanes.length * laneHeight + 3 }] : []
    }
    const lands = l.clipId && l.range ? [{ clipId: l.clipId, range: l.range }] : l.state === 'several' ? l.candidates : []
    return lands.flatMap(({ clipId, range }) => {
      const p = placed.get(clipId)
      const clip = clips.get(clipId)
      if (!p || !clip) return []
      const share = Math.max(0, Math.min(1, (range.in + range.out) / 2 / clip.frames))
      return [{ x: chartX(p.x + p.width * share, left, width), y: top + head + p.lane * laneHeight + 2 }]
    })
  }

  /** Where a drag would land now: on a lane, or along in time; with what would come of it. */
  const aimOf = (d: Drag, width: number) => {
    const row = Math.floor((d.at.y - top - head) / laneHeight)
    const lane = chart.lanes[row]?.name ?? null
    const along = d.at.x - d.from.x
    if (lane !== null) {
      const { events, best } = landings(cut, d.group, lanes, lane)
      return {
        lane,
        shift: best && best.frames !== 0 ? best.frames : null,
        row,
        text: best ? `${best.lands} of ${events.length} land${best.frames ? ` with ${shiftText(best.frames, cut)}` : ''}` : 'none would land here',
      }
    }
    const frames = Math.abs(along) < 8 ? 0 : Math.round(((along / (width - left - 12)) * chart.seconds * cut.rate.num) / cut.rate.den)
    const { events, clips: spans, best } = landings(cut, d.group, lanes, null)
    // A shift that lands most is caught when it is near.
    const near = best && Math.abs(best.frames - frames) < (chart.seconds * cut.rate.num) / cut.rate.den / 40 ? best.frames : frames
    return { lane: null, shift: near || null, row: -1, text: near ? `${shiftText(near, cut)}: ${landing(events, spans, near)} of ${events.length} land` : '' }
  }

  const draw = (g: CanvasRenderingContext2D, width: number, _h: number, colour: (n: string) => string) => {
    drawStrip(g, width, colour, { cut, links: byId, view: strip.view, frame, eventId: event?.id ?? null, picture, thumb: v.thumb, compact: true })
    drawDays(g, top, width, colour, { chart, clips, uses, selected: byId.get(event?.id ?? '')?.clipId ?? null, left, wanted, eventId: event?.id ?? null })
    const shown = cut.events.filter((e) => e.medium === 'picture' || e.id === event?.id)
    const drawThread = (e: EventShape, strong: boolean) => {
      const a = e.recordIn - cut.start
      const b = e.recordOut - cut.start
      if (b < strip.view.from || a > strip.view.to) return
      const l = byId.get(e.id)
      if (!l) return
      const x = xOf(strip.view, (Math.max(a, strip.view.from) + Math.min(b, strip.view.to)) / 2, width)
      const y = bottomOf(cut, e.track, true) + 2
      g.strokeStyle = strong
        ? colour('ink')
        : l.state === 'certain' || l.state === 'confirmed' || l.state === 'set-by-hand'
          ? colour('ink-3')
          : colour(stateColour[l.state])
      g.globalAlpha = strong ? 1 : l.state === 'certain' || l.state === 'confirmed' || l.state === 'set-by-hand' ? 0.4 : 0.85
      g.lineWidth = strong ? 2 : 1.2
      g.setLineDash(l.state === 'likely' && !strong ? [5, 3] : l.state === 'not-found' ? [3, 3] : [])
      for (const end of ends(e, width)) {
        g.beginPath()
        g.moveTo(x, y)
        g.bezierCurveTo(x, y + 40, end.x, top - 6, end.x, end.y)
        g.stroke()
      }
      g.setLineDash([])
      g.globalAlpha = 1
    }
    for (const e of shown) if (e.id !== event?.id) drawThread(e, false)
    if (event) drawThread(event, true)
    if (drag) {
      const aim = aimOf(drag, width)
      if (aim.row >= 0) {
        g.strokeStyle = colour('ink')
        g.lineWidth = 1.5
        g.strokeRect(left - 2, top + head + aim.row * laneHeight - 1, width - left - 8, laneHeight)
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
  const go = (e: EventShape | undefined) => {
    if (!e) return
    v.select(e)
    v.setFrame(e.recordIn - cut.start)
  }
  const onKey = (e: KeyboardEvent) => {
    const act: Record<string, () => void> = {
      ArrowRight: () => go(neighbour(cut, event?.id ?? null, 1)),
      ArrowLeft: () => go(neighbour(cut, event?.id ?? null, -1)),
      ArrowDown: () => {
        const id = byId.get(event?.id ?? '')?.clipId
        if (e.altKey && id) onClip(id)
      },
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
    <Canvas
      height={height}
      label={`Cut strip and day chart: ${plural(cut.events.length, 'event')} land on ${plural(chart.lanes.length, 'lane')}; ${plural(wanted.length, 'event is', 'events are')} wanted and not found. Arrow keys go from event to event, plus and minus zoom, Alt and down shows the original, R repairs many at once.`}
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
        if (kind === 'up') return
        if (y < 26) {
          const at = ((x - left) / (w - left - 12)) * cut.length
          const span = strip.view.to - strip.view.from
          const from = Math.max(0, Math.min(cut.length - span, at - span / 2))
          strip.setView({ from, to: from + span })
          return
        }
        if (kind !== 'down') return
        const e = eventAt(cut, strip.view, x, y, w, true)
        if (e) {
          v.setFrame(Math.max(0, Math.min(cut.length - 1, Math.floor(frameAt(strip.view, x, w)))))
          v.select(e)
          return
        }
        const lane = Math.floor((y - top - head) / laneHeight)
        if (lane === chart.lanes.length) {
          const box = wantedBoxes(wanted, left).find((b) => x >= b.x && x <= b.x + b.width)
          go(cut.events.find((q) => q.id === box?.eventId))
          const group = box && groupsOf(cut, byId).find((q) => q.eventIds.includes(box.eventId))
          if (group) setDrag({ group, from: { x, y }, at: { x, y } })
          return
        }
        const clip = clipAt({ chart, left }, top, x, y, w)
        const used = clip && v.links.find((l) => l.clipId === clip)
        if (used) go(cut.events.find((q) => q.id === used.eventId))
        else if (clip) onClip(clip)
      }}
    />
  )
}
