/** The cut strip on its own: click to go there, wheel or + and − to zoom, arrows from event to event. */
import type { CutDetail, EventShape, LinkRow } from '@naranja/contract'
import { isOpen } from '@naranja/core/reconnect'
import { formatFrames } from '@naranja/core/time'
import { type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { Only, plural } from '../ui/index.ts'
import { Canvas, usePictures } from './canvas.tsx'
import { drawStrip, eventAt, frameAt, left, stripHeight, type View } from './strip.ts'

export function useStrip(cut: CutDetail | undefined, frame: number) {
  const [view, setView] = useState<View>({ from: 0, to: 1 })
  const length = cut?.length ?? 1
  // biome-ignore lint/correctness/useExhaustiveDependencies: another cut begins with another view
  useEffect(() => setView({ from: 0, to: Math.min(length, 25 * 30) }), [cut?.id, length])
  // The playhead stays in sight.
  useEffect(() => {
    setView((v) => {
      if (frame >= v.from && frame < v.to) return v
      const span = v.to - v.from
      const from = Math.max(0, Math.min(length - span, frame - span * 0.2))
      return { from, to: from + span }
    })
  }, [frame, length])
  const zoom = useCallback(
    (factor: number, around: number) =>
      setView((v) => {
        const span = Math.max(12, Math.min(length, (v.to - v.from) * factor))
        const from = Math.max(0, Math.min(length - span, around - ((around - v.from) / (v.to - v.from)) * span))
        return { from, to: from + span }
      }),
    [length],
  )
  const pan = useCallback(
    (by: number) =>
      setView((v) => {
        const span = v.to - v.from
        const from = Math.max(0, Math.min(length - span, v.from + by * span))
        return { from, to: from + span }
      }),
    [length],
  )
  // The whole cut above: a click looks there, a drag brushes over a part, whose events are then looked at alone.
  const anchor = useRef<number | null>(null)
  /** Takes what a pointer does on the whole cut; false where it is not there. */
  const brushed = (kind: 'down' | 'move' | 'up', x: number, y: number, width: number, onBrush: (part: View | null) => void): boolean => {
    if (anchor.current === null && (kind !== 'down' || y >= 26)) return false
    const at = Math.max(0, Math.min(length, ((x - left) / (width - left - 12)) * length))
    anchor.current ??= at
    const part = { from: Math.min(anchor.current, at), to: Math.max(anchor.current, at) }
    const wide = ((part.to - part.from) / length) * (width - left - 12) > 5
    if (wide) onBrush(part)
    if (kind !== 'up') return true
    anchor.current = null
    if (wide) setView({ from: part.from, to: Math.max(part.to, part.from + 12) })
    else {
      onBrush(null)
      const span = view.to - view.from
      const from = Math.max(0, Math.min(length - span, at - span / 2))
      setView({ from, to: from + span })
    }
    return true
  }
  return { view, zoom, pan, brushed }
}

/** The part of a cut whose events are listed alone; another cut begins with none. */
export function useBrush(cut: CutDetail | undefined): [View | null, (part: View | null) => void] {
  const [brush, setBrush] = useState<View | null>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another cut has other parts
  useEffect(() => setBrush(null), [cut?.id])
  return [brush, setBrush]
}

/** Says that only the events of a part of the cut are listed, and ends that. */
export function OnlyPart({ cut, part, onAll }: { cut: CutDetail; part: View; onAll: () => void }) {
  const at = (f: number) => formatFrames(cut.start + Math.round(f), cut.rate, cut.drop)
  return (
    <Only which={`${at(part.from)} to ${at(part.to)}`} onAll={onAll}>
      <span className="mono">
        {at(part.from)} – {at(part.to)}
      </span>
    </Only>
  )
}

/** The next event before or after the selected one on its track, of those that `fits`. */
export function neighbour(cut: CutDetail, eventId: string | null, by: 1 | -1, fits: (eventId: string) => boolean = () => true): EventShape | undefined {
  const now = cut.events.find((e) => e.id === eventId)
  const list = cut.events.filter((e) => e.track === (now?.track ?? cut.events[0]?.track) && (e === now || fits(e.id)))
  if (!now) return list[0]
  return list[list.indexOf(now) + by]
}

interface Props {
  cut: CutDetail
  links: readonly LinkRow[]
  frame: number
  eventId: string | null
  thumb: (e: EventShape) => string | null
  onFrame: (frame: number) => void
  onEvent: (e: EventShape) => void
  /** The part of the cut whose events are listed alone. */
  brush?: View | null
  onBrush?: (part: View | null) => void
}

export function CutStrip({ cut, links, frame, eventId, thumb, onFrame, onEvent, brush = null, onBrush = () => undefined }: Props) {
  const picture = usePictures()
  const { view, zoom, pan, brushed } = useStrip(cut, frame)
  const byId = useMemo(() => new Map(links.map((l) => [l.eventId, l])), [links])
  const open = links.filter(isOpen).length
  const onKey = (e: KeyboardEvent) => {
    const act = {
      ArrowRight: () => move(1),
      ArrowLeft: () => move(-1),
      '+': () => zoom(0.6, frame),
      '=': () => zoom(0.6, frame),
      '-': () => zoom(1.6, frame),
      b: () => onBrush(brush ? null : view),
      Escape: () => onBrush(null),
    }[e.key]
    if (!act) return
    e.preventDefault()
    act()
  }
  const move = (by: 1 | -1) => {
    const e = neighbour(cut, eventId, by)
    if (!e) return
    onEvent(e)
    onFrame(e.recordIn - cut.start)
  }
  return (
    <div className="flex-none border-b border-line">
      <Canvas
        height={stripHeight(cut)}
        label={`Cut strip: ${plural(cut.events.length, 'event')}, ${open} open. Arrow keys go from event to event, plus and minus zoom, B lists only the events in sight.`}
        draw={(g, w, _h, colour) => drawStrip(g, w, colour, { cut, links: byId, view, frame, eventId, picture, thumb, brush })}
        onKey={onKey}
        onWheel={(e, x, w) => {
          e.preventDefault()
          if (Math.abs(e.deltaX) > Math.abs(e.deltaY)) pan(e.deltaX / w)
          else zoom(e.deltaY > 0 ? 1.15 : 0.87, frameAt(view, x, w))
        }}
        onPointer={(x, y, w, kind) => {
          if (brushed(kind, x, y, w, onBrush)) return
          const f = Math.floor(frameAt(view, Math.max(left, x), w))
          onFrame(Math.max(0, Math.min(cut.length - 1, f)))
          const e = kind === 'down' ? eventAt(cut, view, x, y, w) : null
          if (e) onEvent(e)
        }}
      />
    </div>
  )
}
