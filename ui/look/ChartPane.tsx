'use client'
import { useMemo, useRef, useState } from 'react'
import { type Bars } from '@/core/market/bars'
import { sayDistance, type Spot } from '@/core/market/dividers'
import { type Drawing } from '@/core/market/drawings'
import { type IncrementBand } from '@/core/market/increment'
import { sayStart } from '@/core/market/moments'
import { INDICATORS } from '@/core/indicators'
import { isIntraday } from '@/core/market/timeframe'
import { type LookLayout } from '@/store/db'
import { usePositions } from '../link/LinkProvider'
import { BarSentence } from './BarSentence'
import { type Drawn, type Line, type PriceLevel } from './chartOption'
import { draggedTo, type Held, heldAt } from './dragging'
import { keepDrawing, spotsNeeded, type Tool, toolHint } from './DrawTools'
import { type Position } from '@/core/orders/views'
import css from './Look.module.css'
import { holds, type Mark, rowOf } from './marks'
import { PriceChart } from './PriceChart'
import { type Notch, rulerOf } from './ruler'
import { changeLayout } from './useLayout'
import { clampView, LEAST, lastView, type View, viewAbout } from './view'
import { YearRail } from './YearRail'

const NO_SPOTS: Spot[] = []

/** Price paid of a position and every stop and target of it, as levels; with their shares where they are for a part of it. */
function usePositionLevels(symbol: string): PriceLevel[] {
  const position = usePositions().data?.find((p) => p.symbol === symbol && p.quantity !== 0)
  const told =
    position && JSON.stringify([position.avgPx, position.quantity, position.withoutStop, position.exits])
  return useMemo(() => {
    if (!told) return []
    const [avgPx, quantity, bare, exits] = JSON.parse(told) as [number, number, number, Position['exits']]
    const missing = bare === 0 ? '' : bare === Math.abs(quantity) ? ', no stop' : `, ${bare} without a stop`
    return [
      { name: `paid${missing}`, price: avgPx },
      ...exits.map(({ role, price, quantity: many }) => ({
        name: `${role.toLowerCase()}${many === Math.abs(quantity) ? '' : ` ${many}`}`,
        price,
      })),
    ].filter((l): l is PriceLevel => l.price > 0)
  }, [told])
}

/** A part of the history to bring into view; a new object each time it is asked for. */
export interface Show {
  moment: number
  /** How many bars; as many as are in view where left out. */
  width?: number
}

interface Props {
  symbol: string
  bars: Bars
  lines: readonly Line[]
  hits: readonly number[]
  against: readonly number[]
  found?: number
  marks: readonly Mark[]
  layout: LookLayout
  steps: readonly IncrementBand[]
  tool?: Tool
  setTool?(tool: Tool | undefined): void
  show?: Show
  /** Daily bars, on which the whole history of minutes is measured. */
  days?: Bars
  /** A stretch that is not loaded was asked for. */
  onBeyond?(moment: number, width: number): void
  small?: boolean
  onPicture?(picture: () => string): void
}

