import { Markets } from '@/broker/market/markets'
import { type Listed } from '@/broker/market/listing'
import { takeQuoted } from '@/core/engine/shared'
import { type Bars, type ExtraName, SERIES } from '@/core/market/bars'
import { fromE4, toE4 } from '@/core/market/money'
import { parseTimeframe } from '@/core/market/timeframe'
import { BRACKWATER, type Session, sessionsBetween } from '@/core/market/venue'
import { type Plan } from '@/core/plans/document'
import { contractsOf } from '@/core/plans/drawn'
import { countsOf } from '@/core/plans/texts'
import { findNow } from '@/core/plans/found'
import { type LiveBar } from '@/core/rules/exec/liveBar'
import { PlanBench } from './planBench'

const MINUTE = 60_000
const DAY = 86_400_000

/** The market of the demo, and the moment at which the demo starts. */
export const DEMO_START = Date.parse('2026-03-16T10:42:00-03:00')
export const demoMarkets = (): Markets => new Markets('estuary', '2021-03-15', '2026-12-31')

/** Bars that a plan is told before it looks. */
const BEFORE = 2000

/** Sessions up to the one in which the demo starts, so many. */
export const lastSessions = (count: number): Session[] =>
  sessionsBetween(
    BRACKWATER,
    new Date(DEMO_START - 2 * count * DAY).toISOString().slice(0, 10),
    new Date(DEMO_START).toISOString().slice(0, 10),
  ).slice(-count)

/** A plan stepped through past sessions of the demo's market by engine and venue, as in a runner: minute by minute, with its quotes. */
export class OverHistory extends PlanBench {
  private readonly known = new Set<string>()
  private readonly inside: boolean
  private readonly extras: readonly ExtraName[]
  /** Of each security, the bars of the session by their end. */
  private bars = new Map<string, Map<number, LiveBar>>()

  constructor(
    plan: Plan,
    private readonly markets: Markets,
    symbols: readonly string[],
  ) {
    super(plan, false, symbols)
    this.inside = plan.sides.some((side) => side.if.bars === 'SoFar')
    this.extras = plan.sides.flatMap(countsOf)
  }

  /** Whether an order of its own was filled. */
  get filled(): boolean {
    const traded = new Set(
      this.reported.flatMap(({ clOrdId, lastQty = 0 }) => (lastQty > 0 ? [clOrdId] : [])),
    )
    const filled = this.sent.filter(({ clOrdId }) => traded.has(clOrdId)).length
    // Of a pair both legs.
    return this.plan.sides.some(({ among }) => 'pairs' in among)
      ? filled > 1 && filled === this.sent.length
      : filled > 0
  }

  /** Before a session: what the sides look at, and shares of others' that are held, where a side closes those. */
  begin(session: Session, universes: string[][] | undefined, held: readonly string[]): void {
    this.now = session.open
    for (const [side, symbols] of (universes ?? []).entries())
      this.step({ is: 'universe', at: this.now, side, symbols }, true)
    for (const symbol of held) {
      this.prices[symbol] = this.markets.quoteAt(this.listed(symbol), session.open).last
      this.byHand({ symbol, side: 'Buy', orderQty: 50, clOrdId: `by-hand-${symbol}` })
    }
  }

  /** One session; ends where an order was filled. */
  session(session: Session, symbols: readonly string[]): void {
    for (const symbol of symbols) this.tellBefore(symbol, session)
    this.bars = new Map(symbols.map((symbol) => [symbol, this.barsIn(symbol, session)]))
    const minutes = new Map(symbols.map((symbol) => [symbol, this.asked(symbol, '1 min', session)]))
    const events = (this.plan.events ?? []).map((event) => ({ ...event, at: Date.parse(event.at) }))
    for (let at = session.open; at < session.close && !this.filled; at += MINUTE) {
      for (const event of events.filter((one) => one.at >= at && one.at < at + MINUTE)) this.tellOf(event)
      for (const [symbol, rows] of minutes) this.minute(symbol, rows, at)
      for (const contract of contractsOf(this.plan)) this.quoteContract(contract, at + MINUTE - 1000)
      this.pass(at + MINUTE)
      for (const symbol of symbols) this.ended(symbol, at + MINUTE)
    }
  }

  private listed = (symbol: string): Listed => this.markets.find(symbol)!

  private asked(symbol: string, every: string, { open, close }: Session): Bars {
    const ask = {
      from: open,
      to: close,
      limit: 2000,
      soFar: false,
      extras: ['uptrades', 'downtrades'] as const,
    }
    return this.markets.bars(this.listed(symbol), parseTimeframe(every)!, DEMO_START + DAY, ask)
  }

  private barsIn(symbol: string, session: Session): Map<number, LiveBar> {
    const bars = this.asked(symbol, this.every, session)
    return new Map(Array.from(bars.time, (_, row) => [bars.end[row], rowOf(bars, row)]))
  }

  /** Bars before a session of a security that it looks at for the first time. */
  private tellBefore(symbol: string, { open }: Session): void {
    if (this.known.has(symbol)) return
    this.known.add(symbol)
    const ask = { to: open, limit: BEFORE, soFar: false, extras: this.extras }
    const bars = this.markets.bars(this.listed(symbol), parseTimeframe(this.every)!, open, ask)
    for (let row = 0; row < bars.time.length; row++) {
      const bar = rowOf(bars, row)
      this.step({ is: 'bar', at: bar.end, symbol, every: this.every, bar }, false)
    }
  }

