/** How many streams play at once against the size of their pictures, a bar for each spec; patterns tell them apart, and a table says the same. */
import type { TrialSpec } from '@naranja/contract'
import { BarChart } from 'echarts/charts'
import { AriaComponent, GridComponent, LegendComponent, TooltipComponent } from 'echarts/components'
import { init, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useEffect, useRef } from 'react'
import { useAppSelector } from '../app/store.ts'

use([BarChart, GridComponent, LegendComponent, TooltipComponent, AriaComponent, SVGRenderer])

const paints = ['ink-2', 'ink-3', 'bar'] as const

export function AnglesChart({ specs }: { specs: readonly TrialSpec[] }) {
  const box = useRef<HTMLDivElement>(null)
  const theme = useAppSelector((s) => s.face.theme)
  const heights = [...new Set(specs.flatMap((s) => s.sizes.map((z) => z.height)))].sort((a, b) => b - a)
  const table = JSON.stringify([specs.map((s) => [s.name, s.sizes]), heights])
  // biome-ignore lint/correctness/useExhaustiveDependencies: what it shows is in the table
  useEffect(() => {
    const element = box.current
    if (!element) return
    element.dataset.theme = theme
    const style = getComputedStyle(element)
    const colour = (name: string) => style.getPropertyValue(`--${name}`).trim()
    const chart = init(element, null, { renderer: 'svg' })
    chart.setOption({
      animation: false,
      // Its words are its own.
      aria: { enabled: true, label: { enabled: false }, decal: { show: true } },
      textStyle: { fontFamily: style.fontFamily, fontSize: 12 },
      grid: { left: 8, right: 8, top: 30, bottom: 4, containLabel: true },
      legend: { top: 0, right: 0, itemWidth: 18, itemHeight: 12, textStyle: { color: colour('ink-2') } },
      xAxis: {
        type: 'category',
        data: heights.map((h) => `${h} high`),
        axisLine: { lineStyle: { color: colour('line') } },
        axisTick: { show: false },
        axisLabel: { color: colour('ink-2') },
      },
      yAxis: { type: 'value', minInterval: 1, splitNumber: 4, splitLine: { lineStyle: { color: colour('line') } }, axisLabel: { color: colour('ink-3') } },
      tooltip: {
        trigger: 'axis',
        axisPointer: { type: 'none' },
        confine: true,
        backgroundColor: colour('raised'),
        borderColor: colour('line'),
        textStyle: { color: colour('ink'), fontSize: 12 },
        valueFormatter: (v: unknown) => `${v} at once`,
      },
      series: specs.map((s, i) => ({
        type: 'bar',
        name: s.name,
        barMaxWidth: 30,
        itemStyle: { color: colour(paints[i] ?? 'ink-2') },
        label: { show: true, position: 'top', color: colour('ink-2') },
        data: heights.map((h) => s.sizes.find((z) => z.height === h)?.angles ?? null),
      })),
    })
    const sized = new ResizeObserver(() => chart.resize())
    sized.observe(element)
    return () => {
      sized.disconnect()
      chart.dispose()
    }
  }, [table, theme])
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
