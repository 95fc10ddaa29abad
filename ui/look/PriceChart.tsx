'use client'
import { useComputedColorScheme } from '@mantine/core'
import { BarChart, CandlestickChart, LineChart, ScatterChart } from 'echarts/charts'
import {
  AxisPointerComponent,
  GridComponent,
  MarkAreaComponent,
  MarkLineComponent,
  TooltipComponent,
} from 'echarts/components'
import { type ECharts, init, use as registerParts } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { type KeyboardEvent, useEffect, useMemo, useRef } from 'react'
import { type Bars } from '@/core/market/bars'
import { type Spot } from '@/core/market/dividers'
import { thinned } from '@/core/market/thin'
import { chartOption, type Drawn, type Inks } from './chartOption'
import css from './Look.module.css'
import { clampView, type View } from './view'

registerParts([
  CandlestickChart,
  LineChart,
  BarChart,
  ScatterChart,
  GridComponent,
  TooltipComponent,
  AxisPointerComponent,
  MarkLineComponent,
  MarkAreaComponent,
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

/** More candles than this are not told apart on a screen: several are drawn as one. */
const MOST = 900

interface Props {
  bars: Bars
  drawn: Drawn
  view: View
  setView(view: View): void
  onPoint(row: number | undefined): void
  /** A place was chosen with the mouse. */
  onSpot?(spot: Spot): void
  /** The mouse marks places instead of moving the chart. */
  marking?: boolean
  small?: boolean
  /** Told the chart's own means of making a picture of itself. */
  onPicture?(picture: () => string): void
}

/**
 * Candles and what is drawn on them. Only the bars in view are handed to the canvas, thinned where there are too
 * many, so that it moves as smoothly over 200,000 bars as over 200. Drag or arrow keys move, wheel or +/- zoom.
 */
export function PriceChart({
  bars,
  drawn,
  view,
  setView,
  onPoint,
  onSpot,
  marking,
  small,
  onPicture,
}: Props) {
  const host = useRef<HTMLDivElement>(null)
  const chart = useRef<ECharts>(undefined)
  const scheme = useComputedColorScheme('light')
  const n = bars.time.length
  const shown = useMemo(() => thinned(bars, view.from, view.to, MOST), [bars, view])
  const now = useRef({ onPoint, onSpot, setView, view, n, marking, shown })
  useEffect(() => {
    now.current = { onPoint, onSpot, setView, view, n, marking, shown }
  })

  useEffect(() => {
    const made = init(host.current!)
    chart.current = made
    onPicture?.(() =>
      made.getDataURL({ type: 'png', pixelRatio: 2, backgroundColor: inksOf(host.current!).paper }),
    )
    made.on('updateAxisPointer', (event) => {
      const place = (event as { axesInfo?: { axisDim: string; value: number }[] }).axesInfo?.find(
        (axis) => axis.axisDim === 'x',
      )?.value
      const { from, step } = now.current.shown
      now.current.onPoint(place === undefined ? undefined : Math.min(now.current.n - 1, from + place * step))
    })
    const stop = listen(made, now)
    const watch = new ResizeObserver(() => made.resize())
    watch.observe(host.current!)
    return () => {
      stop()
      watch.disconnect()
      made.dispose()
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the chart is made once
  }, [])

  useEffect(() => {
    chart.current?.setOption(chartOption(shown, bars, drawn, inksOf(host.current!), small ?? false), true)
  }, [shown, bars, drawn, scheme, small])

  const onKeyDown = (event: KeyboardEvent) => {
    const { from, to } = view
    const width = to - from
    const fifth = Math.max(1, Math.round(width / 5))
    const next = {
      ArrowLeft: { from: from - fifth, to: to - fifth },
      ArrowRight: { from: from + fifth, to: to + fifth },
      '+': { from: from + fifth, to },
      '-': { from: from - fifth, to },
      Home: { from: 0, to: width },
      End: { from: n - width, to: n },
    }[event.key]
    if (!next) return
    event.preventDefault()
    setView(clampView(next, n))
  }
  const each = shown.step > 1 ? ` Each candle stands for ${shown.step} bars.` : ''
  return (
    <div
      ref={host}
      className={small ? css.smallChart : css.chart}
      data-marking={marking || undefined}
      role="img"
      tabIndex={0}
      onKeyDown={onKeyDown}
      aria-label={`Chart of ${n} bars, last close ${bars.close[n - 1]}; the rule came true ${drawn.hits.length} times.${each} Arrow keys move, plus and minus zoom.`}
    />
  )
}

interface Now {
  onSpot?(spot: Spot): void
  setView(view: View): void
  view: View
  n: number
  marking?: boolean
  shown: { from: number; step: number }
}

/** Mouse and touch on the canvas: dragging moves, the wheel zooms about the pointer, a click marks a place. */
function listen(made: ECharts, now: { current: Now }): () => void {
  const canvas = made.getZr()
  let grip: { x: number; view: View } | undefined
  const width = () => Math.max(1, made.getWidth() - 70)
  canvas.on('mousedown', (event) => {
    if (!now.current.marking) grip = { x: event.offsetX, view: now.current.view }
  })
  canvas.on('mousemove', (event) => {
    if (!grip) return
    const { from, to } = grip.view
    const by = Math.round(((grip.x - event.offsetX) * (to - from)) / width())
    now.current.setView(clampView({ from: from + by, to: to + by }, now.current.n))
  })
  const drop = () => (grip = undefined)
  canvas.on('mouseup', drop)
  canvas.on('globalout', drop)
  canvas.on('click', (event) => {
    if (!now.current.marking) return
    const at = made.convertFromPixel({ gridIndex: 0 }, [event.offsetX, event.offsetY])
    if (!at) return
    const { from, step } = now.current.shown
    const row = Math.max(0, Math.min(now.current.n - 1, from + Math.round(at[0]) * step))
    now.current.onSpot?.({ row, price: at[1] })
  })
  canvas.on('mousewheel', (event) => {
    event.event.preventDefault()
    const { from, to } = now.current.view
    const pointer = from + (to - from) * Math.min(1, Math.max(0, (event.offsetX - 8) / width()))
    const factor = event.wheelDelta > 0 ? 0.85 : 1.18
    now.current.setView(
      clampView(
        {
          from: Math.round(pointer - (pointer - from) * factor),
          to: Math.round(pointer + (to - pointer) * factor),
        },
        now.current.n,
      ),
    )
  })
  return drop
}
