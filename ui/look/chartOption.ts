import { type EChartsCoreOption } from 'echarts/core'
import { DateTime } from 'luxon'
import { type Bars } from '@/core/market/bars'
import { isIntraday } from '@/core/market/timeframe'
import { type Unit } from '@/core/indicators/types'

export type LineInk = 'accent' | 'ink' | 'value' | 'amber'

/** A measure as a line: over the price where it is a price, in a panel of its own unit else. */
export interface Line {
  text: string
  unit: Unit
  values: Float64Array
  /** Stroke as it is drawn and told in words. */
  dash: 'solid' | 'dashed' | 'dotted'
  /** Name of its ink: the colour itself differs by day and night. */
  color: LineInk
}

/** A horizontal level of a position: stop, target, average price. */
export interface PriceLevel {
  name: string
  price: number
}

export interface Inks {
  ink: string
  soft: string
  line: string
  paper: string
  up: string
  down: string
  accent: string
  value: string
  amber: string
}

/** Where a bar stands on the axis, in words of the venue's zone. */
export function barLabel(bars: Bars, row: number): string {
  const local = DateTime.fromMillis(bars.time[row], { zone: bars.zone }).setLocale('en')
  return isIntraday(bars.every) ? local.toFormat('ccc d LLL HH:mm') : local.toFormat('ccc d LLL yyyy')
}

const known = (value: number) => (Number.isFinite(value) ? value : '-')

/** Panels under the price: volume always, then one for each other unit among the lines. */
function panelsOf(lines: readonly Line[]): { unit: Unit; lines: Line[] }[] {
  const panels: { unit: Unit; lines: Line[] }[] = [
    { unit: 'shares', lines: lines.filter((l) => l.unit === 'shares') },
  ]
  for (const unit of ['number', 'percent', 'money', 'ticks'] as const) {
    const own = lines.filter((l) => l.unit === unit)
    if (own.length > 0) panels.push({ unit, lines: own })
  }
  return panels
}

