import { incrementAt } from '@/core/market/increment'
import { toE4 } from '@/core/market/money'
import { localDate, type Session, sessionAtOrAfter, sessionsBetween, type Venue } from '@/core/market/venue'
import { dividendOn, inOwnShares } from './actions'
import { type DailyColumns, dailyColumns } from './daily'
import { type Factor, marketFactor, sectorFactor } from './factors'
import {
  type DayBar,
  type MinuteColumns,
  minuteColumns,
  secondPrices,
  type Seconds,
  secondVolumes,
} from './intraday'
import { isOption } from '@/core/options/osi'
import { Chains } from './chains'
import { ContractPrices } from './contractPrices'
import { countUpTo } from './countUpTo'
import { ShareCounts } from './shareCounts'
import { optionVolumeOn } from './reports'
import { type Quote } from './quote'
import { type Listed } from './listing'
import { chance, seedOf } from '@/core/market/chance'

/** Extremes, shares and trades of a stretch of seconds; prices in whole ten-thousandths. */
export interface Traded {
  high: number
  low: number
  volume: number
  up: number
  down: number
}

const MINUTE = 60_000
/** A message that stands for more sessions than these tells of the last ones. */
const SPAN_SESSIONS = 3
const DAY = 86_400_000
/** How far the calendar reaches beyond the present, in days: contracts and reports are announced that lie ahead. */
const AHEAD = 250
/** How long before the open prices are indicated. */
const INDICATED_FOR = 120 * MINUTE
/** No shares, in each second of a minute. */
const NOTHING = new Int32Array(60)

/**
 * The stand-in market: every bar and quote is a pure function of the seed, the security and the moment, so it
 * can be asked about any past second and gives the same after a restart. It knows the future, and leaves it
 * to its callers (see the clock) to ask only for what has happened.
 */
export class Market {
  private sessions: Session[]
  private readonly rowByDate = new Map<string, number>()
  /** In the shares of the market's start, and in those of each day. */
  private readonly process = new Map<string, DailyColumns>()
  private readonly daily = new Map<string, DailyColumns>()
  private factors: Factor[] = []
  private readonly sectors = new Map<string, Factor[]>()
  private readonly bySymbol: Map<string, Listed>
  readonly chains: Chains
  readonly shares: ShareCounts
  private readonly contracts: ContractPrices
  private readonly minutesKept = new Map<string, MinuteColumns>()
  private readonly secondsKept = new Map<string, Seconds & { at: number }>()
  private begun: readonly Session[] = []

  constructor(
    readonly venue: Venue,
    readonly listing: readonly Listed[],
    readonly seed: string,
    private readonly firstDate: string,
    lastDate: string,
  ) {
    this.bySymbol = new Map(listing.map((listed) => [listed.symbol, listed]))
    this.chains = new Chains(this)
    this.shares = new ShareCounts(this, Chains.has)
    this.contracts = new ContractPrices({
      ...{ seed, chains: this.chains, find: this.find },
      quoteAt: (listed, moment) => this.quoteAt(listed, moment),
      sessionAt: (moment) => this.sessionAt(moment),
      sessionsBegunBy: (moment) => this.sessionsBegunBy(moment),
      contracts: (underlying, session) => this.chains.drawsOf(underlying, session),
      volume: (underlying, { date }) =>
        optionVolumeOn(seed, underlying, date, this.dailyOf(underlying).volume[this.rowByDate.get(date)!]),
    })
    this.sessions = sessionsBetween(venue, firstDate, lastDate)
    this.extendTo(this.sessions.length)
  }

  /** What a symbol names, an option contract included. */
  find = (symbol: string): Listed | undefined =>
    this.bySymbol.get(symbol) ?? (isOption(symbol) ? this.chains.find(symbol) : undefined)

  /** Whether a security can be traded at a moment; what is no contract always can. */
  isListed = (listed: Listed, now: number): boolean => !listed.option || this.chains.isListed(listed, now)

  /** Lowest and highest price of a security in a minute of a session, or what they could be; in e4. */
  rangeOf(listed: Listed, session: Session, row: number): { high: number; low: number } {
    if (!listed.option) return minuteBar(this.minutesOf(listed, session), row)
    const underlying = this.find(listed.option.underlyingSymbol)!
    const bar = minuteBar(this.minutesOf(underlying, session), row)
    return this.chains.rangeIn(listed, bar, session.open + row * MINUTE)
  }

