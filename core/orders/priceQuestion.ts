import { fromE4, toE4 } from '../market/money'
import { type Finding, price, unknown } from './findings'
import { type OrderFacts } from './orderFacts'
import { hasLimit, type NewOrder } from './model'
import { dealtAt, netE4 } from './netPrice'

/** A limit is questioned from so far beyond the other side of the quote, percent of it. */
const THROUGH = 5
/** A net price is questioned from so far beyond both middle and natural price: this share of the wider of them, and at least so much. */
const NET_SHARE = 0.25
const NET_LEAST = 0.1

type Quoted = Pick<OrderFacts, 'bid' | 'ask'>
type Known = Quoted & { currency: string; legs?: readonly (Quoted | undefined)[] }

/**
 * A limit price that was hardly meant: far through the market, or of several legs even where they bring a credit, or far from middle
 * and natural price. It is asked about, not refused. Source: limits of erroneous prices, common practice.
 */
export function priceQuestion(order: NewOrder, known: Known): Finding | undefined {
  const { price: limit } = order
  if (limit === undefined || !hasLimit(order.ordType)) return undefined
  if (order.legs) return ofNet(order, limit, known)
  return ofShares(order, limit, known)
}

function ofShares(
  { side, ordType, stopPx }: NewOrder,
  limit: number,
  { bid, ask, currency }: Known,
): Finding | undefined {
  // The limit of a stop-limit order is measured from its stop, which may lie anywhere.
  const against = ordType === 'StopLimit' ? 'stop' : side === 'Buy' ? 'ask' : 'bid'
  const other = { stop: stopPx, ask, bid }[against]
  if (!other) return undefined
  const percent = (100 * (side === 'Buy' ? limit - other : other - limit)) / other
  if (percent <= THROUGH) return undefined
  return unknown(
    { code: 'price', why: 'far through', side: against, percent },
    price(limit, currency),
    price(other, currency),
  )
}

function ofNet(
  { legs = [] }: NewOrder,
  limit: number,
  { legs: known = [], currency }: Known,
): Finding | undefined {
  const quoted = legs.map((_leg, i) => known[i])
  if (quoted.some((one) => !one?.bid || !one.ask)) return undefined
  const at = (which: 'mid' | 'natural'): number =>
    fromE4(
      netE4(legs, (leg) => {
        const { bid, ask } = quoted[legs.indexOf(leg)]!
        const dealt = { bid: toE4(bid!), ask: toE4(ask!) }
        return which === 'mid' ? (dealt.bid + dealt.ask) / 2 : dealtAt(leg.legSide, dealt)
      }),
    )
  const [mid, natural] = [at('mid'), at('natural')]
  const figures = { mid, natural }
  const [value, against] = [price(limit, currency), price(mid, currency)]
  if (limit >= 0 && natural < -NET_LEAST)
    return unknown({ code: 'price', why: 'brings a credit', ...figures }, value, against)
  const far = Math.max(NET_LEAST, NET_SHARE * Math.max(Math.abs(mid), Math.abs(natural)))
  const [low, high] = [Math.min(mid, natural), Math.max(mid, natural)]
  if (limit > high + far) return unknown({ code: 'price', why: 'gives away', ...figures }, value, against)
  if (limit < low - far) return unknown({ code: 'price', why: 'hardly trades', ...figures }, value, against)
  return undefined
}
