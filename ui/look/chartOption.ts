import { priceText } from '@/core/market/money'
import { type EChartsCoreOption } from 'echarts/core'
import { type Unit } from '@/core/indicators/types'
import { type Bars } from '@/core/market/bars'
import { type Drawing, drawnColumn } from '@/core/market/drawings'
import { sayBar } from '@/core/market/moments'
import { type Thinned, thinnedColumn } from '@/core/market/thin'
import { chevrons, markItem } from './chartMarks'
import { type Inks } from './inks'
import { type Mark } from './marks'

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
  /** Holds one value for a while and then another: drawn in steps. */
  steps?: boolean
  /** Panel that it was put into; by its unit where left out. */
  panel?: string
}

/** A horizontal level of a position: stop, target, average price. */
export interface PriceLevel {
  name: string
  price: number
}

/** What a line is called, and where it ends: in which grid and at which value. */
export interface LineName {
  text: string
  color: string
  grid: number
  value: number
}

/** Everything that is drawn besides the bars, in rows of the bars themselves. */
export interface Drawn {
  lines: readonly Line[]
  /** Rows at which the rule came true, and the one for the other side. */
  hits: readonly number[]
  against: readonly number[]
  /** The bar on which the security was found, where it came from a result. */
  found?: number
  levels: readonly PriceLevel[]
  drawings: readonly Drawing[]
  marks: readonly Mark[]
  /** Ends of the dividers, or of a drawing under way. */
  spots: readonly { row: number; price: number }[]
}

const known = (value: number) => (Number.isFinite(value) ? value : '-')

export interface Panel {
  id: string
  unit: Unit | undefined
  lines: Line[]
}

/** Panels under the price: volume always, one for each other unit among the lines, then those of the trader's own. */
export function panelsOf(lines: readonly Line[]): Panel[] {
  const panels: Panel[] = [
    { id: 'volume', unit: 'shares', lines: lines.filter((l) => !l.panel && l.unit === 'shares') },
  ]
  for (const unit of ['number', 'percent', 'money', 'ticks'] as const) {
    const own = lines.filter((l) => !l.panel && l.unit === unit)
    if (own.length > 0) panels.push({ id: unit, unit, lines: own })
  }
  for (const id of new Set(lines.flatMap((l) => (l.panel && l.panel !== 'price' ? [l.panel] : []))))
    panels.push({ id, unit: undefined, lines: lines.filter((l) => l.panel === id) })
  return panels
}

const isOverPrice = (line: Line): boolean => line.panel === 'price' || (!line.panel && line.unit === 'price')

