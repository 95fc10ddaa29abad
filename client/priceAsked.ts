import { type Check } from '@/core/orders/checks'
import { type Order, type OrderChange } from '@/core/orders/model'
import { type Broker } from './broker'
import { BrokerProblem } from './problem'

/**
 * What is asked about the prices of an order before it is changed, by the quotes of now: a limit far through the market, a net price
 * that was hardly meant. Undefined where nothing is, and where the broker would not take the change in any case, which it tells itself.
 */
export async function priceAsked(
  broker: Broker,
  { symbol, side, ordType, legs, orderQty, price, stopPx, triggered }: Order,
  change: OrderChange,
): Promise<Check | undefined> {
  if (change.price === undefined && change.stopPx === undefined) return undefined
  // A stop that was set off stands as its limit alone.
  const type = triggered && ordType === 'StopLimit' ? 'Limit' : ordType
  try {
    const { checks } = await broker.check({
      ...{ clOrdId: change.clOrdId, symbol, side, ordType: type, timeInForce: 'Day', legs },
      orderQty: change.orderQty ?? orderQty,
      price: change.price ?? price,
      stopPx: type === 'Limit' ? undefined : (change.stopPx ?? stopPx),
    })
    return checks.find(({ code }) => code === 'price')
  } catch (error) {
    if (error instanceof BrokerProblem) return undefined
    throw error
  }
}
