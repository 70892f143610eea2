/** How alike every event's pictures are to the edit's own, along the whole cut; the least alike first below. */
import type { CutDetail, EventShape, Measured } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { ScatterChart } from 'echarts/charts'
import { AriaComponent, GridComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useMemo } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { useChart } from '../../charts/index.ts'
import { Button, type Column, NoticeMark, perCent, plural, RowList } from '../../ui/index.ts'
import { hasPictures } from '../cutlists/index.ts'

use([ScatterChart, GridComponent, TooltipComponent, AriaComponent, SVGRenderer])

interface MeasuredEvent {
  readonly event: EventShape
  readonly measured: Measured
  readonly worst: number
  /** Where it is shifted, by how many frames. */
  readonly offset: number
}

const rowsOf = (cut: CutDetail, list: readonly Measured[]): MeasuredEvent[] => {
  const events = new Map(cut.events.map((e) => [e.id, e]))
  return list.flatMap((measured) => {
    const event = events.get(measured.eventId)
    const worst = measured.points.reduce((a, p) => Math.min(a, p.likeness), 1)
    return event ? [{ event, measured, worst, offset: measured.points.find((p) => p.offset !== 0)?.offset ?? 0 }] : []
  })
}
const shiftOf = (n: number): string => `${n > 0 ? '+' : '−'}${Math.abs(n)}`
const pointText = (m: Measured, at: Measured['points'][number]['at']): string => {
  const p = m.points.find((x) => x.at === at)
  return p ? `${perCent(p.likeness)}${p.offset ? ` ${shiftOf(p.offset)}` : p.still ? ' still' : ''}` : ''
}

interface Props {
  cut: CutDetail
  selected: string | null
  onSelect: (e: EventShape) => void
}

export function LikenessView({ cut, selected, onSelect }: Props) {
  const projectId = useProjectId()
  const { data } = api.useMeasuredCutQuery(cut.id)
  const [start, { isLoading }] = api.useStartMeasureMutation()
  const act = useAct()
  const rows = useMemo(() => rowsOf(cut, data?.events ?? []), [cut, data])
  const sorted = useMemo(() => [...rows].sort((a, b) => a.worst - b.worst), [rows])
  const shifted = rows.filter((r) => r.offset !== 0).length
  const stale = rows.filter((r) => r.measured.stale).length
  const columns = useMemo(
    (): Column<MeasuredEvent>[] => [
      { head: 'Event', width: '78px', look: 'mono', cell: (r) => `${r.event.track} ${r.event.number}` },
      { head: 'Record in', width: '92px', look: 'mono text-ink-2', cell: (r) => formatFrames(r.event.recordIn, cut.rate, cut.drop) },
      {
        head: 'Name',
        width: 'minmax(150px,1fr)',
        look: 'mono',
        cell: (r) => <span title={r.event.clipName ?? undefined}>{r.event.clipName ?? r.event.reel}</span>,
      },
      { head: 'Least alike', width: '84px', look: 'mono text-right', cell: (r) => perCent(r.worst) },
      { head: 'First', width: '96px', look: 'mono text-ink-2', cell: (r) => pointText(r.measured, 'first') },
      { head: 'Middle', width: '96px', look: 'mono text-ink-2', cell: (r) => pointText(r.measured, 'middle') },
      { head: 'Last', width: '96px', look: 'mono text-ink-2', cell: (r) => pointText(r.measured, 'last') },
      {
        head: '',
        width: 'minmax(200px,1fr)',
        look: 'text-ink-2',
        cell: (r) =>
          r.measured.stale ? (
            'tied to another frame since: measure again'
          ) : r.offset !== 0 ? (
            <span className="flex items-center gap-1.5">
              <NoticeMark severity="warning" /> likelier {plural(Math.abs(r.offset), 'frame')} {r.offset > 0 ? 'later' : 'earlier'}
            </span>
          ) : (
            ''
          ),
      },
    ],
    [cut],
  )
  const measure = (
    <Button
      main={!data?.measured}
      disabled={isLoading || !hasPictures(cut) || !data?.could}
      onClick={() => void act(start(cut.id), (s) => s.message, projectId)}
    >
      {data?.measured ? 'Measure again' : 'Measure the cut'}
    </Button>
  )
  return (
    <div className="flex h-[400px] min-h-0 flex-col">
      <div className="flex flex-none items-center gap-3 border-b border-line px-3 py-1.5">
        <span className="text-ink-2">
          {!hasPictures(cut)
            ? "Needs the edit's own pictures: choose its reference movie or its light copies in Cut lists."
            : !data?.measured
              ? `${plural(data?.could ?? 0, 'event')} can be compared with the edit's own pictures, at first, middle and last frame.`
              : `${plural(rows.length, 'event')} measured${shifted ? `; ${plural(shifted, 'is', 'are')} shifted` : ', none shifted'}${stale ? `; ${stale} tied otherwise since` : ''}${data.could > rows.length ? `; ${data.could - rows.length} not measured` : ''}`}
        </span>
        <span className="ml-auto">{measure}</span>
      </div>
      {rows.length > 0 && (
        <>
          <Along cut={cut} rows={rows} onSelect={onSelect} />
          <RowList
            label="Likeness of events"
            keys="Events by likeness, arrow keys choose"
            rows={sorted}
            id={(r) => r.event.id}
            columns={columns}
            selected={selected}
            onSelect={(r) => onSelect(r.event)}
          />
        </>
      )}
    </div>
  )
}