  /** The prices of a minute in the order in which they are usual: the nearer extreme first. */
  private minute(symbol: string, rows: Bars, at: number): void {
    const row = rows.time.indexOf(at)
    if (row < 0) return
    const { open, high, low, close, volume, uptrades, downtrades } = rows
    const way = close[row] >= open[row] ? [low[row], high[row]] : [high[row], low[row]]
    // Who looks at whole bars alone needs no more than where the minute ended.
    const prices = this.inside ? [open[row], ...way, close[row]] : [close[row]]
    const quote = this.markets.of(this.listed(symbol)).quoteAt(this.listed(symbol), at)
    const spread = fromE4(quote.ask - quote.bid)
    for (const [i, last] of prices.entries()) {
      const part = (of: number) => of / prices.length
      const share = { volume: part(volume[row]), uptrades: part(uptrades?.[row] ?? 0) }
      const since = { ...share, high: last, low: last, downtrades: part(downtrades?.[row] ?? 0) }
      this.now = at + ((i + 1) * (MINUTE - 1000)) / prices.length
      this.prices[symbol] = toE4(last)
      const told = { symbol, at: this.now, bid: last - spread / 2, ask: last + spread / 2, last, since }
      takeQuoted(this.shared, told)
      this.meet()
      this.step({ is: 'quote', ...told }, true)
      this.answerAll()
    }
  }

  private quoteContract(symbol: string, at: number): void {
    const { home } = this.markets
    const listed = home.chains.find(symbol)
    if (!listed || !home.chains.isListed(listed, at)) return
    const { bid, ask } = home.quoteAt(listed, at)
    this.now = at
    this.quote(symbol, fromE4(bid), fromE4(ask))
    this.answerAll()
  }

  private ended(symbol: string, at: number): void {
    const bar = this.bars.get(symbol)!.get(at)
    if (!bar) return
    this.now = at
    this.step({ is: 'bar', at, symbol, every: this.every, bar }, true)
    this.answerAll()
  }

  private pass(at: number): void {
    this.now = at
    this.step({ is: 'time', at }, true)
    this.answerAll()
  }

  /** Something happened, and the trader and the outside give it all that the card asks of them. */
  private tellOf({
    key,
    symbol,
    at,
    text,
  }: {
    key: string
    symbol: string
    at: number
    text?: string
  }): void {
    this.now = at
    this.step({ is: 'dated', key, symbol, at, ...(text ? { text } : {}) }, true)
    for (const { score } of this.plan.sides)
      for (const { name, points, from } of score?.lines ?? [])
        if (from === 'Trader' || from === 'Outside')
          this.step({ is: 'points', at, key, line: name, points }, true)
    this.answerAll()
  }

  /** The venue takes what was wanted; the trader says yes to what is asked. */
  private answerAll(): void {
    const seen = this.asks
    this.answer()
    const asked = this.wanted.flatMap((one) => (one.is === 'ask' ? [one.order.clOrdId] : []))
    this.asks = asked.length
    for (const clOrdId of asked.slice(seen))
      this.step({ is: 'answer', at: this.now, clOrdId, yes: true }, true)
    if (asked.length > seen) this.answer()
  }
  private asks = 0
}

function rowOf(bars: Bars, row: number): LiveBar {
  const bar: Record<string, number> = { time: bars.time[row], end: bars.end[row] }
  for (const name of [...SERIES, 'uptrades', 'downtrades'] as const)
    if (bars[name]) bar[name] = bars[name][row]
  return bar as LiveBar
}

/** What a side of a plan looks at in a session: its list, its pairs, what its search finds before the open. */
function universeOf(plan: Plan, side: number, markets: Markets, session: Session): string[] {
  const { among } = plan.sides[side]
  if ('list' in among) return among.list
  if ('pairs' in among) return among.pairs.map(([first]) => first)
  if (!('found' in among)) return ['OSPRY', 'GANET']
  const listed = markets.home.listing.filter(({ orderable, option }) => orderable && !option)
  const every = parseTimeframe(among.found.every)!
  const bars = listed.map((one) => markets.bars(one, every, session.open, { limit: 400, soFar: false }))
  return findNow(among.found, { symbols: listed.map(({ symbol }) => symbol), bars }).symbols
}

/** A plan stepped over sessions until an order of it is filled; one of events from the session before its first item on. */
export function stepped(plan: Plan, markets: Markets, all: readonly Session[]): OverHistory {
  const first = Math.min(...(plan.events ?? []).map(({ at }) => Date.parse(at)))
  const next = Number.isFinite(first) ? all.findIndex(({ close }) => close > first) : 1
  const sessions = all.slice(Math.max(0, next - 1))
  const found = plan.sides.some(({ among }) => 'found' in among)
  const mates = plan.sides.flatMap(({ among }) => ('pairs' in among ? among.pairs.flat() : []))
  const named = plan.sides.flatMap((_, side) => universeOf(plan, side, markets, sessions[0]))
  const listed = found
    ? markets.home.listing.filter((one) => one.orderable && !one.option).map((one) => one.symbol)
    : []
  const legs =
    contractsOf(plan).length > 0 ? plan.sides.flatMap(({ among }) => ('list' in among ? among.list : [])) : []
  const bench = new OverHistory(plan, markets, [...new Set([...listed, ...named, ...mates, ...legs])])
  let held = plan.sides.some(({ among }) => 'positions' in among) ? named : []
  for (const session of sessions) {
    const universes = plan.sides.map((_, side) => universeOf(plan, side, markets, session))
    bench.begin(session, found ? universes : undefined, held)
    bench.session(session, [...new Set([...universes.flat(), ...mates])])
    held = []
    if (bench.filled) break
  }
  return bench
}
