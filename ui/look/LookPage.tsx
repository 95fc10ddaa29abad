'use client'
import { Button, Menu, SegmentedControl } from '@mantine/core'
import { useHotkeys } from '@mantine/hooks'
import { useLiveQuery } from 'dexie-react-hooks'
import Link from 'next/link'
import { useSearchParams } from 'next/navigation'
import { Suspense, useEffect, useMemo, useRef, useState } from 'react'
import { type Adjustment } from '@/core/market/adjust'
import { type Bars } from '@/core/market/bars'
import { priceText } from '@/core/market/money'
import { parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { db, type LookLayout } from '@/store/db'
import { restoreDraft, useFind } from '../find/findStore'
import { useQuote, useSecurities } from '../link/LinkProvider'
import { countedIn } from '../market/frames'
import { useBarSource } from '../market/useBesides'
import { Change } from '../shell/Change'
import page from '../shell/Page.module.css'
import { TicketPanel } from '../ticket/TicketPanel'
import { useTicket } from '../ticket/ticketStore'
import { BallotPanel } from './BallotPanel'
import { ChartFile } from './ChartFile'
import { ChartPane, useHits } from './ChartPane'
import { DrawnList } from './DrawnList'
import { DrawTools, type Tool } from './DrawTools'
import { FiguresTable } from './FiguresTable'
import { HitsTable } from './HitsTable'
import { linesOf } from './lines'
import { LiveVerdict } from './LiveVerdict'
import css from './Look.module.css'
import { lookedAt } from './lookedAt'
import { useMarks } from './marks'
import { MeasurePicker } from './MeasurePicker'
import { OtherFrame } from './OtherFrame'
import { useBars } from './useBars'
import { changeLayout, useLayout } from './useLayout'

const FRAMES = ['1 month', '1 week', '1 day', '1 hour', '15 min', '5 min', '1 min']

const ADJUSTED: Record<Adjustment, string> = {
  'over-splits': 'adjusted for splits',
  'over-splits-and-dividends': 'for splits and dividends',
  'as-traded': 'as traded',
}

export function LookPage({ symbol }: { symbol: string }) {
  return (
    <Suspense>
      <Look key={symbol} symbol={symbol} />
    </Suspense>
  )
}

function Look({ symbol }: { symbol: string }) {
  const dataId = useSearchParams().get('data') ?? undefined
  const own = dataId !== undefined
  const security = useSecurities().data?.find((s) => s.symbol === symbol)
  const layout = useLayout(symbol)
  const [asked, setEvery] = useState<string>()
  const ownEvery = useLiveQuery(async () => (dataId ? (await db.ownData.get(dataId))?.every : ''), [dataId])
  const every = asked ?? layout?.frames[0] ?? (ownEvery || '1 day')
  const [adjust, setAdjust] = useState<Adjustment>('over-splits')
  const { rule, measures } = useFind()
  const texts = useMemo(
    () => [rule, ...measures, ...(layout?.panels ?? []).flatMap((p) => p.measures)],
    [rule, measures, layout?.panels],
  )
  const bars = useBars(symbol, every, { dataId, soFar: !own, prices: adjust, extras: countedIn(texts) })
  const ticket = useTicket((s) => s.ticket)
  const [show, setShow] = useState<{ row: number }>()
  useEffect(() => {
    void restoreDraft()
    void lookedAt(symbol, dataId)
  }, [symbol, dataId])
  const canOrder = !own && security?.orderable === true
  useHotkeys([['b', () => canOrder && useTicket.getState().open(symbol)]])
  const source = useBarSource(symbol, bars.data ?? undefined, texts, { own })
  const hits = useHits(source)
  if (bars.error) return <div className={page.empty}>{bars.error.message}</div>
  const none = bars.data === null || bars.data?.time.length === 0
  return (
    <div className={page.page}>
      <section className={page.main} aria-label={`Chart of ${symbol}`}>
        <div className={css.head}>
          <h1>{security?.name ?? symbol}</h1>
          <span className="soft">
            {symbol}
            {security ? ` · ${security.sector} · ${security.currency}` : own ? ' · my own data' : ''}
          </span>
          {!own && <LivePrice symbol={symbol} bars={bars.data ?? undefined} />}
          {canOrder && (
            <Button ml="auto" onClick={() => useTicket.getState().open(symbol)}>
              Make it an order
            </Button>
          )}
        </div>
        {none ? (
          <div className={page.empty}>
            <span>There are no bars of {symbol} here.</span>
            <Link href="/find">Find one that has</Link>
          </div>
        ) : bars.data && layout && source ? (
          <Charts
            symbol={symbol}
            bars={bars.data}
            source={source}
            hits={hits}
            layout={layout}
            dataId={dataId}
            every={every}
            setEvery={setEvery}
            adjust={adjust}
            setAdjust={setAdjust}
            show={show}
          />
        ) : (
          <div className={page.empty}>Fetching bars …</div>
        )}
      </section>
      <aside className={page.aside} aria-label="Order and past hits">
        {ticket && ticket.symbol === symbol ? (
          <TicketPanel />
        ) : bars.data && !none && layout ? (
          <>
            <DrawnList symbol={symbol} drawings={layout.drawings} />
            <BallotPanel source={source} />
            <HitsTable bars={bars.data} rows={hits} onShow={(row) => setShow({ row })} />
          </>
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

interface ChartsProps {
  symbol: string
  bars: Bars
  source: NonNullable<ReturnType<typeof useBarSource>>
  hits: readonly number[]
  layout: LookLayout
  dataId?: string
  every: string
  setEvery(every: string): void
  adjust: Adjustment
  setAdjust(adjust: Adjustment): void
  show?: { row: number }
}

/** The tools, the chart of the chosen timeframe, and those of others beside it. */
function Charts(props: ChartsProps) {
  const { symbol, bars, source, hits, layout, dataId, every, setEvery, adjust, setAdjust, show } = props
  const { rule, measures } = useFind()
  const [tool, setTool] = useState<Tool>()
  const [table, setTable] = useState(false)
  const picture = useRef<() => string>(undefined)
  const lines = useMemo(
    () => linesOf(source, rule, measures, layout.panels),
    [source, rule, measures, layout.panels],
  )
  const marks = useMarks(symbol, bars, dataId !== undefined)
  useHotkeys([['Escape', () => setTool(undefined)]])
  const finest = dataId ? roughMinutes(bars.every) : 0
  const frames = dataId
    ? FRAMES.filter((f) => roughMinutes(parseTimeframe(f)!) >= Math.min(finest, 1440))
    : FRAMES
  const besides = layout.frames.slice(1)
  const setBesides = (next: string[]) => changeLayout(symbol, () => ({ frames: [every, ...next] }))
  return (
    <>
      <div className={css.tools}>
        <SegmentedControl size="xs" data={frames} value={every} onChange={setEvery} aria-label="Timeframe" />
        <OtherFrame every={frames.includes(every) ? undefined : every} onChoose={setEvery} />
        <Menu position="bottom-start">
          <Menu.Target>
            <button type="button" className="blank">
              beside it: {besides.length === 0 ? 'none' : besides.join(', ')}
            </button>
          </Menu.Target>
          <Menu.Dropdown>
            {frames.map((frame) => (
              <Menu.Item
                key={frame}
                onClick={() =>
                  setBesides(
                    besides.includes(frame)
                      ? besides.filter((f) => f !== frame)
                      : [...besides, frame].slice(-3),
                  )
                }
              >
                {besides.includes(frame) ? `without ${frame}` : frame}
              </Menu.Item>
            ))}
          </Menu.Dropdown>
        </Menu>
        <MeasurePicker symbol={symbol} panels={layout.panels} every={bars.every} />
        <span className="soft">draw</span>
        <DrawTools tool={tool} setTool={setTool} />
      </div>
      <div className={css.ruleRow}>
        <Link href="/find" className={css.rule} title={rule}>
          {rule}
        </Link>
        {!dataId && <LiveVerdict symbol={symbol} source={source} />}
        <span className="soft">△ came true {hits.length === 1 ? 'once' : `${hits.length} times`}</span>
        {!dataId && (
          <Menu position="bottom-end">
            <Menu.Target>
              <button type="button" className="blank">
                {ADJUSTED[adjust]}
              </button>
            </Menu.Target>
            <Menu.Dropdown>
              {(Object.keys(ADJUSTED) as Adjustment[]).map((how) => (
                <Menu.Item key={how} onClick={() => setAdjust(how)}>
                  {ADJUSTED[how]}
                </Menu.Item>
              ))}
            </Menu.Dropdown>
          </Menu>
        )}
        <button type="button" className="blank" aria-pressed={table} onClick={() => setTable(!table)}>
          {table ? 'chart' : 'table'}
        </button>
        <ChartFile picture={table ? undefined : picture} {...{ symbol, every, bars, lines, layout }} />
      </div>
      {table ? (
        <FiguresTable bars={bars} lines={lines} />
      ) : (
        <div className={css.charts} data-besides={besides.length > 0 || undefined}>
          <div className={css.pane}>
            <ChartPane
              key={`${every} ${adjust}`}
              {...{ symbol, bars, lines, hits, marks, layout, tool, setTool, show }}
              onPicture={(make) => (picture.current = make)}
            />
          </div>
          {besides.length > 0 && (
            <div className={css.besides}>
              {besides.map((frame) => (
                <BesidePane
                  key={frame}
                  symbol={symbol}
                  every={frame}
                  dataId={dataId}
                  layout={layout}
                  adjust={adjust}
                />
              ))}
            </div>
          )}
        </div>
      )}
    </>
  )
}

function BesidePane({
  symbol,
  every,
  dataId,
  layout,
  adjust,
}: {
  symbol: string
  every: string
  dataId?: string
  layout: LookLayout
  adjust: Adjustment
}) {
  const { rule, measures } = useFind()
  const texts = useMemo(() => [rule, ...measures], [rule, measures])
  const bars =
    useBars(symbol, every, { dataId, soFar: !dataId, prices: adjust, extras: countedIn(texts) }).data ??
    undefined
  const source = useBarSource(symbol, bars, texts, { own: dataId !== undefined })
  const hits = useHits(source)
  const lines = useMemo(() => (source ? linesOf(source, rule, measures, []) : []), [source, rule, measures])
  const marks = useMarks(symbol, bars, dataId !== undefined)
  return (
    <div className={css.pane}>
      <p className={css.frameName}>
        {every} <span className="soft">△ {hits.length} times</span>
      </p>
      {bars && bars.time.length > 0 ? (
        <ChartPane small {...{ symbol, bars, lines, hits, marks, layout }} />
      ) : (
        <p className="soft">Fetching bars …</p>
      )}
    </div>
  )
}