/** A point for each event, by its place in the cut; shifted ones are triangles. The table below says the same. */
function Along({ cut, rows, onSelect }: { cut: CutDetail; rows: readonly MeasuredEvent[]; onSelect: (e: EventShape) => void }) {
  const least = rows.reduce((a, r) => Math.min(a, r.worst), 1)
  const box = useChart(JSON.stringify(rows.map((r) => [r.event.id, r.worst, r.offset])), ({ colour, line, tooltip }) => ({
    grid: { left: 62, right: 14, top: 8, bottom: 22 },
    xAxis: {
      type: 'value',
      min: 0,
      max: cut.length,
      axisLine: line,
      splitLine: { show: false },
      axisLabel: { color: colour('ink-3'), hideOverlap: true, formatter: (f: number) => formatFrames(cut.start + f, cut.rate, cut.drop) },
    },
    yAxis: {
      type: 'value',
      min: Math.max(0, Math.floor(least * 10) / 10 - 0.1),
      max: 1,
      splitNumber: 3,
      splitLine: line,
      axisLabel: { color: colour('ink-3'), formatter: (v: number) => perCent(v) },
    },
    tooltip: {
      ...tooltip,
      trigger: 'item',
      formatter: (p: unknown) => {
        const row = rows[(p as { dataIndex: number }).dataIndex]
        return row ? `${row.event.track} ${row.event.number}: ${perCent(row.worst)}${row.offset ? `, likelier ${shiftOf(row.offset)}` : ''}` : ''
      },
    },
    series: [
      {
        type: 'scatter',
        data: rows.map((r) => ({
          value: [(r.event.recordIn + r.event.recordOut) / 2 - cut.start, r.worst],
          symbol: r.offset ? 'triangle' : 'circle',
          symbolSize: r.offset ? 11 : 7,
          itemStyle: { color: colour(r.offset ? 'lemon' : r.worst < 0.8 ? 'pomegranate' : 'leaf') },
        })),
      },
    ],
  }))
  return (
    <div
      ref={box}
      role="img"
      aria-label={`Likeness along the cut: ${plural(rows.length, 'event')}, the least alike ${perCent(least)}`}
      className="h-[130px] w-full flex-none border-b border-line"
      onClick={(e) => {
        const area = e.currentTarget.getBoundingClientRect()
        const at = ((e.clientX - area.left - 62) / (area.width - 76)) * cut.length
        const nearest = rows.reduce<MeasuredEvent | null>((best, r) => {
          const off = (x: MeasuredEvent) => Math.abs((x.event.recordIn + x.event.recordOut) / 2 - cut.start - at)
          return best && off(best) <= off(r) ? best : r
        }, null)
        if (nearest) onSelect(nearest.event)
      }}
    />
  )
}
