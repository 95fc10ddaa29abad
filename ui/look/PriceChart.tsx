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
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react'
import { type Bars } from '@/core/market/bars'
import { type Spot } from '@/core/market/dividers'
import { thinned } from '@/core/market/thin'
import { chartOption, type Drawn, SIDES, SMALL_SIDES } from './chartOption'
import { inksOf } from './inks'
import { writeNames } from './lineNames'
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
  /** What is drawn is taken hold of at a place, and let go; moves between are told as they come. */
  onHold?(spot: Spot, at: Pixels): boolean
  onMove?(spot: Spot): void
  onDrop?(): void
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
  onHold,
  onMove,
  onDrop,
  small,
  onPicture,
}: Props) {
  const host = useRef<HTMLDivElement>(null)
  const chart = useRef<ECharts>(undefined)
  const scheme = useComputedColorScheme('light')
  const [size, setSize] = useState('')
  const n = bars.time.length
  const shown = useMemo(() => thinned(bars, view.from, view.to, MOST), [bars, view])
  const now = useRef<Now>({
    onPoint,
    onSpot,
    onHold,
    onMove,
    onDrop,
    setView,
    view,
    n,
    marking,
    shown,
    small,
  })
  useEffect(() => {
    now.current = { onPoint, onSpot, onHold, onMove, onDrop, setView, view, n, marking, shown, small }
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
    const watch = new ResizeObserver(() => {
      made.resize()
      setSize(`${made.getWidth()} ${made.getHeight()}`)
    })
    watch.observe(host.current!)
    return () => {
      stop()
      watch.disconnect()
      made.dispose()
    }
    // oxlint-disable-next-line react/exhaustive-deps -- the chart is made once
  }, [])

  useEffect(() => {
    if (!chart.current) return
    const { option, names } = chartOption(shown, bars, drawn, inksOf(host.current!), small ?? false)
    chart.current.setOption(option, true)
    return writeNames(chart.current, names)
  }, [shown, bars, drawn, scheme, small, size])

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

/** Pixels of a row and a price, and where the mouse is. */
export interface Pixels {
  x: number
  y: number
  of(row: number, price: number): { x: number; y: number }
}

interface Now extends Pick<Props, 'onPoint' | 'onSpot' | 'onHold' | 'onMove' | 'onDrop' | 'small'> {
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
  let holds = false
  const sides = () => (now.current.small ? SMALL_SIDES : SIDES)
  const width = () => Math.max(1, made.getWidth() - sides().left - sides().right)
  const spotAt = (x: number, y: number): Spot | undefined => {
    const at = made.convertFromPixel({ gridIndex: 0 }, [x, y])
    if (!at) return undefined
    const { from, step } = now.current.shown
    return { row: Math.max(0, Math.min(now.current.n - 1, from + Math.round(at[0]) * step)), price: at[1] }
  }
  const pixels = (x: number, y: number): Pixels => ({
    x,
    y,
    of(row, price) {
      const { from, step } = now.current.shown
      const [px, py] = made.convertToPixel({ gridIndex: 0 }, [(row - from) / step, price])
      return { x: px, y: py }
    },
  })
  canvas.on('mousedown', (event) => {
    if (now.current.marking) return
    const { offsetX: x, offsetY: y } = event
    const inside = made.containPixel({ gridIndex: 0 }, [x, y])
    const spot = inside ? spotAt(x, y) : undefined
    holds = spot !== undefined && now.current.onHold?.(spot, pixels(x, y)) === true
    if (!holds) grip = { x, view: now.current.view }
  })
  canvas.on('mousemove', (event) => {
    if (holds) {
      const spot = spotAt(event.offsetX, event.offsetY)
      if (spot) now.current.onMove?.(spot)
      return
    }
    if (!grip) return
    const { from, to } = grip.view
    const by = Math.round(((grip.x - event.offsetX) * (to - from)) / width())
    now.current.setView(clampView({ from: from + by, to: to + by }, now.current.n))
  })
  const drop = () => {
    if (holds) now.current.onDrop?.()
    holds = false
    grip = undefined
  }
  canvas.on('mouseup', drop)
  canvas.on('globalout', drop)
  canvas.on('click', (event) => {
    if (!now.current.marking) return
    const spot = spotAt(event.offsetX, event.offsetY)
    if (spot) now.current.onSpot?.(spot)
  })
  canvas.on('mousewheel', (event) => {
    event.event.preventDefault()
    const { from, to } = now.current.view
    const pointer = from + (to - from) * Math.min(1, Math.max(0, (event.offsetX - sides().left) / width()))
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
