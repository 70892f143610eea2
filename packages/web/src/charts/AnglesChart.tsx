/** How many streams play at once against the size of their pictures, a bar for each spec; patterns tell them apart, and a table says the same. */
import type { TrialSpec } from '@naranja/contract'
import { BarChart } from 'echarts/charts'
import { AriaComponent, GridComponent, LegendComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useChart } from './useChart.ts'

use([BarChart, GridComponent, LegendComponent, TooltipComponent, AriaComponent, SVGRenderer])

const paints = ['ink-2', 'ink-3', 'bar'] as const

export function AnglesChart({ specs }: { specs: readonly TrialSpec[] }) {
  const heights = [...new Set(specs.flatMap((s) => s.sizes.map((z) => z.height)))].sort((a, b) => b - a)
  const box = useChart(JSON.stringify([specs.map((s) => [s.name, s.sizes]), heights]), ({ colour, line, tooltip }) => ({
    // Its words are its own.
    aria: { enabled: true, label: { enabled: false }, decal: { show: true } },
    grid: { left: 8, right: 8, top: 30, bottom: 4, containLabel: true },
    legend: { top: 0, right: 0, itemWidth: 18, itemHeight: 12, textStyle: { color: colour('ink-2') } },
    xAxis: { type: 'category', data: heights.map((h) => `${h} high`), axisLine: line, axisTick: { show: false }, axisLabel: { color: colour('ink-2') } },
    yAxis: { type: 'value', minInterval: 1, splitNumber: 4, splitLine: line, axisLabel: { color: colour('ink-3') } },
    tooltip: { ...tooltip, axisPointer: { type: 'none' }, valueFormatter: (v: unknown) => `${v} at once` },
    series: specs.map((s, i) => ({
      type: 'bar',
      name: s.name,
      barMaxWidth: 30,
      itemStyle: { color: colour(paints[i] ?? 'ink-2') },
      label: { show: true, position: 'top', color: colour('ink-2') },
      data: heights.map((h) => s.sizes.find((z) => z.height === h)?.angles ?? null),
    })),
  }))
  return (
    <>
      <div ref={box} role="img" aria-label="Streams that play at once, against the height of the picture" className="h-[190px] w-full" />
      <table className="sr-only">
        <caption>Streams that play at once, against the height of the picture</caption>
        <thead>
          <tr>
            <th>Height</th>
            {specs.map((s) => (
              <th key={s.spec}>{s.name}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {heights.map((h) => (
            <tr key={h}>
              <td>{h}</td>
              {specs.map((s) => (
                <td key={s.spec}>{s.sizes.find((z) => z.height === h)?.angles ?? '–'}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}