  allSessions = (): readonly Session[] => this.sessions

  /** Local dates of all sessions, oldest first. */
  dates = (): string[] => this.sessions.map((session) => session.date)

  /** Extends the calendar so that everything announced after a moment fits in; what was there stays the same. */
  reach(moment: number): void {
    const last = this.sessions[this.sessions.length - 1]
    if (last.open > moment + AHEAD * DAY) return
    const until = new Date(moment + 2 * AHEAD * DAY).toISOString().slice(0, 10)
    this.sessions = sessionsBetween(this.venue, this.firstDate, until)
    this.process.clear()
    this.daily.clear()
    this.shares.clear()
    this.begun = []
    this.extendTo(this.sessions.length)
  }

  private extendTo(n: number): void {
    this.factors = marketFactor(this.seed, n)
    this.sectors.clear()
    this.sessions.forEach((session, row) => this.rowByDate.set(session.date, row))
  }

  /** How many sessions have begun by a moment. */
  countBegun(moment: number): number {
    return countUpTo(this.sessions.length, (row) => this.sessions[row].open <= moment)
  }

  /** All sessions that began by a moment, oldest first. */
  sessionsBegunBy(moment: number): readonly Session[] {
    const n = this.countBegun(moment)
    if (this.begun.length !== n) this.begun = this.sessions.slice(0, n)
    return this.begun
  }

  /** The session under way at a moment, or undefined. */
  sessionAt(moment: number): Session | undefined {
    const session = this.sessions[this.countBegun(moment) - 1]
    return session && moment < session.close ? session : undefined
  }

  /** Daily bars in the shares of each day. Of contracts there are none here: see History. */
  dailyOf(listed: Listed): DailyColumns {
    let columns = this.daily.get(listed.symbol)
    if (!columns) {
      columns = inOwnShares(this.processOf(listed), this.shares.of(listed), listed)
      this.daily.set(listed.symbol, columns)
    }
    return columns
  }

  /** Daily bars in the shares of the market's start. */
  processOf(listed: Listed): DailyColumns {
    let columns = this.process.get(listed.symbol)
    if (!columns) {
      let sector = this.sectors.get(listed.sector)
      if (!sector)
        this.sectors.set(
          listed.sector,
          (sector = sectorFactor(this.seed, listed.sector, this.sessions.length)),
        )
      const corporate = this.shares.of(listed)
      const dividendAt = (row: number, closeE4: number) =>
        dividendOn(corporate, row, closeE4) * corporate.sharesOn(row)
      columns = dailyColumns(this.seed, listed, this.sessions, this.factors, sector, dividendAt)
      this.process.set(listed.symbol, columns)
    }
    return columns
  }

  /** Minute bars of a whole session, also of its part that is still to come. */
  minutesOf(listed: Listed, session: Session): MinuteColumns {
    const key = `${listed.symbol} ${session.date}`
    let minutes = this.minutesKept.get(key)
    if (!minutes) {
      minutes = listed.option ? this.contracts.minutesOf(listed, session) : this.stockMinutes(listed, session)
      if (this.minutesKept.size > Math.max(6_000, 2 * this.listing.length)) this.minutesKept.clear()
      this.minutesKept.set(key, minutes)
    }
    return minutes
  }

  private stockMinutes(listed: Listed, session: Session): MinuteColumns {
    const row = this.rowByDate.get(session.date)!
    const { open, high, low, close, volume } = this.dailyOf(listed)
    const day: DayBar = {
      open: open[row],
      high: high[row],
      low: low[row],
      close: close[row],
      volume: volume[row],
    }
    return minuteColumns(
      [this.seed, listed.symbol, session.date],
      day,
      (session.close - session.open) / MINUTE,
      stepOf(listed, day.low),
    )
  }

  /** The 60 seconds of a minute of a session. */
  private secondsIn(listed: Listed, session: Session, at: number): Seconds {
    const start = session.open + at * MINUTE
    const kept = this.secondsKept.get(listed.symbol)
    if (kept && kept.at === start) return kept
    const seconds = listed.option
      ? this.contracts.secondsOf(listed, session, at)
      : this.stockSeconds(listed, session, at)
    if (this.secondsKept.size > Math.max(20_000, 2 * this.listing.length)) this.secondsKept.clear()
    this.secondsKept.set(listed.symbol, { at: start, ...seconds })
    return seconds
  }

