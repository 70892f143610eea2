/** Charts of quantities: ECharts in the colours of the theme that is on, as large as its element. */
import { type EChartsCoreOption, init } from 'echarts/core'
import { type RefObject, useEffect, useRef } from 'react'
import { useAppSelector } from '../state/index.ts'

/** What every chart looks like; `colour` gives a colour of the theme by its name. */
export interface Style {
  readonly colour: (name: string) => string
  readonly line: object
  readonly tooltip: object
}

/** Draws `option` into the element of the reference, anew whenever `shows` (all that the chart shows, as text) or the theme changes. */
export function useChart(shows: string, option: (style: Style) => EChartsCoreOption): RefObject<HTMLDivElement | null> {
  const box = useRef<HTMLDivElement>(null)
  const theme = useAppSelector((s) => s.face.theme)
  const latest = useRef(option)
  latest.current = option
  // biome-ignore lint/correctness/useExhaustiveDependencies: what it shows says when it is drawn anew
  useEffect(() => {
    const element = box.current
    if (!element) return
    element.dataset.theme = theme
    const style = getComputedStyle(element)
    const colour = (name: string) => style.getPropertyValue(`--${name}`).trim()
    const tooltip = {
      trigger: 'axis',
      confine: true,
      backgroundColor: colour('raised'),
      borderColor: colour('line'),
      textStyle: { color: colour('ink'), fontSize: 12 },
    }
    const chart = init(element, null, { renderer: 'svg' })
    chart.setOption({
      animation: false,
      textStyle: { fontFamily: style.fontFamily, fontSize: 12 },
      ...latest.current({ colour, line: { lineStyle: { color: colour('line') } }, tooltip }),
    })
    const sized = new ResizeObserver(() => chart.resize())
    sized.observe(element)
    return () => {
      sized.disconnect()
      chart.dispose()
    }
  }, [shows, theme])
  return box
}
