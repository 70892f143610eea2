/** A chart of a quantity along a clip: one line over time, with its unit, its mean and its peak in words for those who do not see it. */
import { LineChart } from 'echarts/charts'
import { AriaComponent, GridComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useChart } from './useChart.ts'

use([LineChart, GridComponent, TooltipComponent, AriaComponent, SVGRenderer])

interface Props {
  /** A value for each second. */
  values: readonly number[]
  label: string
  /** A value with its unit. */
  text: (value: number) => string
  height?: number
}

export function Quantity({ values, label, text, height = 96 }: Props) {
  const box = useChart(JSON.stringify(values), ({ colour, line, tooltip }) => ({
    grid: { left: 62, right: 8, top: 8, bottom: 20 },
    xAxis: {
      type: 'category',
      data: values.map((_, s) => s),
      axisLine: line,
      axisTick: { show: false },
      axisLabel: { color: colour('ink-3'), formatter: (s: string) => `${s} s`, hideOverlap: true },
    },
    yAxis: { type: 'value', min: 0, splitNumber: 2, splitLine: line, axisLabel: { color: colour('ink-3'), formatter: (v: number) => text(v) } },
    tooltip: {
      ...tooltip,
      formatter: (p: unknown) => {
        const [one] = p as { dataIndex: number; value: number }[]
        return one ? `second ${one.dataIndex}: ${text(one.value)}` : ''
      },
    },
    series: [
      {
        type: 'line',
        step: 'middle',
        symbol: 'none',
        data: [...values],
        lineStyle: { color: colour('ink-2'), width: 1.5 },
        areaStyle: { color: colour('ink-3'), opacity: 0.18 },
      },
    ],
  }))
  const mean = values.reduce((a, b) => a + b, 0) / Math.max(1, values.length)
  return (
    <div
      ref={box}
      role="img"
      aria-label={`${label}: ${text(mean)} on average, ${text(Math.max(0, ...values))} at most`}
      style={{ height }}
      className="w-full"
    />
  )
}