/** One timeframe of a security: the bar as a sentence, the chart, and the year rail with the part that is in view. */
export function ChartPane(props: Props) {
  const { symbol, bars, lines, hits, against, found, marks, layout, steps, tool, setTool, show, small } =
    props
  const [view, setView] = useView(bars, show, small ? 70 : undefined)
  const [row, setRow] = useState<number>()
  const [spots, setSpots] = useState<Spot[]>(NO_SPOTS)
  const levels = usePositionLevels(symbol)
  const [lastTool, setLastTool] = useState(tool)
  if (lastTool !== tool) {
    setLastTool(tool)
    setSpots(NO_SPOTS)
  }
  const mark = (spot: Spot) => {
    if (!tool) return
    const full = spots.length >= spotsNeeded(tool)
    const next = full ? [spot] : [...spots, spot]
    setSpots(next)
    if (next.length < spotsNeeded(tool) || tool === 'dividers') return
    void keepDrawing(symbol, bars, tool, next, steps)
    setSpots(NO_SPOTS)
    setTool?.(undefined)
  }
  const dragging = useDragging(symbol, bars, layout.drawings, steps)
  const drawn = useMemo(
    (): Drawn => ({ lines, hits, against, found, levels, drawings: dragging.drawings, marks, spots }),
    [lines, hits, against, found, levels, dragging.drawings, marks, spots],
  )
  const inView = (r: number | undefined) => r !== undefined && r >= view.from && r < view.to
  const at = row ?? (inView(found) ? found! : view.to - 1)
  const said = marks.filter((m) => m.row === at).map((m) => m.said)
  return (
    <>
      {!small && <BarSentence bars={bars} lines={lines} row={at} said={said} />}
      <div className={css.stage}>
        {tool && (
          <p className={css.hint} role="status">
            {tool === 'dividers' && spots.length === 2 ? (
              <strong data-testid="dividers">{sayDistance(bars, spots[0], spots[1], steps)}</strong>
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
          {...(small ? {} : dragging.hands)}
          small={small}
          onPicture={props.onPicture}
        />
      </div>
      {!small && <Rail {...props} view={view} setView={setView} />}
    </>
  )
}

/**
 * Rows in view. Bars that come move the view along where it stood at the end; other bars, as when an earlier stretch
 * was loaded, keep the moment that was in its middle.
 */
function useView(bars: Bars, show: Show | undefined, width: number | undefined) {
  const n = bars.time.length
  const [view, setView] = useState<View>(() => lastView(n, width))
  const [known, setKnown] = useState(bars)
  if (known !== bars) {
    setKnown(bars)
    const before = known.time.length
    if (known.time[0] === bars.time[0] && n >= before)
      setView(view.to === before ? lastView(n, view.to - view.from) : clampView(view, n))
    else {
      const half = (view.to - view.from) >> 1
      const middle = rowOf(bars, known.time[Math.min(before - 1, view.from + half)]) ?? 0
      setView(clampView({ from: middle - half, to: middle - half + view.to - view.from }, n))
    }
  }
  // Once, as soon as there are bars of that moment: those may still be on their way.
  const [done, setDone] = useState<Show>()
  if (show && show !== done && holds(bars, show.moment)) {
    const row = rowOf(bars, show.moment)!
    const wide = show.width
    setDone(show)
    setView(wide === undefined ? viewAbout(row, n) : clampView({ from: row, to: row + wide }, n))
  }
  return [view, setView] as const
}

/** What is drawn, moved by the mouse: shown while it is held, kept when it is let go. */
function useDragging(
  symbol: string,
  bars: Bars,
  drawings: readonly Drawing[],
  steps: readonly IncrementBand[],
) {
  // The mouse is quicker than a render: what is held is known at once.
  const grip = useRef<Held>(undefined)
  const [moved, setMoved] = useState<Drawing>()
  const movedTo = useRef<Drawing>(undefined)
  const shown = useMemo(
    () => (moved ? drawings.map((d) => (d.id === moved.id ? moved : d)) : drawings),
    [drawings, moved],
  )
  const last = bars.time.length - 1
  const shift = (moment: number, rows: number) =>
    bars.time[Math.max(0, Math.min(last, (rowOf(bars, moment) ?? 0) + rows))]
  const hands = {
    onHold(spot: Spot, pixels: Parameters<NonNullable<Parameters<typeof PriceChart>[0]['onHold']>>[1]) {
      const under = heldAt(
        drawings,
        { ...spot, x: pixels.x, y: pixels.y },
        pixels.of,
        (t) => rowOf(bars, t) ?? 0,
      )
      grip.current = under
      movedTo.current = undefined
      return under !== undefined
    },
    onMove(spot: Spot) {
      if (!grip.current) return
      movedTo.current = draggedTo(grip.current, spot, steps, shift)
      setMoved(movedTo.current)
    },
    onDrop() {
      const to = movedTo.current
      grip.current = undefined
      movedTo.current = undefined
      if (to)
        void changeLayout(symbol, (layout) => ({
          drawings: layout.drawings.map((d) => (d.id === to.id ? to : d)),
        })).then(() => setMoved(undefined))
    },
  }
  return { drawings: shown, hands }
}

function Rail({
  bars,
  days,
  hits,
  against,
  marks,
  onBeyond,
  view,
  setView,
}: Props & { view: View; setView(view: View): void }) {
  const n = bars.time.length
  const ruler = useMemo(() => rulerOf(bars, days), [bars, days])
  const notches = useMemo((): Notch[] => {
    const place = (row: number) => ruler.placeOf(row)
    // Between bars of one session there are none worth a notch: minutes take those of their days.
    const gaps = days && isIntraday(bars.every) ? days : bars
    return [
      ...gapRows(gaps).map((row) => ({ place: gaps === days ? row : place(row), kind: 'gap' as const })),
      ...hits.map((row) => ({ place: place(row), kind: 'for' as const })),
      ...against.map((row) => ({ place: place(row), kind: 'against' as const })),
      ...marks.flatMap((mark): Notch[] =>
        mark.kind === 'fill'
          ? [{ place: place(mark.row), kind: 'fill', filled: mark.side === 'Buy' }]
          : mark.kind === 'order'
            ? []
            : [{ place: place(mark.row), kind: 'event' }],
      ),
    ]
  }, [ruler, bars, days, hits, against, marks])
  const from = ruler.placeOf(view.from)
  const to = Math.max(from, ruler.placeOf(view.to))
  const width = view.to - view.from
  // Few bars of minutes are less than a session.
  const least = Math.min(LEAST, n) * Math.max(1e-6, (ruler.loaded[1] - ruler.loaded[0]) / Math.max(1, n))
  const onView = (start: number, end: number) => {
    const [first, after] = [ruler.rowAt(start), ruler.rowAt(end)]
    const same = Math.abs(end - start - (to - from)) < 1e-6
    if (first !== undefined && (same || after !== undefined)) {
      const until = same ? first + width : end >= ruler.loaded[1] ? n : after!
      setView(clampView({ from: first, to: until }, n))
    } else onBeyond?.(ruler.momentAt(start), width)
  }
  return (
    <YearRail
      ruler={ruler}
      zone={bars.zone}
      from={from}
      to={to}
      notches={notches}
      least={least}
      onView={onView}
      sayPlace={(place) => sayStart(bars.every, bars.zone, ruler.momentAt(place))}
    />
  )
}

/** Sessions that opened further from the range of the one before than half of what a bar usually travels. */
function gapRows({ open, high, low, close }: Bars): number[] {
  const n = open.length
  const usual = new Float64Array(n)
  INDICATORS.get('atr')!.column([high, low, close], [14], [usual])
  const out: number[] = []
  for (let row = 1; row < n; row++) {
    const away = Math.max(open[row] - high[row - 1], low[row - 1] - open[row])
    if (away > usual[row - 1] / 2) out.push(row)
  }
  return out
}
