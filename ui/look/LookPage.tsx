'use client'
import { Button, SegmentedControl } from '@mantine/core'
import { useHotkeys } from '@mantine/hooks'
import Link from 'next/link'
import { useSearchParams } from 'next/navigation'
import { Suspense, useEffect, useMemo, useState } from 'react'
import { type Bars } from '@/core/market/bars'
import { priceText } from '@/core/market/money'
import { barSource, checkRule, checkTree, measuresIn, parse, print, unitOf } from '@/core/rules'
import { hitRows, measureColumn } from '@/core/scan/hits'
import { restoreDraft, useFind } from '../find/findStore'
import { usePositions, useQuote, useSecurities } from '../link/LinkProvider'
import { Change } from '../shell/Change'
import page from '../shell/Page.module.css'
import { TicketPanel } from '../ticket/TicketPanel'
import { useTicket } from '../ticket/ticketStore'
import { type Line, type PriceLevel } from './chartOption'
import { HitsTable } from './HitsTable'
import css from './Look.module.css'
import { lookedAt } from './lookedAt'
import { PriceChart } from './PriceChart'
import { Readout } from './Readout'
import { useBars } from './useBars'

const FRAMES = ['1 week', '1 day', '1 hour', '15 min', '5 min', '1 min']

export function LookPage({ symbol }: { symbol: string }) {
  return (
    <Suspense>
      <Look symbol={symbol} />
    </Suspense>
  )
}

function Look({ symbol }: { symbol: string }) {
  const dataId = useSearchParams().get('data') ?? undefined
  const security = useSecurities().data?.find((s) => s.symbol === symbol)
  const [every, setEvery] = useState('1 day')
  const bars = useBars(symbol, every, { dataId, soFar: !dataId })
  const ticket = useTicket((s) => s.ticket)
  useEffect(() => {
    void restoreDraft()
    void lookedAt(symbol, dataId)
  }, [symbol, dataId])
  const canOrder = dataId === undefined && security?.tradable === true
  useHotkeys([['b', () => canOrder && useTicket.getState().open(symbol)]])
  if (bars.error) return <div className={page.empty}>{bars.error.message}</div>
  return (
    <div className={page.page}>
      <section className={page.main} aria-label={`Chart of ${symbol}`}>
        <div className={css.head}>
          <h1>{security?.name ?? symbol}</h1>
          <span className="soft">
            {symbol}
            {security ? ` · ${security.sector}` : dataId ? ' · my own data' : ''}
          </span>
          {!dataId && <LivePrice symbol={symbol} bars={bars.data ?? undefined} />}
          {canOrder && (
            <Button ml="auto" onClick={() => useTicket.getState().open(symbol)}>
              Make it an order
            </Button>
          )}
        </div>
        {bars.data === null || bars.data?.time.length === 0 ? (
          <div className={page.empty}>
            <span>There are no bars of {symbol} here.</span>
            <Link href="/find">Find one that has</Link>
          </div>
        ) : bars.data ? (
          <Chart
            symbol={symbol}
            bars={bars.data}
            frames={dataId ? undefined : FRAMES}
            every={every}
            setEvery={setEvery}
          />
        ) : (
          <div className={page.empty}>Fetching bars …</div>
        )}
      </section>
      <aside className={page.aside} aria-label="Order and past hits">
        {ticket && ticket.symbol === symbol ? (
          <TicketPanel />
        ) : bars.data && bars.data.time.length > 0 ? (
          <Hits bars={bars.data} />
        ) : null}
      </aside>
    </div>
  )
}

