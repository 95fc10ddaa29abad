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

/** A price on a tick, or the measure that is not known; without a quote a limit has none, and the draft says so. */
export function pricedBy(
  price: PlanPrice,
  quote: Quoted | undefined,
  bands: Parameters<typeof toTick>[0],
  measure: (text: string) => number,
): Priced | { unknown: string } {
  if (price === 'market') return { ordType: 'Market' }
  if ('at' in price) {
    if (!quote) return { ordType: 'Limit' }
    const at = price.at === 'mid' ? (quote.bid + quote.ask) / 2 : quote[price.at]
    return { ordType: 'Limit', price: toTick(bands, at + price.ticks * incrementAt(bands, at)) }
  }
  const text = 'limit' in price ? price.limit : price.stop
  const value = measure(text)
  if (!(value > 0)) return { unknown: text }
  const moved = value * (1 + price.percent / 100)
  const on = toTick(bands, moved + price.ticks * incrementAt(bands, moved))
  return 'limit' in price ? { ordType: 'Limit', price: on } : { ordType: 'Stop', stopPx: on }
}
