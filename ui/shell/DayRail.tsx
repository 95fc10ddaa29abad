'use client'
import { Tooltip } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { DateTime } from 'luxon'
import { useRouter } from 'next/navigation'
import { useMemo } from 'react'
import { priceText } from '@/core/market/money'
import { type Order } from '@/core/orders/model'
import { db } from '@/store/db'
import { useElsewhere } from '../plan/runnerHere'
import { type LookedAt } from '../services/looks'
import { useRuns } from '../services/useRuns'
import { useOrders, useSession } from '../link/LinkProvider'
import { useLink } from '../link/useLink'
import { kindText, orderText } from '../desk/orderText'
import css from './DayRail.module.css'
import { clockText, minuteOfDay } from './marketTime'

export interface Mark {
  minute: number
  shape: string
  look?: string
  sentence: string
  goes: string
}

/** What a filled order came to: "bought 10 OSPRY at 11.99". */
const doneText = (order: Order): string =>
  order.role === 'Split'
    ? `${order.symbol}: ${orderText(order)}`
    : `${order.side === 'Buy' ? 'bought' : 'sold'} ${order.cumQty} ${order.symbol} at ${priceText(order.avgPx)}`

/** One small shape for each order or fill of the day; fills of one second stand together. */
function orderMarks(orders: readonly Order[], zone: string): Mark[] {
  return orders.flatMap((order): Mark[] => {
    const goes = `/desk?order=${encodeURIComponent(order.clOrdId)}`
    if (order.ordStatus === 'Rejected') {
      return [
        {
          minute: minuteOfDay(order.enteredTime, zone),
          shape: '×',
          look: css.rejected,
          sentence: `${clockText(order.enteredTime, true, zone)}: refused ${order.side} ${order.orderQty} ${order.symbol}. ${order.text ?? ''}`,
          goes,
        },
      ]
    }
    const fills = order.chain.filter((step) => step.execType === 'Trade')
    const last = fills.at(-1)
    if (last) {
      return [
        {
          minute: minuteOfDay(last.at, zone),
          shape: order.side === 'Buy' ? '▲' : '△',
          sentence: `${clockText(last.at, true, zone)}: ${doneText(order)}`,
          goes,
        },
      ]
    }
    if (order.role !== 'Entry') return []
    return [
      {
        minute: minuteOfDay(order.enteredTime, zone),
        shape: '–',
        look: css.waiting,
        sentence: `${clockText(order.enteredTime, true, zone)}: ${order.side} ${order.orderQty} ${order.symbol}, ${kindText(order)}, ${order.ordStatus}`,
        goes,
      },
    ]
  })
}

/** Minutes about now in which an hour would lie under the mark: 20 pixels at the height of 800. */
const BESIDE = 11

/** Minutes between shapes on the ruler, so that each can be hit: 24 pixels at the height of 800 (WCAG 2.2, 2.5.8). */
const APART = 13

/** Marks that would lie on each other, drawn as one at the first of them: it tells them all and goes to the latest. */
export function together(marks: readonly Mark[]): Mark[] {
  const groups: Mark[][] = []
  for (const mark of [...marks].sort((a, b) => a.minute - b.minute)) {
    const group = groups.at(-1)
    if (group && mark.minute - group[0].minute < APART) group.push(mark)
    else groups.push([mark])
  }
  return groups.map((group) => {
    const told = group.slice(-6).map((mark) => mark.sentence)
    const more = group.length - told.length
    const sentence = [...(more > 0 ? [`${more} more before`] : []), ...told].join('\n')
    return { ...group.at(-1)!, minute: group[0].minute, sentence }
  })
}

/** What plans looked at, those of this page and those that the command line runs: marks beside those of what was done. */
function lookMarks(
  plans: readonly { name: string; goes: string; looks: readonly LookedAt[] }[],
  session: { opens: string; closes: string; zone: string },
): Mark[] {
  const [opens, closes] = [Date.parse(session.opens), Date.parse(session.closes)]
  return plans.flatMap(({ name, goes, looks }) =>
    looks
      .filter(({ minute }) => minute >= opens && minute <= closes)
      .map(({ minute, count, text }): Mark => {
        const at = new Date(minute).toISOString()
        const often = count === 1 ? '' : ` (the last of ${count})`
        return {
          ...{ minute: minuteOfDay(at, session.zone), shape: '', goes },
          sentence: `${clockText(at, false, session.zone)}: ${name} looked${often}: ${text}`,
        }
      }),
  )
}