function LivePrice({ symbol, bars }: { symbol: string; bars?: Bars }) {
  const quote = useQuote(symbol)
  if (!quote) return null
  const daily = bars?.every.unit === 'day' ? bars : undefined
  const before = daily && daily.close.length > 1 ? daily.close[daily.close.length - 2] : undefined
  return (
    <span>
      <span className={css.price}>{priceText(quote.last)}</span>{' '}
      {before !== undefined && <Change value={100 * (quote.last / before - 1)} />}
      {before !== undefined && ' %'}{' '}
      <span className="soft">
        bid {priceText(quote.bid)} × {quote.bidSize} · ask {priceText(quote.ask)} × {quote.askSize}
      </span>
    </span>
  )
}

/** Hits to bring into view are asked for from the table beside the chart. */
const shows = new EventTarget()

function Chart({
  symbol,
  bars,
  frames,
  every,
  setEvery,
}: {
  symbol: string
  bars: Bars
  frames?: string[]
  every: string
  setEvery(every: string): void
}) {
  const { rule, measures } = useFind()
  const position = usePositions().data?.find((p) => p.symbol === symbol && p.quantity !== 0)
  const [row, setRow] = useState<number>()
  const [show, setShow] = useState<{ row: number }>()
  useEffect(() => {
    const take = (event: Event) => setShow({ row: (event as CustomEvent<number>).detail })
    shows.addEventListener('show', take)
    return () => shows.removeEventListener('show', take)
  }, [])
  const hits = useHits(bars)
  const lines = useMemo(() => linesOf(bars, rule, measures), [bars, rule, measures])
  const { avgPx, stopPx, targetPx } = position ?? {}
  const levels = useMemo(
    (): PriceLevel[] =>
      [
        { name: 'paid', price: avgPx },
        { name: 'stop', price: stopPx },
        { name: 'target', price: targetPx },
      ].filter((l): l is PriceLevel => l.price !== undefined && l.price > 0),
    [avgPx, stopPx, targetPx],
  )
  return (
    <>
      <div className={css.tools}>
        {frames && (
          <SegmentedControl
            size="xs"
            data={frames}
            value={every}
            onChange={setEvery}
            aria-label="Timeframe"
          />
        )}
        <Link href="/find" className={css.rule} title={rule}>
          {rule}
        </Link>
        <span className="soft">△ came true {hits.length} times</span>
      </div>
      <Readout bars={bars} lines={lines} row={row ?? bars.time.length - 1} />
      <PriceChart
        key={every}
        bars={bars}
        lines={lines}
        hits={hits}
        levels={levels}
        show={show}
        onPoint={setRow}
      />
    </>
  )
}

function useHits(bars: Bars): number[] {
  const rule = useFind((s) => s.rule)
  return useMemo(() => {
    const checked = checkRule(rule, bars.every)
    return checked.type ? hitRows(checked.tree, barSource(bars)) : []
  }, [bars, rule])
}

function Hits({ bars }: { bars: Bars }) {
  return (
    <HitsTable
      bars={bars}
      rows={useHits(bars)}
      onShow={(row) => shows.dispatchEvent(new CustomEvent('show', { detail: row }))}
    />
  )
}

const STROKES = [
  { dash: 'solid', color: 'accent' },
  { dash: 'dashed', color: 'ink' },
  { dash: 'dotted', color: 'value' },
  { dash: 'solid', color: 'amber' },
  { dash: 'dashed', color: 'accent' },
] as const

/** The numbers that the rule looks at and the extra columns, as lines; bare prices and volume are drawn already. */
function linesOf(bars: Bars, rule: string, extra: readonly string[]): Line[] {
  const { tree } = parse(rule)
  const trees = [...(tree ? measuresIn(tree) : []), ...extra.flatMap((text) => parse(text).tree ?? [])]
  const distinct = new Map(trees.map((t) => [print(t), t]))
  const source = barSource(bars)
  return [...distinct]
    .filter(([, t]) => t.kind !== 'name' && checkTree(t, bars.every, 'number').type)
    .map(([text, t], i) => {
      return {
        text,
        unit: unitOf(t, bars.every),
        values: measureColumn(t, source),
        ...STROKES[i % STROKES.length],
      }
    })
}