/** The whole chart of the bars in view: candles with what is drawn on them; volume and other panels beneath. */
export function chartOption(
  view: Thinned,
  all: Bars,
  drawn: Drawn,
  inks: Inks,
  small: boolean,
): { option: EChartsCoreOption; names: LineName[] } {
  const { bars, from, step } = view
  const n = bars.time.length
  const placeOf = (row: number) => Math.floor((row - from) / step)
  const inView = (row: number) => row >= from && placeOf(row) < n
  const labels = Array.from({ length: n }, (_, i) => sayBar(bars, i))
  const panels = small ? [] : panelsOf(drawn.lines)
  const share =
    panels.length <= 1 ? 17 : panels.length === 2 ? 15 : panels.length === 3 ? 12 : 54 / panels.length
  const gap = 3
  const foot = small ? 12 : 5
  const priceHeight = 100 - foot - 2 - panels.length * (share + gap)
  // Labels that reach beyond a panel must not narrow it: panels stand exactly under one another.
  // Names of lines stand at their right ends, so prices stand at the left.
  const sides = small ? SMALL_SIDES : SIDES
  const grids = [
    { ...sides, top: drawn.found === undefined ? 8 : 22, bottom: `${98 - priceHeight}%` },
    ...panels.map((_, i) => ({
      ...sides,
      top: `${priceHeight + 2 + gap + i * (share + gap)}%`,
      height: `${share}%`,
    })),
  ]
  const axis = {
    axisLine: { lineStyle: { color: inks.line } },
    axisTick: { show: false },
    axisLabel: { color: inks.soft, fontSize: 11, fontFamily: 'IBM Plex Sans' },
    splitLine: { lineStyle: { color: inks.line, opacity: 0.45 } },
  }
  const range = priceRange(view, drawn.lines.filter(isOverPrice))
  /** Ends above or below the prices in view: its name would stand beside other lines. */
  const isOutside = (value: number) => value < (range.min ?? -Infinity) || value > (range.max ?? Infinity)
  const names: LineName[] = []
  const series = (
    name: string,
    values: Float64Array,
    grid: number,
    style: { dash: string; color: string; steps?: boolean },
  ) => {
    const data = thinnedColumn(values, view)
    const value = data[n - 1]
    if (!small && Number.isFinite(value) && (grid > 0 || !isOutside(value)))
      names.push({ text: name, color: style.color, grid, value })
    return {
      name,
      type: 'line',
      xAxisIndex: grid,
      yAxisIndex: grid,
      data: Array.from(data, known),
      showSymbol: false,
      lineStyle: { width: 1.4, type: style.dash, color: style.color },
      itemStyle: { color: style.color },
      silent: true,
      connectNulls: false,
      step: style.steps ? 'end' : false,
    }
  }
  const line = (l: Line, grid: number) =>
    series(l.text, l.values, grid, { dash: l.dash, color: inks[l.color], steps: l.steps })
  const trendLines = drawn.drawings.flatMap((d) => {
    if (d.kind !== 'line') return []
    const values = new Float64Array(all.time.length)
    drawnColumn(d, all.time, undefined, values)
    return [series(d.name, values, 0, { dash: 'solid', color: inks.amber })]
  })
  const label = {
    position: 'insideStartTop',
    color: inks.ink,
    fontSize: 11,
    fontFamily: 'IBM Plex Sans',
    formatter: '{b}',
  }
  const option = {
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
      axisLabel:
        i === grids.length - 1
          ? { ...axis.axisLabel, hideOverlap: true, alignMinLabel: 'left', alignMaxLabel: 'right' }
          : { show: false },
      axisPointer: { label: { show: i === grids.length - 1 } },
    })),
    yAxis: grids.map((_, i) => ({
      ...axis,
      gridIndex: i,
      ...(i === 0 ? range : {}),
      scale: i === 0 || panels[i - 1].unit !== 'shares',
      position: small ? 'right' : 'left',
      splitNumber: i === 0 ? (small ? 4 : 6) : 2,
      axisLabel: {
        ...axis.axisLabel,
        formatter: i === 0 ? priceAxis : panels[i - 1].unit === 'shares' ? shortAxis : undefined,
        showMinLabel: i === 0 ? false : undefined,
        showMaxLabel: i <= 1 ? false : undefined,
      },
      axisPointer: { label: { precision: i === 0 ? 2 : 0 } },
      ...(i === 1 ? { ...AXIS_NAME, nameTextStyle: { ...AXIS_NAME.nameTextStyle, color: inks.soft } } : {}),
    })),
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
          label,
          lineStyle: { color: inks.ink, type: 'dotted' },
          data: [
            ...(drawn.found !== undefined && inView(drawn.found)
              ? [
                  {
                    xAxis: placeOf(drawn.found),
                    name: 'found here',
                    lineStyle: { color: inks.accent },
                    label: { ...label, position: 'end', color: inks.accent },
                  },
                ]
              : []),
            ...drawn.levels.map((level) => ({
              yAxis: level.price,
              name: `${level.name} ${priceText(level.price)}`,
            })),
            ...drawn.drawings.flatMap((d) =>
              d.kind === 'level'
                ? [{ yAxis: d.price, name: d.name, lineStyle: { color: inks.amber, type: 'solid' as const } }]
                : [],
            ),
          ],
        },
        markArea: {
          silent: true,
          itemStyle: { color: inks.amber, opacity: 0.12 },
          label: { ...label, position: 'insideTopLeft' },
          data: drawn.drawings.flatMap((d) =>
            d.kind === 'zone' ? [[{ yAxis: d.upper, name: d.name }, { yAxis: d.lower }]] : [],
          ),
        },
      },
      ...drawn.lines.filter(isOverPrice).map((l) => line(l, 0)),
      ...trendLines,
      chevrons('the rule came true', drawn.hits.filter(inView), 'for', bars, placeOf, inks),
      chevrons('the other rule came true', drawn.against.filter(inView), 'against', bars, placeOf, inks),
      {
        name: 'orders, fills and events',
        type: 'scatter',
        data: drawn.marks
          .filter((mark) => inView(mark.row))
          .map((mark) => markItem(mark, placeOf(mark.row), bars, inks)),
        silent: true,
        z: 6,
      },
      {
        name: 'dividers',
        type: 'line',
        data: drawn.spots.filter((s) => inView(s.row)).map((s) => [placeOf(s.row), s.price]),
        symbol: 'rect',
        symbolSize: 7,
        lineStyle: { color: inks.ink, type: 'dashed', width: 1.2 },
        itemStyle: { color: inks.ink },
        silent: true,
        z: 7,
      },
      ...(panels.length === 0 ? [] : [tide(bars.volume, inks)]),
      ...panels.flatMap((panel, i) => panel.lines.map((l) => line(l, i + 1))),
    ],
  }
  return { option, names }
}

