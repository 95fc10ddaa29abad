import { type Broker } from '@/client'
import { decodeBars } from '@/core/formats/barsBinary'
import { openTable } from '@/core/market/barTable'
import { type Bars } from '@/core/market/bars'
import { stamper } from '@/core/market/moments'
import { type Timeframe } from '@/core/market/timeframe'
import { type Tick } from '@/core/market/wire'
import { clockOf } from '@/core/engine/clock'
import { type Listed, type Quoted } from '@/core/engine/listed'
import { startOfBar } from '@/core/engine/growing'
import { barAt, type LiveBar } from '@/core/rules/exec/liveBar'

/** The market as it stood at a past moment, from what the broker keeps of it. */

const MINUTE = 60_000
/** Minutes that a session has at most. */
const MOST_MINUTES = 1500

const stamperOf = ({ venue }: Listed) => stamper({ count: 1, unit: 'min' }, venue.zone)

/** The quote that stood at a moment; undefined where the venue was closed. */
export async function quoteAt(broker: Broker, listed: Listed, at: number): Promise<Quoted | undefined> {
  const [tick] = await broker.ticks(listed.security.symbol, stamperOf(listed)(at - 1000), 1)
  if (!tick || Date.parse(tick.at) > at) return undefined
  const { bid, ask, last } = tick
  return { at, bid, ask, last }
}

/** Quotes of contracts that are listed as they stood at a moment, by symbol; what had none then is left out. */
export async function contractsAt(
  broker: Broker,
  listed: Readonly<Record<string, Listed>>,
  contracts: readonly string[],
  at: number,
): Promise<Record<string, Quoted>> {
  const known = contracts.filter((symbol) => listed[symbol])
  const quotes = await Promise.all(known.map((symbol) => quoteAt(broker, listed[symbol], at)))
  return Object.fromEntries(known.flatMap((symbol, i) => (quotes[i] ? [[symbol, quotes[i]]] : [])))
}

/**
 * The bar that grew at a moment, as far as it had come: complete minutes, and the seconds of the last one. Trades of that minute
 * that went up or down are not kept apart, so that their counts are unknown unless the minute has just begun. Undefined outside
 * of sessions, and of bars longer than a session.
 */
export async function growingAt(
  broker: Broker,
  listed: Listed,
  every: Timeframe,
  at: number,
): Promise<LiveBar | undefined> {
  const { state, session, date } = clockOf(listed.venue).at(at)
  if (state !== 'Open' || every.unit === 'week' || every.unit === 'month') return undefined
  const start = startOfBar(every, session, at)
  const minute = session.open + Math.floor((at - session.open) / MINUTE) * MINUTE
  const { symbol } = listed.security
  const [answer, ticks] = await Promise.all([
    broker.bars('1 min', {
      ...{ symbols: [symbol], from: date, to: date, limit: MOST_MINUTES },
      extras: ['uptrades', 'downtrades'],
    }),
    broker.ticks(symbol, stamperOf(listed)(minute), 60),
  ])
  const [minutes] = openTable(decodeBars(answer)).bars
  const over = rows(minutes).filter(({ time, end }) => time >= start && end <= at)
  const begun = ticks.filter((tick) => Date.parse(tick.at) <= at)
  const [first] = [over[0]?.open ?? begun[0]?.last]
  if (first === undefined) return undefined
  return together(over, begun, { time: start, open: first })
}

const rows = (bars: Bars): LiveBar[] => Array.from(bars.time, (_, row) => barAt(bars, row))

function together(
  minutes: readonly LiveBar[],
  ticks: readonly Tick[],
  { time, open }: { time: number; open: number },
): LiveBar {
  const lasts = ticks.map(({ last }) => last)
  const sum = (of: (minute: LiveBar) => number | undefined) =>
    minutes.reduce((all, minute) => all + (of(minute) ?? NaN), 0)
  const counted = ticks.length === 0 ? {} : NOT_COUNTED
  return {
    ...{ time, end: Infinity, open },
    high: Math.max(...minutes.map(({ high }) => high), ...lasts),
    low: Math.min(...minutes.map(({ low }) => low), ...lasts),
    close: lasts.at(-1) ?? minutes.at(-1)!.close,
    volume: sum(({ volume }) => volume) + ticks.reduce((all, { volume = 0 }) => all + volume, 0),
    ...{ uptrades: sum((one) => one.uptrades), downtrades: sum((one) => one.downtrades) },
    ...counted,
  }
}

const NOT_COUNTED = { uptrades: NaN, downtrades: NaN }
