import { type Session } from '@/core/market/venue'
import { type Chains } from './chains'
import { countUpTo } from './countUpTo'
import { type MinuteColumns, type Seconds } from './intraday'
import { type Listed } from './listing'
import { type ContractTrades, OptionTapes, type TapeSource } from './optionTape'
import { type Quote } from './quote'

const MINUTE = 60_000

/** What the prices of contracts are made from. */
interface Source extends TapeSource {
  chains: Chains
  find(symbol: string): Listed | undefined
  quoteAt(listed: Listed, moment: number): Quote
  sessionAt(moment: number): Session | undefined
  sessionsBegunBy(moment: number): readonly Session[]
}

/**
 * Prices and volumes of option contracts, from their own quotes and trades. A contract gets a new last price at each of its
 * trades, at the start of each minute and at the last second of the session. Bars, seconds and quotes are all made from
 * these prices.
 */
export class ContractPrices {
  private readonly tapes: OptionTapes
  /** Latest quote of each underlying, kept because a whole chain needs the same one. */
  private readonly underlyingQuotes = new Map<string, { moment: number; quote: Quote }>()

  constructor(private readonly source: Source) {
    this.tapes = new OptionTapes(source)
  }

  /** Option volume of an underlying in a session up to a moment, all contracts together. */
  volumeBy(underlying: Listed, session: Session, moment: number): number {
    return this.tapes.volumeUpTo(underlying, session, Math.floor((moment - session.open) / 1000))
  }

  /** Minute bars of a whole session. Where nothing is traded in a minute its volume is 0. */
  minutesOf(listed: Listed, session: Session): MinuteColumns {
    const minutes = (session.close - session.open) / MINUTE
    const column = () => new Int32Array(minutes)
    const out = { open: column(), high: column(), low: column(), close: column(), volume: column() }
    const { second, size } = this.tradesIn(listed, session)
    let trade = 0
    for (let k = 0; k < minutes; k++) {
      const first = this.priceIn(listed, session, 60 * k)
      let [high, low, close] = [first, first, first]
      const take = (price: number) => {
        close = price
        if (price > high) high = price
        if (price < low) low = price
      }
      for (; trade < second.length && second[trade] < 60 * k + 60; trade++) {
        take(this.priceIn(listed, session, second[trade]))
        out.volume[k] += size[trade]
      }
      if (k === minutes - 1) take(this.priceIn(listed, session, 60 * k + 59))
      out.open[k] = first
      out.high[k] = high
      out.low[k] = low
      out.close[k] = close
    }
    return out
  }

  /** The 60 seconds of a minute of a session. */
  secondsOf(listed: Listed, session: Session, at: number): Seconds {
    const [prices, volumes] = [new Int32Array(60), new Int32Array(60)]
    const { second, size } = this.tradesIn(listed, session)
    second.forEach((one, i) => {
      if (one >= 60 * at && one < 60 * at + 60) volumes[one - 60 * at] += size[i]
    })
    let before = -1
    for (let s = 0; s < 60; s++) {
      const told = this.toldAt(listed, session, 60 * at + s)
      prices[s] = told === before ? prices[s - 1] : this.priceIn(listed, session, told)
      before = told
    }
    return { prices, volumes: () => volumes }
  }

  /** Quote at a second; outside a session its last price is that of the session before. */
  quoteAt(listed: Listed, moment: number): Quote {
    const quote = this.source.chains.quoteAt(listed, this.underlyingQuote(listed, moment))
    const session = this.source.sessionAt(moment) ?? this.source.sessionsBegunBy(moment).at(-1)!
    if (!this.source.chains.isListed(listed, session.open)) return quote
    const second = Math.floor((Math.min(moment, session.close - 1000) - session.open) / 1000)
    const told = this.toldAt(listed, session, second)
    const isNow = session.open + told * 1000 === quote.at
    return isNow ? quote : { ...quote, last: this.priceIn(listed, session, told) }
  }

  private tradesIn(listed: Listed, session: Session): ContractTrades {
    return this.tapes.tradesOf(listed, this.source.find(listed.option!.underlyingSymbol)!, session)
  }

  /** What a contract would trade at in a second of a session, counted from its open. */
  private priceIn(listed: Listed, session: Session, second: number): number {
    const of = this.underlyingQuote(listed, session.open + second * 1000)
    return this.source.chains.quoteAt(listed, of).last
  }

  private underlyingQuote(listed: Listed, moment: number): Quote {
    const { underlyingSymbol } = listed.option!
    const known = this.underlyingQuotes.get(underlyingSymbol)
    if (known?.moment === moment) return known.quote
    const quote = this.source.quoteAt(this.source.find(underlyingSymbol)!, moment)
    this.underlyingQuotes.set(underlyingSymbol, { moment, quote })
    return quote
  }

  /** The second at which a contract got the last price that it shows at another second; both count from the open. */
  private toldAt(listed: Listed, session: Session, second: number): number {
    if (session.open + (second + 1) * 1000 === session.close) return second
    const trades = this.tradesIn(listed, session).second
    const count = countUpTo(trades.length, (i) => trades[i] <= second)
    return Math.max(second - (second % 60), trades[count - 1] ?? 0)
  }
}