  private stockSeconds(listed: Listed, session: Session, at: number): Seconds {
    const bar = minuteBar(this.minutesOf(listed, session), at)
    const words = [this.seed, listed.symbol, session.date, at]
    let volumes: Int32Array | undefined
    return {
      prices: secondPrices(words, bar, stepOf(listed, bar.low)),
      volumes: () => (volumes ??= secondVolumes(words, bar.volume)),
    }
  }

  /** How often the price rose and fell from second to second in a minute of a session: its trades, counted. */
  tradesOf(listed: Listed, session: Session, at: number, seconds = 60): { up: number; down: number } {
    const out: Traded = { high: -Infinity, low: Infinity, volume: 0, up: 0, down: 0 }
    this.addTraded(out, listed, session, at, 0, seconds - 1, NOTHING)
    return { up: out.up, down: out.down }
  }

  /** The minute under way at a moment, of which only the seconds up to it have happened. */
  minuteSoFar(listed: Listed, session: Session, moment: number): { at: number; bar: DayBar } {
    const at = Math.floor((moment - session.open) / MINUTE)
    const start = session.open + at * MINUTE
    const { prices, volumes } = this.secondsIn(listed, session, at)
    const traded = volumes()
    const done = Math.min(60, Math.floor((moment - start) / 1000) + 1)
    let [high, low, volume] = [prices[0], prices[0], 0]
    for (let s = 0; s < done; s++) {
      if (prices[s] > high) high = prices[s]
      if (prices[s] < low) low = prices[s]
      volume += traded[s]
    }
    return { at: start, bar: { open: prices[0], high, low, close: prices[done - 1], volume } }
  }

  /**
   * What was traded in the seconds after a moment, up to another: prices in ten-thousandths. Undefined where no second
   * of a session lies between them.
   */
  tradedBetween(listed: Listed, after: number, upTo: number): Traded | undefined {
    const out: Traded = { high: -Infinity, low: Infinity, volume: 0, up: 0, down: 0 }
    const since = this.shares.splitsBy(listed, upTo).at(-1)?.exDate ?? ''
    for (const session of this.sessionsBegunBy(upTo).slice(-SPAN_SESSIONS)) {
      if (session.date < since) continue
      const from = Math.max(session.open, Math.floor(after / 1000) * 1000 + 1000)
      const to = Math.min(session.close - 1000, Math.floor(upTo / 1000) * 1000)
      for (let at = Math.floor((from - session.open) / MINUTE); from <= to; at++) {
        const start = session.open + at * MINUTE
        if (start > to) break
        this.addTraded(
          out,
          listed,
          session,
          at,
          Math.max(0, (from - start) / 1000),
          Math.min(59, (to - start) / 1000),
        )
      }
    }
    return out.high === -Infinity ? undefined : out
  }

  /** Adds the seconds of a minute from one to another, both included; `shares` stand for those traded in them, which take long to make. */
  private addTraded(
    out: Traded,
    listed: Listed,
    session: Session,
    at: number,
    from: number,
    to: number,
    shares?: Int32Array,
  ): void {
    const { prices, volumes } = this.secondsIn(listed, session, at)
    const traded = shares ?? volumes()
    const earlier = () => (at > 0 ? this.minutesOf(listed, session).close[at - 1] : prices[0])
    let before = from > 0 ? prices[from - 1] : earlier()
    for (let s = from; s <= to; s++) {
      const price = prices[s]
      if (price > out.high) out.high = price
      if (price < out.low) out.low = price
      if (price > before) out.up++
      else if (price < before) out.down++
      before = price
      out.volume += traded[s]
    }
  }

  /**
   * Shares traded after a second, up to another of the same session; Infinity if a session lies between. For a contract, the
   * shares of its underlying, in which market makers hedge.
   */
  tradedIn(listed: Listed, from: number, to: number): number {
    if (from === to) return 0
    const session = this.sessionAt(to)
    if (!session || from < session.open) return Infinity
    const of = listed.option ? this.find(listed.option.underlyingSymbol)! : listed
    return this.tradedBetween(of, from, to)?.volume ?? 0
  }

