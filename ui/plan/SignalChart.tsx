'use client'
import { useComputedColorScheme } from '@mantine/core'
import { CandlestickChart, ScatterChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent } from 'echarts/components'
import { type EChartsCoreOption, init, use as registerParts } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { useEffect, useRef } from 'react'
import { type Bars } from '@/core/market/bars'
import { priceText } from '@/core/market/money'
import { type Past } from '@/core/engine/lookBack'
import { type Inks, inksOf } from '../look/inks'

registerParts([CandlestickChart, ScatterChart, GridComponent, MarkLineComponent, CanvasRenderer])

/** Bars that are drawn. */
const SHOWN = 70
const HEIGHT = 150

export interface Levels {
  entry?: number
  stop?: number
  target?: number
}

/** When it would be left by the time, so many bars after the last, and that in words. */
export interface Leaves {
  bars: number
  text: string
}

/** Bars after the last for which there is room. */
const AHEAD = 16

/** The last bars with where and when the order would be entered and left, and its past beginnings. */
export function SignalChart({
  bars,
  levels,
  leaves,
  pasts,
}: {
  bars: Bars
  levels: Levels
  leaves?: Leaves
  pasts: readonly Past[]
}) {
  const host = useRef<HTMLDivElement>(null)
  const scheme = useComputedColorScheme('light')
  const { entry, stop, target } = levels
  useEffect(() => {
    const chart = init(host.current!)
    chart.setOption(optionOf(bars, { entry, stop, target }, leaves, pasts, inksOf(host.current!)))
    const watch = new ResizeObserver(() => chart.resize())
    watch.observe(host.current!)
    return () => {
      watch.disconnect()
      chart.dispose()
    }
  }, [bars, entry, stop, target, leaves, pasts, scheme])
  const said = [
    entry !== undefined && `entry ${priceText(entry)}`,
    stop !== undefined && `stop ${priceText(stop)}`,
    target !== undefined && `target ${priceText(target)}`,
    leaves?.text,
  ].filter(Boolean)
  return (
    <div
      ref={host}
      role="img"
      aria-label={`The last bars${said.length > 0 ? ` with ${said.join(', ')}` : ''}`}
      style={{ height: HEIGHT, margin: '8px 0' }}
    />
  )
}

function optionOf(
  bars: Bars,
  levels: Levels,
  leaves: Leaves | undefined,
  pasts: readonly Past[],
  inks: Inks,
): EChartsCoreOption {
  const n = bars.time.length
  const from = Math.max(0, n - SHOWN)
  const rows = Array.from({ length: n - from }, (_, i) => from + i)
  const rowOf = new Map(rows.map((row, i) => [bars.end[row], i]))
  const lines = [
    [levels.entry, 'entry', inks.accent],
    [levels.stop, 'stop', inks.down],
    [levels.target, 'target', inks.up],
  ].flatMap(([at, name, color]) =>
    typeof at === 'number'
      ? [
          {
            yAxis: at,
            lineStyle: { color, type: 'solid' },
            label: { formatter: `${name} ${priceText(at)}`, color },
          },
        ]
      : [],
  )
  const ahead = leaves ? Math.min(leaves.bars, AHEAD) : 0
  const out = leaves && {
    xAxis: rows.length - 1 + ahead,
    lineStyle: { color: inks.soft, type: 'dashed' },
    // Further off than there is room for it stands at the edge, and says so.
    label: {
      formatter: `${leaves.text}${leaves.bars > AHEAD ? ' →' : ''}`,
      color: inks.soft,
      ...{ position: 'end', rotate: 0, align: 'right', fontSize: 10, distance: 4 },
    },
  }
  const prices = rows.flatMap((row) => [bars.low[row], bars.high[row]])
  const all = [...prices, ...lines.map(({ yAxis }) => yAxis)]
  const pad = (Math.max(...all) - Math.min(...all)) * 0.06 || 0.01
  const candles = { color: inks.up, color0: inks.down, borderColor: inks.up, borderColor0: inks.down }
  return {
    animation: false,
    grid: { left: 2, right: 74, top: leaves ? 16 : 4, bottom: 4 },
    xAxis: {
      type: 'category',
      show: false,
      data: [...rows, ...Array.from({ length: ahead }, (_, i) => n + i)],
    },
    yAxis: { type: 'value', show: false, min: Math.min(...all) - pad, max: Math.max(...all) + pad },
    series: [
      {
        type: 'candlestick',
        data: rows.map((row) => [bars.open[row], bars.close[row], bars.low[row], bars.high[row]]),
        itemStyle: candles,
        markLine: {
          silent: true,
          symbol: 'none',
          label: { position: 'end', fontSize: 10, distance: 4 },
          data: out ? [...lines, out] : lines,
        },
      },
      {
        type: 'scatter',
        symbol: 'circle',
        symbolSize: 7,
        data: pasts.flatMap(({ at, entry, was }) => {
          const i = rowOf.get(at)
          const color = was === 'target' ? inks.up : was === 'stop' ? inks.down : inks.accent
          return i === undefined ? [] : [{ value: [i, entry], itemStyle: { color } }]
        }),
      },
    ],
  }
}
