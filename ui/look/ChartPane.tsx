'use client'
import { RangeSlider } from '@mantine/core'
import { useEffect, useMemo, useState } from 'react'
import { type Bars } from '@/core/market/bars'
import { sayBar } from '@/core/market/moments'
import { sayDistance, type Spot } from '@/core/market/dividers'
import { type BarSource, checkRule } from '@/core/rules'
import { hitRows } from '@/core/scan/hits'
import { type LookLayout } from '@/store/db'
import { useFind } from '../find/findStore'
import { usePositions } from '../link/LinkProvider'
import { type Drawn, type Line, type PriceLevel } from './chartOption'
import { keepDrawing, spotsNeeded, type Tool, toolHint } from './DrawTools'
import css from './Look.module.css'
import { type Mark } from './marks'
import { PriceChart } from './PriceChart'
import { Readout } from './Readout'
import { clampView, lastView, type View, viewAbout } from './view'

const NO_SPOTS: Spot[] = []

export function useHits(source: BarSource | undefined): number[] {
  const rule = useFind((s) => s.rule)
  return useMemo(() => {
    if (!source) return []
    const checked = checkRule(rule, source.base.every)
    return checked.type ? hitRows(checked.tree, source) : []
  }, [source, rule])
}

/** Stop, target and price paid of a position, as levels. */
function usePositionLevels(symbol: string): PriceLevel[] {
  const position = usePositions().data?.find((p) => p.symbol === symbol && p.quantity !== 0)
  const { avgPx, stopPx, targetPx } = position ?? {}
  return useMemo(
    () =>
      [
        { name: 'paid', price: avgPx },
        { name: 'stop', price: stopPx },
        { name: 'target', price: targetPx },
      ].filter((l): l is PriceLevel => l.price !== undefined && l.price > 0),
    [avgPx, stopPx, targetPx],
  )
}

/** One timeframe of a security: the readout, the chart, and the strip that says which part of it is in view. */
export function ChartPane({
  symbol,
  bars,
  lines,
  hits,
  marks,
  layout,
  tool,
  setTool,
  show,
  small,
  onPicture,
}: {
  symbol: string
  bars: Bars
  lines: readonly Line[]
  hits: readonly number[]
  marks: readonly Mark[]
  layout: LookLayout
  tool?: Tool
  setTool?(tool: Tool | undefined): void
  /** Row to bring to the middle; a new object each time it is asked for. */
  show?: { row: number }
  small?: boolean
  onPicture?(picture: () => string): void
}) {
  const n = bars.time.length
  const [view, setView] = useState<View>(() => lastView(n, small ? 70 : undefined))
  const [row, setRow] = useState<number>()
  const [spots, setSpots] = useState<Spot[]>(NO_SPOTS)
  const levels = usePositionLevels(symbol)
  // Bars that come move the view along where it stood at the end.
  const [count, setCount] = useState(n)
  if (count !== n) {
    setCount(n)
    setView(view.to === count ? lastView(n, view.to - view.from) : clampView(view, n))
  }
  useEffect(() => {
    if (show) setView(viewAbout(show.row, n))
  }, [show, n])
  const [held, setHeld] = useState(tool)
  if (held !== tool) {
    setHeld(tool)
    setSpots(NO_SPOTS)
  }
  const mark = (spot: Spot) => {
    if (!tool) return
    const full = spots.length >= spotsNeeded(tool)
    const next = full ? [spot] : [...spots, spot]
    setSpots(next)
    if (next.length < spotsNeeded(tool) || tool === 'dividers') return
    void keepDrawing(symbol, bars, tool, next)
    setSpots(NO_SPOTS)
    setTool?.(undefined)
  }
  const drawn = useMemo(
    (): Drawn => ({ lines, hits, levels, drawings: layout.drawings, marks, spots }),
    [lines, hits, levels, layout.drawings, marks, spots],
  )
  const at = row ?? n - 1
  const said = marks.filter((m) => m.row === at).map((m) => m.said)
  return (
    <>
      {!small && <Readout bars={bars} lines={lines} row={at} said={said} />}
      {tool && (
        <p className={css.hint} role="status">
          {tool === 'dividers' && spots.length === 2 ? (
            <strong data-testid="dividers">{sayDistance(bars, spots[0], spots[1])}</strong>
          ) : (
            <span className="soft">
              {tool}: {toolHint(tool, spots.length)}
            </span>
          )}
        </p>
      )}
      <PriceChart
        bars={bars}
        drawn={drawn}
        view={view}
        setView={setView}
        onPoint={setRow}
        onSpot={mark}
        marking={tool !== undefined}
        small={small}
        onPicture={onPicture}
      />
      {!small && (
        <RangeSlider
          size="xs"
          className={css.strip}
          min={0}
          max={n}
          minRange={Math.min(15, n)}
          value={[view.from, view.to]}
          onChange={([from, to]) => setView(clampView({ from, to }, n))}
          label={(at) => sayBar(bars, Math.min(n - 1, at))}
          thumbFromLabel="First bar in view"
          thumbToLabel="Last bar in view"
        />
      )}
    </>
  )
}
