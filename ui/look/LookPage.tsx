'use client'
import { Button } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { AppLink } from '../shell/AppLink'
import { useRouter, useSearchParams } from 'next/navigation'
import { Suspense, useEffect, useMemo, useState } from 'react'
import { percentChange } from '@/core/market/change'
import { type Bars } from '@/core/market/bars'
import { priceText } from '@/core/market/money'
import { db } from '@/store/db'
import { restoreDraft, useFind } from '../find/findStore'
import { useQuote, useSecurities } from '../link/LinkProvider'
import { countedIn } from '../market/frames'
import { useBarSource } from '../market/useBesides'
import { Change } from '../shell/Change'
import { KeepAsList } from '../shell/KeepAsList'
import page from '../shell/Page.module.css'
import { useKeys } from '../shell/useKeys'
import { TicketPanel } from '../ticket/TicketPanel'
import { useTicket } from '../ticket/ticketStore'
import { type Asked, lookPath, readAsked } from './asked'
import { BallotPanel } from './BallotPanel'
import { type Show } from './ChartPane'
import { Charts } from './Charts'
import { ArmedWith } from './ArmedWith'
import { DrawnList } from './DrawnList'
import { USUAL_STEPS } from './dragging'
import { asFound, barNamed } from './found'
import { HitsTable } from './HitsTable'
import css from './Look.module.css'
import { lookedAt } from './lookedAt'
import { useBars } from './useBars'
import { useLayout } from './useLayout'
import { useRuleColumn } from './useRuleColumn'
import { useStretch } from './useStretch'

export function LookPage({ symbol }: { symbol: string }) {
  return (
    <Suspense>
      <Look key={symbol} symbol={symbol} />
    </Suspense>
  )
}

/** The rule that the address carries, until another one is written in Find. */
function useLookRule(carried: string | undefined): string {
  const { rule, draftRead } = useFind()
  const [base, setBase] = useState<string>()
  if (draftRead && base === undefined) setBase(rule)
  return carried !== undefined && (base === undefined || base === rule) ? carried : rule
}

function Look({ symbol }: { symbol: string }) {
  const router = useRouter()
  const query = useSearchParams()
  const asked = useMemo(() => readAsked(query), [query])
  const { dataId } = asked
  const own = dataId !== undefined
  const security = useSecurities().data?.find((s) => s.symbol === symbol)
  const layout = useLayout(symbol)
  const ownEvery = useLiveQuery(async () => (dataId ? (await db.ownData.get(dataId))?.every : ''), [dataId])
  const every = asked.every ?? layout?.frames[0] ?? (ownEvery || '1 day')
  const prices = asked.prices ?? 'over-splits'
  const { measures, against } = useFind()
  const rule = useLookRule(asked.rule)
  const go = (change: Partial<Asked>) => router.replace(lookPath(symbol, { ...asked, rule, ...change }))
  const leave = { at: undefined, first: undefined, asOf: undefined }
  const texts = useMemo(
    () => [rule, against, ...measures, ...(layout?.panels ?? []).flatMap((p) => p.measures)],
    [rule, against, measures, layout?.panels],
  )
  const stretch = useStretch(symbol, every, own, asked.at)
  const fetched = useBars(symbol, every, {
    dataId,
    soFar: !own,
    to: stretch.to,
    prices,
    extras: countedIn(texts),
  })
  const bars = useMemo(
    () => (fetched.data ? asFound(fetched.data, asked.first) : fetched.data),
    [fetched.data, asked.first],
  )
  const ticket = useTicket((s) => s.ticket)
  const [show, setShow] = useState<Show>()
  useEffect(() => {
    void restoreDraft()
    void lookedAt(symbol, dataId)
  }, [symbol, dataId])
  const canOrder = !own && security?.orderable === true
  useKeys([['o', () => canOrder && useTicket.getState().open(symbol)]])
  const source = useBarSource(symbol, bars ?? undefined, texts, { own, first: asked.first, prices })
  const column = useRuleColumn(rule, source)
  const otherColumn = useRuleColumn(against, source)
  const steps = security?.increments ?? USUAL_STEPS
  const foundRow = useMemo(() => (bars ? barNamed(bars, asked.at) : undefined), [bars, asked.at])
  const foundMoment = bars && foundRow !== undefined ? bars.time[foundRow] : undefined
  // A past hit, or a row as of a past day, comes into view where it is.
  const [shown, setShown] = useState<number>()
  if (foundMoment !== undefined && foundMoment !== shown) {
    setShown(foundMoment)
    setShow({ moment: foundMoment })
  }
  if (fetched.error) return <div className={page.empty}>{fetched.error.message}</div>
  const none = bars === null || bars?.time.length === 0
  const found =
    foundRow === undefined
      ? undefined
      : {
          row: foundRow,
          verdict: column?.verdictAt(foundRow) ?? ('unknown' as const),
          asOf: asked.asOf,
          leave: () => go(leave),
        }
  return (
    <div className={page.page}>
      <section className={page.main} aria-label={`Chart of ${symbol}`}>
        <div className={css.head}>
          <h1>{security?.name ?? symbol}</h1>
          <span className="soft">
            {symbol}
            {security ? ` · ${security.sector} · ${security.currency}` : own ? ' · my own data' : ''}
          </span>
          {!own && <LivePrice symbol={symbol} days={stretch.days} />}
        </div>
        {none ? (
          <div className={page.empty}>
            <span>There are no bars of {symbol} here.</span>
            <AppLink href="/find">Find one that has</AppLink>
          </div>
        ) : bars && layout && source ? (
          <Charts
            {...{ symbol, bars, source, layout, dataId, every, prices, rule, against, steps, found, show }}
            hits={column?.rows ?? []}
            againstHits={otherColumn?.rows ?? []}
            days={stretch.days}
            setEvery={(next) => go({ ...leave, every: next })}
            setPrices={own ? undefined : (next) => go({ ...leave, prices: next })}
            goTo={(moment, width) => {
              stretch.reach(bars, moment)
              setShow({ moment, width })
            }}
          />
        ) : (
          <div className={page.empty}>Fetching bars …</div>
        )}
      </section>
      <aside className={page.aside} aria-label="Order and past hits">
        {ticket && ticket.symbol === symbol ? (
          <TicketPanel />
        ) : bars && !none && layout ? (
          <>
            <p className={css.actions}>
              <KeepAsList symbols={[symbol]} button="Add to a list" />
              {canOrder && (
                <Button onClick={() => useTicket.getState().open(symbol)}>Make it an order</Button>
              )}
            </p>
            <DrawnList symbol={symbol} every={bars.every} drawings={layout.drawings} steps={steps} />
            <ArmedWith symbol={symbol} drawings={layout.drawings} />
            <BallotPanel source={source} row={foundRow} />
            <HitsTable
              bars={bars}
              rows={column?.rows ?? []}
              rule={rule}
              onShow={(row) => setShow({ moment: bars.time[row] })}
            />
          </>
        ) : null}
      </aside>
    </div>
  )
}

function LivePrice({ symbol, days }: { symbol: string; days?: Bars }) {
  const quote = useQuote(symbol)
  if (!quote) return null
  const before = days && days.close.length > 1 ? days.close[days.close.length - 2] : undefined
  return (
    <span>
      <span className={css.price}>{priceText(quote.last)}</span>{' '}
      {before !== undefined && <Change value={percentChange(before, quote.last)} />}
      {before !== undefined && ' %'}{' '}
      <span className="soft">
        bid {priceText(quote.bid)} × {quote.bidSize} · ask {priceText(quote.ask)} × {quote.askSize}
      </span>
    </span>
  )
}