/** A mark that tells its sentence when it is pointed at, and leads to what it is of. */
function MarkButton({ mark, look, top }: { mark: Mark; look: string; top: string }) {
  const router = useRouter()
  const { sentence, goes, shape } = mark
  return (
    <Tooltip style={{ whiteSpace: 'pre-line' }} label={sentence} position="right" multiline maw={420}>
      <button
        type="button"
        className={look}
        style={{ top }}
        aria-label={sentence}
        onClick={() => router.push(goes)}
      >
        {shape}
      </button>
    </Tooltip>
  )
}

/** The trading day as a ruler, open at the top, close at the bottom, with what has happened on it. */
export function DayRail() {
  const clock = useLink((s) => s.clock)
  const session = useSession().data
  const orders = useOrders().data
  const runs = useLiveQuery(() => db.runs.orderBy('ranAt').reverse().limit(60).toArray(), [], [])
  const marks = useMemo(() => {
    if (!session) return []
    const opens = Date.parse(session.opens)
    const scans = runs
      .filter(
        (run) =>
          run.marketTime !== undefined &&
          run.marketTime >= opens &&
          run.marketTime <= Date.parse(session.closes),
      )
      .map((run): Mark => {
        const at = DateTime.fromMillis(run.marketTime!, { zone: session.zone })
        return {
          minute: at.hour * 60 + at.minute,
          shape: '○',
          sentence: `${at.toFormat('HH:mm')}: the scan “${run.name}” found ${run.symbols.length}`,
          goes: `/find?scan=${run.scanId}`,
        }
      })
    return together([
      ...orderMarks(
        (orders ?? []).filter((o) => o.tradeDate === session.date),
        session.zone,
      ),
      ...scans,
    ])
  }, [orders, runs, session])
  const here = useRuns((s) => s.runs)
  const { data: elsewhere = [] } = useElsewhere(15_000)
  const looks = useMemo(() => {
    if (!session) return []
    const own = Object.values(here).map(({ plan, looks: all }) => ({
      name: plan.name,
      id: plan.id,
      looks: all,
    }))
    const others = elsewhere.map((run) => ({
      name: run.plan?.name ?? run.id,
      id: `runner ${run.id}`,
      looks: run.looks,
    }))
    return lookMarks(
      [...own, ...others].map((one) => ({ ...one, goes: `/plan?plan=${encodeURIComponent(one.id)}` })),
      session,
    )
  }, [here, elsewhere, session])
  if (!session || !clock) return <aside className={css.rail} aria-label="Day rail" />
  const [open, close] = [minuteOfDay(session.opens), minuteOfDay(session.closes)]
  const share = (minute: number) =>
    `${(100 * (Math.min(close, Math.max(open, minute)) - open)) / (close - open)}%`
  const isToday = clock.now.slice(0, 10) === session.date
  const now = minuteOfDay(clock.now)
  const hours = [open, ...Array.from({ length: 24 }, (_, h) => h * 60).filter((m) => m > open && m <= close)]
  const shown = isToday ? Math.min(close, Math.max(open, now)) : open
  return (
    <aside className={css.rail} aria-label="Day rail">
      <div className={css.track}>
        {hours.map((minute) => (
          <span
            key={minute}
            className={css.hour}
            // The moment itself tells the time there: an hour under it would be read as now.
            data-under={Math.abs(minute - shown) < BESIDE || undefined}
            style={{ top: share(minute) }}
          >
            {`${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`}
          </span>
        ))}
        {isToday && <div className={css.passed} style={{ height: share(shown) }} />}
        <span
          className={css.now}
          style={{ top: share(shown) }}
          role="img"
          aria-label={`Now ${clockText(clock.now)} at the exchange`}
        >
          {clockText(clock.now)}
        </span>
        {[...new Set(looks.map(({ minute }) => minute))].map((minute) => (
          <i key={minute} className={css.looked} style={{ top: share(minute) }} />
        ))}
        {together(looks).map((mark) => (
          <MarkButton key={mark.minute} mark={mark} look={css.looks} top={share(mark.minute)} />
        ))}
        {marks.map((mark) => (
          <MarkButton
            key={mark.minute}
            mark={mark}
            look={`${css.mark} ${mark.look ?? ''}`}
            top={share(mark.minute)}
          />
        ))}
      </div>
    </aside>
  )
}
