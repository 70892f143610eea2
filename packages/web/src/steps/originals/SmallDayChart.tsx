/** The day chart above the list: where the clips lie, and the one that is looked at. */
import type { LaneClip } from '@naranja/contract'
import { useMemo } from 'react'
import { Canvas, clipAt, dayHeight, drawDays, layDays } from '../../charts/index.ts'
import { plural } from '../../ui/index.ts'

/** Pixels at the left where lanes are named. */
const left = 118

export function SmallDayChart({ lanes, selected, onSelect }: { lanes: readonly LaneClip[]; selected: string | null; onSelect: (id: string) => void }) {
  const chart = useMemo(() => layDays(lanes), [lanes])
  const clips = useMemo(() => new Map(lanes.map((l) => [l.id, l])), [lanes])
  return (
    <div tabIndex={0} role="region" aria-label="Day chart" className="max-h-[118px] flex-none overflow-auto border-b border-line outline-offset-[-2px]">
      <Canvas
        height={dayHeight(chart)}
        label={`Day chart: ${plural(chart.clips.length, 'clip')} in ${plural(chart.lanes.length, 'lane')}`}
        draw={(g, w, _h, colour) => drawDays(g, 0, w, colour, { chart, clips, uses: [], selected, left, wanted: [], eventId: null })}
        onPointer={(x, y, w) => {
          const id = clipAt({ chart, wanted: [], left }, 0, x, y, w)
          if (id) onSelect(id)
        }}
      />
    </div>
  )
}