/** Room at the sides: prices at the left, names of lines at the right. */
export const SIDES = { left: 54, right: 158, outerBoundsMode: 'none' as const }
export const SMALL_SIDES = { left: 8, right: 62, outerBoundsMode: 'none' as const }

/** The tide is named over its own axis: at its right end the name would lie on those of its averages. */
const AXIS_NAME = {
  name: 'volume',
  nameLocation: 'end' as const,
  nameGap: 5,
  nameTextStyle: {
    fontSize: 11,
    fontFamily: 'IBM Plex Sans',
    align: 'right' as const,
    padding: [0, 8, 0, 0],
  },
}

/** Volume as a tide: a level that rises and falls, without a colour for up or down, which the candles tell. */
const tide = (volume: Float64Array, inks: Inks) => ({
  name: 'volume',
  type: 'line',
  xAxisIndex: 1,
  yAxisIndex: 1,
  data: Array.from(volume, known),
  step: 'middle',
  showSymbol: false,
  lineStyle: { width: 0.8, color: inks.soft },
  areaStyle: { color: inks.soft, opacity: 0.22, origin: 'start' },
  itemStyle: { color: inks.soft },
  silent: true,
})

/** From where to where the prices in view reach, measures over them among it; what is drawn by hand is not. */
function priceRange(view: Thinned, over: readonly Line[]): { min?: number; max?: number } {
  let [low, high] = [Infinity, -Infinity]
  const { bars } = view
  for (let i = 0; i < bars.time.length; i++) {
    if (bars.low[i] < low) low = bars.low[i]
    if (bars.high[i] > high) high = bars.high[i]
  }
  // A measure far away from the price must not press it flat.
  const reach = 0.6 * (high - low)
  let [least, most] = [low, high]
  for (const { values } of over)
    for (const x of thinnedColumn(values, view)) {
      if (x < least && x > low - reach) least = x
      if (x > most && x < high + reach) most = x
    }
  const margin = 0.03 * (most - least) || 0.01 * Math.abs(high)
  return most >= least ? { min: least - margin, max: most + margin } : {}
}

const shortAxis = (value: number): string =>
  value >= 1e6 ? `${value / 1e6} M` : value >= 1e3 ? `${Math.round(value / 1e3)} k` : String(value)

/** Ends of the axis lie between the steps: no more digits than a price has. */
const priceAxis = (value: number): string =>
  Math.abs(value) < 1 ? value.toFixed(4) : String(Number(value.toFixed(2)))
