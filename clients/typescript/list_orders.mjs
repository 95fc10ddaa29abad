/**
 * Lists orders: all of today whatever their state, or those that are asked for. Needs Node 20 and heron.mjs beside it.
 *
 *   node clients/typescript/list_orders.mjs
 *   node clients/typescript/list_orders.mjs --symbol OSPRY --which all
 */
import { parseArgs } from 'node:util'
import { connect } from './heron.mjs'

const { values } = parseArgs({
  options: {
    broker: { type: 'string', default: process.env.HERON_BROKER_URL ?? 'http://127.0.0.1:4312' },
    'key-file': { type: 'string', default: '.heron/broker/paper-key.json' },
    account: { type: 'string' },
    live: { type: 'boolean', default: false },
    symbol: { type: 'string' },
    begins: { type: 'string' },
    which: { type: 'string' },
  },
})

try {
  const { broker: url, 'key-file': keyFile, account, live, symbol, begins, which } = values
  const broker = await connect({ broker: url, keyFile, account, live })
  const asked = { symbol, which, clOrdIdBegins: begins }
  const orders = await broker.ordersBy(
    Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== undefined)),
  )
  for (const { clOrdId, side, orderQty, symbol: of, ordType, price, ordStatus, cumQty } of orders)
    console.log(
      `${clOrdId}  ${side} ${orderQty} ${of}  ${ordType}${price === undefined ? '' : ` ${price}`}  ${ordStatus}, ${cumQty} filled`,
    )
  console.log(`${orders.length} orders`)
} catch (error) {
  console.error(error.detail ? `${error.detail} ${error.mend}` : error.message)
  process.exitCode = 1
}
