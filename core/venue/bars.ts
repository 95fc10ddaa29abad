import { type Working } from '../book/working'
import { incrementAt } from '../market/increment'
import { fromE4, toE4 } from '../market/money'
import { type Desk, workingNow } from './desk'
import { fill, setOff } from './trade'

/** What a security did in a whole bar: prices in whole ten-thousandths, volume in shares. */
export interface WholeBar {
  open: number
  high: number
  low: number
  close: number
  volume: number
}

/** What a fill inside a bar is reckoned with. */
export interface BarTerms {
  /** What an order at the market pays beyond the price at hand (half a spread), in e4. */
  slipE4: number
  /** Share of the bar's volume that the account may take at most, 0 to 1. */
  share: number
}

/**
 * Shows the working orders of a security a whole bar, for a rehearsal that has no seconds. The bar is walked from its open to
 * the extreme that lies nearer, to the other and to its close (common practice). An order at the market trades at the open; a
 * Limit or Stop that the open has passed already likewise, a gap included; inside the bar a Stop trades at its level, and a
 * Limit at its own once the price has gone a tick beyond it, since a touch may have filled somebody else. Exits work from
 * the moment of their entry's fill on. What volume does not give waits for the next bar.
 */
export function meetBar(desk: Desk, symbol: string, bar: WholeBar, at: number, terms: BarTerms): void {
  const walk = new Walk(desk, symbol, at, terms, Math.floor(bar.volume * terms.share))
  const [first, second] = bar.high - bar.open < bar.open - bar.low ? [bar.high, bar.low] : [bar.low, bar.high]
  walk.standAt(bar.open)
  for (const to of [first, second, bar.close]) walk.goTo(to)
}

class Walk {
  private price = NaN
  /** Orders that were shown the price at which the walk stands. */
  private readonly shown = new Set<string>()

  constructor(
    private readonly desk: Desk,
    private readonly symbol: string,
    private readonly at: number,
    private readonly terms: BarTerms,
    private left: number,
  ) {}

  private working = (): readonly Working[] =>
    (this.desk.book.working[this.symbol] ?? []).filter((order) => !order.pending)

  /** All orders meet a price. */
  standAt(price: number): void {
    this.price = price
    this.shown.clear()
    this.showAll(() => true)
  }

  /** Shows the price at hand to orders that have not met it; what one of them puts to work meets it as well. */
  private showAll(which: (order: Working) => boolean): void {
    for (;;) {
      const next = this.working().find((order) => which(order) && !this.shown.has(order.orderId))
      if (!next || this.left <= 0) return
      this.shown.add(next.orderId)
      if (passedAt(next, this.price)) this.take(next, this.price)
    }
  }

  goTo(to: number): void {
    const way = Math.sign(to - this.price)
    while (way !== 0) {
      const next = this.nextOnTheWay(to, way)
      if (!next || this.left <= 0) break
      if (next.levelE4 !== this.price) this.shown.clear()
      this.price = next.levelE4
      this.shown.add(next.orderId)
      const before = new Set(this.working().map((order) => order.orderId))
      this.take(next, next.levelE4)
      // Its exits, now at work, meet the price at which it traded.
      this.showAll((order) => !before.has(order.orderId))
    }
    this.price = to
  }

  /** The order whose level is reached next on the way to a price; the older one of two at the same. */
  private nextOnTheWay(to: number, way: number): Working | undefined {
    let best: Working | undefined
    for (const order of this.working()) {
      if (order.ordType === 'Market' || order.triggered || !isMetBy(order, way)) continue
      const beyond = order.ordType === 'Limit' ? this.tick(order.levelE4) : 0
      const ahead = way * (order.levelE4 - this.price)
      const met = ahead < 0 || (ahead === 0 && this.shown.has(order.orderId))
      if (met || way * (to - order.levelE4) < beyond) continue
      if (!best || ahead < way * (best.levelE4 - this.price)) best = order
    }
    return best
  }

  private tick = (levelE4: number): number =>
    toE4(incrementAt(this.desk.place.bandsOf(this.symbol), fromE4(levelE4)))

  private take(order: Working, priceE4: number): void {
    const atMarket = order.ordType !== 'Limit'
    if (order.ordType === 'Stop' && !order.triggered) setOff(this.desk, order, this.at)
    const now = workingNow(this.desk, order.orderId)!
    const slip = atMarket ? (order.side === 'Buy' ? this.terms.slipE4 : -this.terms.slipE4) : 0
    const quantity = Math.min(now.leavesQty, this.left)
    this.left -= fill(this.desk, order.orderId, [{ quantity, priceE4: priceE4 + slip }], this.at)
  }
}

/** True if an order trades where the price stands. */
function passedAt(order: Working, price: number): boolean {
  if (order.ordType === 'Market' || order.triggered) return true
  return (order.side === 'Buy') === (order.ordType === 'Limit')
    ? price <= order.levelE4
    : price >= order.levelE4
}

/** True if an order waits for a price that moves this way: a rising one meets Stops to buy and Limits to sell. */
const isMetBy = (order: Working, way: number): boolean =>
  way > 0 === ((order.side === 'Buy') === (order.ordType === 'Stop'))
