import { incrementAt, toTick } from '../market/increment'
import { type OrdType } from '../orders/model'
import { type PlanPrice } from '../plans/entry'
import { type Quoted } from './listed'

/** What an order is priced with. */
export interface Priced {
  ordType: OrdType
  price?: number
  stopPx?: number
}

type Bands = Parameters<typeof toTick>[0]

/** A price on a tick, or the measure that is not known; without a quote a limit has none, and the draft says so. */
export function pricedBy(
  price: PlanPrice,
  quote: Quoted | undefined,
  bands: Bands,
  measure: (text: string) => number,
): Priced | { unknown: string } {
  if (price === 'market') return { ordType: 'Market' }
  if ('at' in price) {
    if (!quote) return { ordType: 'Limit' }
    const there = price.at === 'mid' ? (quote.bid + quote.ask) / 2 : quote[price.at]
    return { ordType: 'Limit', price: movedBy(price, there, bands) }
  }
  const text = 'limit' in price ? price.limit : price.stop
  const value = measure(text)
  if (!(value > 0)) return { unknown: text }
  const on = movedBy(price, value, bands)
  return 'limit' in price ? { ordType: 'Limit', price: on } : { ordType: 'Stop', stopPx: on }
}

/** A price moved by percent, then by ticks, on a tick. */
function movedBy(
  { ticks, percent = 0 }: { ticks: number; percent?: number },
  price: number,
  bands: Bands,
): number {
  const moved = price * (1 + percent / 100)
  return toTick(bands, moved + ticks * incrementAt(bands, moved))
}
