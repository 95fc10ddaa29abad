import { decimal, priceText } from '../market/money'
import { contractText, netText } from '../options/words'
import { type NewOrder } from '../orders/model'
import { sentFor } from '../plans/ids'
import { type Want } from './events'

/** Why what is held is left, by how the signal of the order begins. */
const LEFT: [begins: string, why: string][] = [
  ['its rule at ', 'its rule to leave holds'],
  ['its net price on ', 'its gain or its loss is reached'],
  ['its stop ', 'its stop waited long enough at its limit'],
  ['at its time ', 'its time has come'],
]

/** Why a plan leaves what it holds; undefined where the condition of a side says so. */
function whyLeft({ origin }: NewOrder): string | undefined {
  const { signal = '' } = sentFor(origin) ?? {}
  const [, gone] = /^without (\S+) /.exec(signal) ?? []
  if (gone !== undefined) return `the other leg, ${gone}, is gone`
  return LEFT.find(([begins]) => signal.startsWith(begins))?.[1]
}

/** What a plan wants of the broker, in words: "Buy 100 OSPRY Market". */
export function sayWant(want: Want): string {
  if (want.is === 'ask')
    return `asks whether to send ${sayWant({ is: 'send', role: 'entry', order: want.order })}`
  if (want.is === 'cancel') return `takes back its order for ${want.symbol}`
  if (want.is === 'replace') {
    const { stopPx, price } = want.change
    return `moves ${stopPx === undefined ? 'its order' : 'the stop'} of ${want.symbol} to ${priceText((stopPx ?? price)!)}`
  }
  const why = want.role === 'out' ? whyLeft(want.order) : undefined
  return why === undefined ? orderText(want.order) : `${orderText(want.order)}, since ${why}`
}

function orderText({ side, orderQty, symbol, ordType, price, stopPx, legs }: NewOrder): string {
  if (legs) {
    const each = legs.map((leg) => `${leg.legSide} ${leg.legRatioQty} ${contractText(leg.symbol)}`)
    const net = price === undefined ? '' : ` ${netText(price)}`
    return `${decimal(orderQty!, 0)} × ${symbol} ${each.join(', ')} ${ordType}${net}`
  }
  const at = price === undefined ? '' : ` ${priceText(price)}`
  const from = stopPx === undefined ? '' : ` ${priceText(stopPx)}`
  return `${side} ${decimal(orderQty!, 0)} ${symbol} ${ordType}${from}${at}`
}
