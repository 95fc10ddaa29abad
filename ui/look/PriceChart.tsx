'use client'
import { BarChart, CandlestickChart, LineChart, ScatterChart } from 'echarts/charts'
import {
  AxisPointerComponent,
  DataZoomComponent,
  GridComponent,
  MarkLineComponent,
  TooltipComponent,
} from 'echarts/components'
import { type ECharts, init, use as registerParts } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { type KeyboardEvent, useEffect, useRef, useState } from 'react'
import { useComputedColorScheme } from '@mantine/core'
import { type Bars } from '@/core/market/bars'
import { chartOption, type Inks, type Line, type PriceLevel } from './chartOption'
import css from './Look.module.css'

registerParts([
  CandlestickChart,
  LineChart,
  BarChart,
  ScatterChart,
  GridComponent,
  TooltipComponent,
  AxisPointerComponent,
  DataZoomComponent,
  MarkLineComponent,
  CanvasRenderer,
])

/** Colours as they stand in the style sheet, for a canvas that knows no variables. */
export function inksOf(element: HTMLElement): Inks {
  const style = getComputedStyle(element)
  const get = (name: string) => style.getPropertyValue(`--${name}`).trim()
  return {
    ink: get('ink'),
    soft: get('ink-soft'),
    line: get('line'),
    paper: get('paper'),
    up: get('up'),
    down: get('down'),
    accent: get('accent'),
    value: get('value'),
    amber: get('amber'),
  }
}

interface Props {
  bars: Bars
  lines: readonly Line[]
  hits: readonly number[]
  levels: readonly PriceLevel[]
  /** Row to bring to the middle; a new object each time it is asked for. */
  show?: { row: number }
  onPoint(row: number | undefined): void
}

/** Bars in view when a chart opens. */
const FIRST_VIEW = 130

export function PriceChart({ bars, lines, hits, levels, show, onPoint }: Props) {
  const host = useRef<HTMLDivElement>(null)
  const chart = useRef<ECharts>(undefined)
  const scheme = useComputedColorScheme('light')
  const n = bars.time.length
  const [zoom, setZoom] = useState({ start: Math.max(0, 100 - (100 * FIRST_VIEW) / n), end: 100 })
  const point = useRef(onPoint)
  useEffect(() => {
    point.current = onPoint
  })

  useEffect(() => {
    const made = init(host.current!)
    chart.current = made
    made.on('updateAxisPointer', (event) => {
      const row = (event as { axesInfo?: { axisDim: string; value: number }[] }).axesInfo?.find(
        (axis) => axis.axisDim === 'x',
      )?.value
      point.current(row)
    })
    made.on('dataZoom', () => {
      const { start, end } = (made.getOption().dataZoom as { start: number; end: number }[])[0]
      setZoom({ start, end })
    })
    const watch = new ResizeObserver(() => made.resize())
    watch.observe(host.current!)
    return () => {
      watch.disconnect()
      made.dispose()
    }
  }, [])

  useEffect(() => {
    // The zoom is the chart's own while it lives: told to it at first, read back from it after.
    const before = chart.current?.getOption()?.dataZoom as { start: number; end: number }[] | undefined
    chart.current?.setOption(
      chartOption(
        bars,
        lines,
        hits,
        levels,
        inksOf(host.current!),
        before?.[0] ?? { start: Math.max(0, 100 - (100 * FIRST_VIEW) / bars.time.length), end: 100 },
      ),
      true,
    )
  }, [bars, lines, hits, levels, scheme])

  const go = (start: number, end: number) => {
    const width = Math.min(100, Math.max((100 * 15) / n, end - start))
    const from = Math.min(100 - width, Math.max(0, start))
    chart.current?.dispatchAction({ type: 'dataZoom', start: from, end: from + width })
  }

  useEffect(() => {
    if (!show) return
    const middle = (100 * show.row) / n
    const half = (100 * 50) / n
    chart.current?.dispatchAction({
      type: 'dataZoom',
      start: Math.max(0, middle - half),
      end: Math.min(100, middle + half),
    })
  }, [show, n])

  const onKeyDown = (event: KeyboardEvent) => {
    const { start, end } = zoom
    const width = end - start
    const to = {
      ArrowLeft: [start - width / 5, end - width / 5],
      ArrowRight: [start + width / 5, end + width / 5],
      '+': [start + width / 6, end - width / 6],
      '-': [start - width / 4, end + width / 4],
      Home: [0, width],
      End: [100 - width, 100],
    }[event.key]
    if (!to) return
    event.preventDefault()
    go(to[0], to[1])
  }
  const last = n - 1
  return (
    <div
      ref={host}
      className={css.chart}
      role="img"
      tabIndex={0}
      onKeyDown={onKeyDown}
      aria-label={`Chart of ${n} bars, last close ${bars.close[last]}; the rule came true ${hits.length} times. Arrow keys move, plus and minus zoom.`}
    />
  )
}
