import { type Check } from '@/core/orders/checks'
import { hasLimit, type Order, type OrderChange } from '@/core/orders/model'
import { type Broker } from './broker'

/**
 * What is asked about the price of an order before it is changed, by the quotes of now: a limit far through the market, a net price
 * that was hardly meant. Undefined where nothing is. Throws BrokerProblem where the broker could not be asked: nothing is changed then.
 */
export async function priceAsked(
  broker: Broker,
  { symbol, side, ordType, legs, orderQty, price, stopPx, triggered }: Order,
  change: OrderChange,
): Promise<Check | undefined> {
  const isMoved = change.price !== undefined || change.stopPx !== undefined
  if (!isMoved || !hasLimit(ordType)) return undefined
  // A stop that was set off stands as its limit alone.
  const type = triggered && ordType === 'StopLimit' ? 'Limit' : ordType
  const { checks } = await broker.check({
    ...{ clOrdId: change.clOrdId, symbol, side, ordType: type, timeInForce: 'Day', legs },
    orderQty: change.orderQty ?? orderQty,
    price: change.price ?? price,
    stopPx: type === 'Limit' ? undefined : (change.stopPx ?? stopPx),
  })
  return checks.find(({ code }) => code === 'price')
}
