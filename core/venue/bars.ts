import { waitsFor, type Working } from '../book/working'
import { incrementAt } from '../market/increment'
import { fromE4, toE4 } from '../market/money'
import { type Seat, workingNow } from './seat'
import { follow, meet, setOff } from './trade'

/** What a security did in a whole bar: prices in whole ten-thousandths, volume in shares. */
export interface WholeBar {
  open: number
  high: number
  low: number
  close: number
  /** NaN where it is not known. */
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
export function meetBar(seat: Seat, symbol: string, bar: WholeBar, at: number, terms: BarTerms): void {
  // Bars that do not tell their volume set no bound.
  const most = Number.isFinite(bar.volume) ? Math.floor(bar.volume * terms.share) : Infinity
  const walk = new Walk(seat, symbol, at, terms, most)
  const [first, second] = bar.high - bar.open < bar.open - bar.low ? [bar.high, bar.low] : [bar.low, bar.high]
  walk.standAt(bar.open)
  for (const to of [first, second, bar.close]) walk.goTo(to)
}

class Walk {
  private price = NaN
  /** Orders that were shown the price at which the walk stands. */
  private readonly shown = new Set<string>()

  constructor(
    private readonly seat: Seat,
    private readonly symbol: string,
    private readonly at: number,
    private readonly terms: BarTerms,
    private left: number,
  ) {}

  private working = (): readonly Working[] =>
    (this.seat.book.working[this.symbol] ?? []).filter((order) => !order.pending && order.auction === 'no')

  /** All orders meet a price. */
  standAt(price: number): void {
    this.price = price
    this.shown.clear()
    this.showAll(() => true)
    for (const order of this.working())
      if (waitsFor(order) === 'stop') follow(this.seat, order, price, this.at)
    // What trades at once or not at all is over with the open.
    for (const order of this.working()) if (order.atOnce !== 'no') meet(this.seat, order, [], this.at)
  }

  /** Shows the price at hand to orders that have not met it; what one of them puts to work meets it as well. */
  private showAll(which: (order: Working) => boolean): void {
    for (;;) {
      const next = this.working().find((order) => which(order) && !this.shown.has(order.orderId))
      if (!next) return
      this.shown.add(next.orderId)
      if (passedAt(next, this.price)) this.take(next, this.price)
    }
  }

  goTo(to: number): void {
    const way = Math.sign(to - this.price)
    while (way !== 0) {
      const next = this.nextOnTheWay(to, way)
      if (!next) break
      const levelE4 = levelOf(next)
      if (levelE4 !== this.price) this.shown.clear()
      this.price = levelE4
      this.shown.add(next.orderId)
      const before = new Set(this.working().map((order) => order.orderId))
      this.take(next, levelE4)
      // Its exits, now at work, meet the price at which it traded.
      this.showAll((order) => !before.has(order.orderId))
    }
    this.price = to
    // What follows the market has followed it on the way.
    for (const order of this.working()) if (waitsFor(order) === 'stop') follow(this.seat, order, to, this.at)
  }

  /** The order whose level is reached next on the way to a price; the older one of two at the same. */
  private nextOnTheWay(to: number, way: number): Working | undefined {
    let best: Working | undefined
    for (const order of this.working()) {
      const [waits, levelE4] = [waitsFor(order), levelOf(order)]
      if (waits === 'market' || !isMetBy(order, way)) continue
      const beyond = waits === 'limit' ? this.tick(levelE4) : 0
      const ahead = way * (levelE4 - this.price)
      const met = ahead < 0 || (ahead === 0 && this.shown.has(order.orderId))
      if (met || way * (to - levelE4) < beyond) continue
      if (!best || ahead < way * (levelOf(best) - this.price)) best = order
    }
    return best
  }

  private tick = (levelE4: number): number =>
    toE4(incrementAt(this.seat.place.bandsOf(this.symbol), fromE4(levelE4)))

  private take(order: Working, priceE4: number): void {
    let now = order
    if (waitsFor(order) === 'stop') {
      setOff(this.seat, order, this.at)
      now = workingNow(this.seat, order.orderId)!
      // Set off, it may have a price of its own still to wait for.
      if (!passedAt(now, priceE4)) return
    }
    const quantity = Math.min(now.leavesQty, this.left)
    this.left -= meet(this.seat, now, [{ quantity, priceE4: this.paid(now, priceE4) }], this.at)
  }

  /** What an order pays where the price stands: half a spread beyond it, but never beyond its limit. */
  private paid({ side, ordType, limitE4 }: Working, priceE4: number): number {
    if (ordType === 'Limit') return priceE4
    const { slipE4 } = this.terms
    if (side === 'Buy') return limitE4 > 0 ? Math.min(limitE4, priceE4 + slipE4) : priceE4 + slipE4
    return Math.max(limitE4, priceE4 - slipE4)
  }
}

/** The price that an order waits for. */
const levelOf = (order: Working): number => (waitsFor(order) === 'stop' ? order.stopE4 : order.limitE4)

/** True if an order is set off, or trades, where the price stands. */
function passedAt(order: Working, price: number): boolean {
  const waits = waitsFor(order)
  if (waits === 'market') return true
  return (order.side === 'Buy') === (waits === 'limit') ? price <= levelOf(order) : price >= levelOf(order)
}

/** True if an order waits for a price that moves this way: a rising one meets Stops to buy and Limits to sell. */
const isMetBy = (order: Working, way: number): boolean =>
  way > 0 === ((order.side === 'Buy') === (waitsFor(order) === 'stop'))
