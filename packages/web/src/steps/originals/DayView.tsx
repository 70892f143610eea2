/** The day chart with its controls: closer, further, along; and what is wrong, in words. */
import type { LaneClip } from '@naranja/contract'
import { Minus, Plus } from 'lucide-react'
import { type KeyboardEvent, useCallback, useMemo, useRef, useState } from 'react'
import { Canvas, clipUnder, drawDayView, layDays, layOut, moved, rowHeight, rulerHeight, shareAt, whole, type Window, zoomed } from '../../charts/index.ts'
import { Button, lasting, NoticeMark, number, plural } from '../../ui/index.ts'

export function DayView({ lanes, selected, onSelect }: { lanes: readonly LaneClip[]; selected: string | null; onSelect: (id: string) => void }) {
  const laid = useMemo(() => layOut(layDays(lanes), lanes), [lanes])
  const [window, setWindow] = useState<Window>(whole)
  const drag = useRef<{ x: number; window: Window } | null>(null)
  const { troubles: t, least } = laid
  const place = useMemo(() => {
    const out = new Map<string, { lane: number; i: number; x: number; width: number }>()
    laid.lanes.forEach((l, lane) => {
      l.ids.forEach((id, i) => {
        out.set(id, { lane, i, x: l.x[i] as number, width: l.width[i] as number })
      })
    })
    return out
  }, [laid])
  const at = selected === null ? undefined : place.get(selected)
  /** In sight, with a little around it. */
  const show = (id: string) => {
    onSelect(id)
    const p = place.get(id)
    if (p && (p.x < window.from || p.x + p.width > window.to)) setWindow(moved(window, p.x + p.width / 2 - (window.from + window.to) / 2))
  }
  const centre = at ? at.x + at.width / 2 : (window.from + window.to) / 2
  const closer = (factor: number) => setWindow((w) => zoomed(w, Math.max(w.from, Math.min(w.to, centre)), factor, least))
  const onKey = (e: KeyboardEvent) => {
    const go = (lane: number, i: number) => {
      const id = laid.lanes[lane]?.ids[i]
      if (id) show(id)
    }
    const nearest = (lane: number) => {
      const xs = laid.lanes[lane]?.x
      if (!xs?.length || !at) return
      let best = 0
      for (let i = 1; i < xs.length; i++) if (Math.abs((xs[i] as number) - at.x) < Math.abs((xs[best] as number) - at.x)) best = i
      go(lane, best)
    }
    const keys: Record<string, () => void> = {
      ArrowRight: () => (at ? go(at.lane, at.i + 1) : go(0, 0)),
      ArrowLeft: () => at && go(at.lane, at.i - 1),
      ArrowDown: () => (at ? nearest(at.lane + 1) : go(0, 0)),
      ArrowUp: () => at && nearest(at.lane - 1),
      '+': () => closer(0.5),
      '=': () => closer(0.5),
      '-': () => closer(2),
      Home: () => setWindow(whole),
    }
    const act = keys[e.key]
    if (!act || e.ctrlKey || e.metaKey || e.altKey) return
    e.preventDefault()
    e.stopPropagation()
    act()
  }
  const onWheel = useCallback(
    (e: WheelEvent, x: number, width: number) => {
      e.preventDefault()
      setWindow((w) =>
        e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)
          ? moved(w, ((e.deltaX || e.deltaY) / width) * (w.to - w.from))
          : zoomed(w, shareAt(x, w, width), 1.0015 ** e.deltaY, least),
      )
    },
    [least],
  )
  const span = laid.chart.seconds * (window.to - window.from)
  const gap = t.gaps[0]
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex flex-none flex-wrap items-center gap-x-4 gap-y-1 border-b border-line px-3 py-1.5 text-ink-2">
        <span className="flex items-center gap-1">
          <Button aria-label="Zoom in" className="px-1.5 py-1" onClick={() => closer(0.5)}>
            <Plus size={12} />
          </Button>
          <Button aria-label="Zoom out" className="px-1.5 py-1" onClick={() => closer(2)}>
            <Minus size={12} />
          </Button>
          <Button className="py-[3px]" onClick={() => setWindow(whole)}>
            All days
          </Button>
        </span>
        <span className="tabular-nums">{Math.round(span * 1000) >= 1000 ? `${lasting(span)} across` : `${Math.round(span * 1000)} ms across`}</span>
        <Trouble
          n={t.doubled.size}
          one="clip has timecode that its roll has twice"
          many="clips share timecode with another clip of their roll"
          first={[...t.doubled][0]}
          show={show}
        />
        <Trouble
          n={t.unheard.size}
          one="picture without sound, own or recorded"
          many="pictures without sound, own or recorded"
          first={[...t.unheard][0]}
          show={show}
        />
        {gap && gap.seconds > 600 && (
          <button type="button" className="hover:text-ink" onClick={() => show(gap.after)}>
            longest gap on a roll: {lasting(gap.seconds)} on {gap.lane}
          </button>
        )}
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        <Canvas
          height={rulerHeight + laid.lanes.length * rowHeight + 8}
          label={`Day chart: ${plural(laid.chart.clips.length, 'clip')} in ${plural(laid.lanes.length, 'lane')}; arrow keys choose, plus and minus zoom`}
          draw={(g, w, h, colour) => drawDayView(g, w, h, colour, laid, window, selected)}
          onKey={onKey}
          onWheel={onWheel}
          onPointer={(x, y, width, kind) => {
            if (kind === 'down') {
              drag.current = { x, window }
              const id = clipUnder(laid, window, x, y, width)
              if (id) onSelect(id)
            } else if (drag.current) {
              const d = drag.current
              setWindow(moved(d.window, ((d.x - x) / (width - 142)) * (d.window.to - d.window.from)))
            }
          }}
        />
      </div>
    </div>
  )
}

function Trouble({ n, one, many, first, show }: { n: number; one: string; many: string; first: string | undefined; show: (id: string) => void }) {
  if (n === 0 || !first) return null
  return (
    <button type="button" className="inline-flex items-center gap-1.5 hover:text-ink" onClick={() => show(first)}>
      <NoticeMark severity="warning" /> {number(n)} {n === 1 ? one : many}
    </button>
  )
}