/** The whole chart: candles with lines, hits and levels; volume and other panels beneath; one shared zoom. */
export function chartOption(
  bars: Bars,
  lines: readonly Line[],
  hits: readonly number[],
  levels: readonly PriceLevel[],
  inks: Inks,
  zoom: { start: number; end: number },
): EChartsCoreOption {
  const n = bars.time.length
  const labels = Array.from({ length: n }, (_, i) => barLabel(bars, i))
  const panels = panelsOf(lines)
  const share = panels.length === 1 ? 17 : panels.length === 2 ? 15 : 12
  const priceHeight = 90 - panels.length * (share + 3)
  const grids = [
    { left: 8, right: 62, top: 8, height: `${priceHeight}%` },
    ...panels.map((_, i) => ({
      left: 8,
      right: 62,
      top: `${priceHeight + 4 + i * (share + 3)}%`,
      height: `${share}%`,
    })),
  ]
  const axis = {
    axisLine: { lineStyle: { color: inks.line } },
    axisTick: { show: false },
    axisLabel: { color: inks.soft, fontSize: 11, fontFamily: 'IBM Plex Sans' },
    splitLine: { lineStyle: { color: inks.line, opacity: 0.45 } },
  }
  const volume = Array.from(bars.volume, (v, i) => ({
    value: known(v),
    itemStyle:
      bars.close[i] >= bars.open[i]
        ? { color: inks.soft, opacity: 0.55 }
        : { color: inks.paper, borderColor: inks.soft, opacity: 0.7 },
  }))
  const line = (l: Line, grid: number) => ({
    name: l.text,
    type: 'line',
    xAxisIndex: grid,
    yAxisIndex: grid,
    data: Array.from(l.values, known),
    showSymbol: false,
    lineStyle: { width: 1.4, type: l.dash, color: inks[l.color] },
    itemStyle: { color: inks[l.color] },
    silent: true,
    connectNulls: false,
  })
  return {
    animation: false,
    backgroundColor: 'transparent',
    grid: grids,
    axisPointer: {
      link: [{ xAxisIndex: 'all' }],
      lineStyle: { color: inks.soft, type: 'dashed' },
      label: { backgroundColor: inks.ink, color: inks.paper, fontFamily: 'IBM Plex Sans' },
    },
    tooltip: { trigger: 'axis', axisPointer: { type: 'cross' }, showContent: false },
    xAxis: grids.map((_, i) => ({
      ...axis,
      type: 'category',
      gridIndex: i,
      data: labels,
      boundaryGap: true,
      splitLine: { show: false },
      axisLabel: i === grids.length - 1 ? { ...axis.axisLabel, hideOverlap: true } : { show: false },
      axisPointer: { label: { show: i === grids.length - 1 } },
    })),
    yAxis: grids.map((_, i) => ({
      ...axis,
      gridIndex: i,
      scale: i === 0 || panels[i - 1].unit !== 'shares',
      position: 'right',
      splitNumber: i === 0 ? 6 : 2,
      axisLabel: {
        ...axis.axisLabel,
        formatter: i > 0 && panels[i - 1].unit === 'shares' ? shortAxis : undefined,
      },
      axisPointer: { label: { precision: i === 0 ? 2 : 0 } },
    })),
    dataZoom: [
      {
        type: 'inside',
        xAxisIndex: grids.map((_, i) => i),
        start: zoom.start,
        end: zoom.end,
        minValueSpan: 15,
      },
      {
        type: 'slider',
        xAxisIndex: grids.map((_, i) => i),
        start: zoom.start,
        end: zoom.end,
        bottom: 2,
        height: 16,
        left: 8,
        right: 62,
        borderColor: inks.line,
        fillerColor: `${inks.accent}22`,
        handleStyle: { color: inks.accent },
        moveHandleSize: 4,
        showDetail: false,
        brushSelect: false,
        dataBackground: { lineStyle: { color: inks.line }, areaStyle: { color: inks.line, opacity: 0.3 } },
      },
    ],
    series: [
      {
        name: 'price',
        type: 'candlestick',
        data: Array.from({ length: n }, (_, i) =>
          [bars.open[i], bars.close[i], bars.low[i], bars.high[i]].map(known),
        ),
        itemStyle: {
          color: inks.up,
          color0: inks.paper,
          borderColor: inks.up,
          borderColor0: inks.down,
          borderWidth: 1.2,
        },
        barMaxWidth: 11,
        markLine: {
          symbol: 'none',
          silent: true,
          label: {
            position: 'insideEndTop',
            color: inks.ink,
            fontSize: 11,
            fontFamily: 'IBM Plex Sans',
            formatter: '{b}',
          },
          lineStyle: { color: inks.ink, type: 'dotted' },
          data: levels.map((level) => ({
            yAxis: level.price,
            name: `${level.name} ${level.price.toFixed(2)}`,
          })),
        },
      },
      ...lines.filter((l) => l.unit === 'price').map((l) => line(l, 0)),
      {
        name: 'the rule came true',
        type: 'scatter',
        data: hits.map((row) => [row, bars.low[row]]),
        symbol: 'path://M0 12 L6 2 L12 12',
        symbolSize: [10, 9],
        symbolOffset: [0, 11],
        itemStyle: { color: 'transparent', borderColor: inks.accent, borderWidth: 1.6 },
        silent: true,
      },
      {
        name: 'volume',
        type: 'bar',
        xAxisIndex: 1,
        yAxisIndex: 1,
        data: volume,
        barMaxWidth: 11,
        silent: true,
      },
      ...panels.flatMap((panel, i) => panel.lines.map((l) => line(l, i + 1))),
    ],
  }
}

const shortAxis = (value: number): string =>
  value >= 1e6 ? `${value / 1e6} M` : value >= 1e3 ? `${Math.round(value / 1e3)} k` : String(value)
