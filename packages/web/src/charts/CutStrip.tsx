/** The cut strip on its own: click to go there, wheel or + and − to zoom, arrows from event to event. */
import type { CutDetail, EventShape, LinkRow } from '@naranja/contract'
import { isOpen } from '@naranja/core/reconnect'
import { type KeyboardEvent, useCallback, useEffect, useMemo, useState } from 'react'
import { plural } from '../ui/format.ts'
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
  return { view, setView, zoom, pan }
}

/** The next event before or after a frame, on the track of the selected one. */
export function neighbour(cut: CutDetail, eventId: string | null, by: 1 | -1): EventShape | undefined {
  const now = cut.events.find((e) => e.id === eventId)
  const list = cut.events.filter((e) => e.track === (now?.track ?? cut.events[0]?.track))
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
}

export function CutStrip({ cut, links, frame, eventId, thumb, onFrame, onEvent }: Props) {
  const picture = usePictures()
  const { view, setView, zoom, pan } = useStrip(cut, frame)
  const byId = useMemo(() => new Map(links.map((l) => [l.eventId, l])), [links])
  const open = links.filter(isOpen).length
  const onKey = (e: KeyboardEvent) => {
    const act = { ArrowRight: () => move(1), ArrowLeft: () => move(-1), '+': () => zoom(0.6, frame), '=': () => zoom(0.6, frame), '-': () => zoom(1.6, frame) }[
      e.key
    ]
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
        label={`Cut strip: ${plural(cut.events.length, 'event')}, ${open} open. Arrow keys go from event to event, plus and minus zoom.`}
        draw={(g, w, _h, colour) => drawStrip(g, w, colour, { cut, links: byId, view, frame, eventId, picture, thumb })}
        onKey={onKey}
        onWheel={(e, x, w) => {
          e.preventDefault()
          if (Math.abs(e.deltaX) > Math.abs(e.deltaY)) pan(e.deltaX / w)
          else zoom(e.deltaY > 0 ? 1.15 : 0.87, frameAt(view, x, w))
        }}
        onPointer={(x, y, w, kind) => {
          if (y < 26) {
            const at = ((x - left) / (w - left - 12)) * cut.length
            const span = view.to - view.from
            const from = Math.max(0, Math.min(cut.length - span, at - span / 2))
            setView({ from, to: from + span })
            return
          }
          const f = Math.floor(frameAt(view, Math.max(left, x), w))
          onFrame(Math.max(0, Math.min(cut.length - 1, f)))
          const e = kind === 'down' ? eventAt(cut, view, x, y, w) : null
          if (e) onEvent(e)
        }}
      />
    </div>
  )
}