  /** Option volume of an underlying in a session up to a moment, all contracts together. */
  optionVolumeBy(listed: Listed, session: Session, moment: number): number {
    return this.contracts.volumeBy(listed, session, moment)
  }

  /** Quote at a second; outside a session that of the last second before it. */
  quoteAt(listed: Listed, moment: number): Quote {
    if (listed.option) return this.contracts.quoteAt(listed, moment)
    let second = Math.floor(moment / 1000) * 1000
    let session = this.sessionAt(second)
    const indicated = session ? undefined : this.indicatedAt(listed, second)
    if (indicated !== undefined) return this.bookAt(listed, second, indicated, 4)
    if (!session) {
      const begun = this.sessionsBegunBy(second)
      session = begun[begun.length - 1]
      second = session.close - 1000
    }
    const traded = this.tradedAt(listed, session, (second - session.open) / 1000)
    const last = this.shares.inSharesOf(moment, listed, session.date, traded)
    return this.bookAt(listed, second, last, 1)
  }

  /** Last price of a stock in a second since the open of a session. */
  private tradedAt(listed: Listed, session: Session, second: number): number {
    const [at, s] = [Math.floor(second / 60), second % 60]
    // The first and last second are the open and close of the minute, so the others need not be made.
    if (s === 0) return this.minutesOf(listed, session).open[at]
    if (s === 59) return this.minutesOf(listed, session).close[at]
    return this.secondsIn(listed, session, at).prices[s]
  }

  /** Bid, ask and sizes about a last price; `width` times the usual spread. */
  private bookAt(listed: Listed, second: number, last: number, width: number): Quote {
    const luck = chance(seedOf(this.seed, listed.symbol, second, 'quote'))
    const step = stepOf(listed, last)
    const usual =
      (last * (listed.usualVolume > 1_500_000 ? 0.0002 : listed.usualVolume > 400_000 ? 0.0005 : 0.0011)) /
      step
    const spread = Math.max(1, Math.round(width * usual * (0.6 + luck.uniform()))) * step
    const tradedAtAsk = luck.uniform() < 0.5
    const bid = tradedAtAsk ? last - spread : last
    const sizes = Math.max(100, Math.round(listed.usualVolume / 2_500 / 100) * 100)
    const size = () => 100 + Math.floor((luck.uniform() * sizes) / 100) * 100
    return {
      symbol: listed.symbol,
      at: second,
      bid,
      bidSize: size(),
      ask: bid + spread,
      askSize: size(),
      last,
    }
  }

  /**
   * The price that is indicated before the open: from two hours before it leads, unsteadily, from the close
   * before to the first price. Undefined at other times.
   */
  private indicatedAt(listed: Listed, second: number): number | undefined {
    const row = this.rowByDate.get(localDate(this.venue, second))
    const session = row === undefined ? undefined : this.sessions[row]
    if (!session || row === undefined || row === 0) return undefined
    const left = (session.open - second) / INDICATED_FOR
    if (left <= 0 || left > 1) return undefined
    const { open, close } = this.dailyOf(listed)
    const before = this.shares.inSharesOf(second, listed, this.sessions[row - 1].date, close[row - 1])
    const luck = chance(seedOf(this.seed, listed.symbol, Math.floor(second / 20_000), 'indicated'))
    const way = Math.min(1, Math.max(0, (1 - left) * 0.9 + 0.25 * luck.normal() * left))
    const step = stepOf(listed, before)
    return Math.max(step, Math.round((before + (open[row] - before) * way) / step) * step)
  }

  private next: { after: number; session: Session } | undefined

  /** First session that closes after a moment. Most ask for one that is a little later than the one before. */
  nextSession(moment: number): Session {
    if (!this.next || moment < this.next.after || moment >= this.next.session.close)
      this.next = { after: moment, session: sessionAtOrAfter(this.venue, moment) }
    return this.next.session
  }
}

export const minuteBar = (minutes: MinuteColumns, at: number): DayBar => ({
  open: minutes.open[at],
  high: minutes.high[at],
  low: minutes.low[at],
  close: minutes.close[at],
  volume: minutes.volume[at],
})

/** Price increment at a price given in ten-thousandths, in ten-thousandths. */
export const stepOf = (listed: Listed, priceE4: number): number =>
  toE4(incrementAt(listed.increments, priceE4 / 10_000))
