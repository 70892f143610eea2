/** What each kind takes on each volume, as bars; patterns tell the kinds apart, and the table beside it says the same. */
import type { SpaceKind, SpaceRow } from '@naranja/contract'
import { BarChart } from 'echarts/charts'
import { AriaComponent, GridComponent, LegendComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { bytes } from '../ui/index.ts'
import { useChart } from './useChart.ts'

use([BarChart, GridComponent, LegendComponent, TooltipComponent, AriaComponent, SVGRenderer])

const kinds: readonly (readonly [SpaceKind, string, string])[] = [
  ['originals', 'Originals', 'ink-2'],
  ['intermediates', 'Intermediates', 'bar-2'],
  ['proxies', 'Proxies', 'ink-3'],
  ['pulls', 'Pulls', 'bar'],
  ['masters', 'Masters', 'ink'],
]

export function SpaceChart({ volumes }: { volumes: readonly SpaceRow[] }) {
  const height = 70 + volumes.length * 44
  const rows = [...volumes].reverse()
  const there = kinds.filter(([kind]) => volumes.some((v) => v.kinds.some((k) => k.kind === kind)))
  const box = useChart(JSON.stringify(volumes), ({ colour, line, tooltip }) => ({
    aria: { enabled: true, label: { enabled: false }, decal: { show: true } },
    grid: { left: 8, right: 24, top: 34, bottom: 4, containLabel: true },
    legend: { top: 0, left: 0, itemWidth: 18, itemHeight: 12, textStyle: { color: colour('ink-2') } },
    xAxis: {
      type: 'value',
      splitNumber: 4,
      splitLine: line,
      axisLabel: { color: colour('ink-3'), formatter: (v: number) => bytes(v), hideOverlap: true },
    },
    yAxis: { type: 'category', data: rows.map((v) => v.volume), axisLine: line, axisTick: { show: false }, axisLabel: { color: colour('ink-2') } },
    tooltip: { ...tooltip, axisPointer: { type: 'none' }, valueFormatter: (v: unknown) => bytes(Number(v)) },
    series: there.map(([kind, name, tone]) => ({
      type: 'bar',
      name,
      stack: 'all',
      barMaxWidth: 22,
      itemStyle: { color: colour(tone), borderColor: colour('page'), borderWidth: 1 },
      data: rows.map((v) => v.kinds.find((k) => k.kind === kind)?.bytes ?? 0),
    })),
  }))
  return (
    <div ref={box} role="img" aria-label="What each kind takes on each volume; the table below says the same" style={{ height }} className="w-full flex-none" />
  )
}
