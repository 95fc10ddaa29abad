/**
 * Orders on a crossing of two averages. Runs with Node 20 in a checkout of this project, whose client it uses.
 *
 * Looks for a security whose 9-day average closed above its 33-day average on the last bar, sizes an order so
 * that 0.8 % of equity is lost at a stop 3 % below, prints what it would send, and with --send sends it, with
 * stop and target held at the broker, and follows it to the fill.
 *
 *   npx tsx clients/typescript/crossing.ts                  look through everything, print, send nothing
 *   npx tsx clients/typescript/crossing.ts OSPRY GANET      look at these only
 *   npx tsx clients/typescript/crossing.ts --send           send the first that crosses
 *
 * The key is read from HERON_KEY_ID and HERON_SECRET, or from the file that the demo made (--key-file).
 */
import { readFileSync } from 'node:fs'
import { parseArgs } from 'node:util'
import { Access, baseOf, Broker, BrokerProblem, follow as followStream, keyTokens } from '../../client'
import { ExecutionReport, type NewOrder, type Order } from '../../core/orders/model'

const [FAST, SLOW] = [9, 33]
const [RISK_PERCENT, STOP_PERCENT, TARGET_PERCENT] = [0.8, 3, 7]
const OVER = ['Filled', 'Canceled', 'Rejected', 'Expired']

const { values: options, positionals: symbols } = parseArgs({
  allowPositionals: true,
  options: {
    send: { type: 'boolean', default: false },
    broker: { type: 'string', default: process.env.HERON_BROKER_URL ?? 'http://127.0.0.1:4312' },
    'key-file': { type: 'string', default: '.heron/broker/paper-key.json' },
    wait: { type: 'string', default: '60' },
  },
})

function credentials(): { keyId: string; secret: string } {
  const { HERON_KEY_ID: keyId, HERON_SECRET: secret } = process.env
  if (keyId && secret) return { keyId, secret }
  return JSON.parse(readFileSync(options['key-file'], 'utf8')) as { keyId: string; secret: string }
}

const { keyId, secret } = credentials()
const broker = new Broker(new Access(options.broker, keyTokens(baseOf(options.broker), keyId, secret)))

const average = (values: number[], length: number): number =>
  values.slice(-length).reduce((sum, value) => sum + value, 0) / length

/** True if the fast average is above the slow one on the last bar and was not on the bar before. */
function crossedAbove(closes: number[]): boolean {
  if (closes.length <= SLOW) return false
  const before = closes.slice(0, -1)
  return average(before, FAST) <= average(before, SLOW) && average(closes, FAST) > average(closes, SLOW)
}

async function find(): Promise<{ symbol: string; date: string } | undefined> {
  const listed = await broker.securities()
  const names = symbols.length > 0 ? symbols : listed.filter((s) => s.orderable).map((s) => s.symbol)
  for (const symbol of names) {
    const bars = await broker.barsOf(symbol, '1 day', SLOW + 20)
    const closes = bars.map((bar) => bar.close)
    if (!crossedAbove(closes)) continue
    const [fast, slow] = [average(closes, FAST).toFixed(2), average(closes, SLOW).toFixed(2)]
    const date = bars.at(-1)!.time
    console.log(
      `${symbol}: the ${FAST}-day average ${fast} crossed above the ${SLOW}-day average ${slow} on ${date}`,
    )
    return { symbol, date }
  }
  return undefined
}

async function orderFor(symbol: string, date: string): Promise<NewOrder> {
  const account = await broker.ownAccount()
  const [{ ask: price }] = await broker.quotes([symbol])
  const byRisk = (account.equity * RISK_PERCENT) / 100 / ((price * STOP_PERCENT) / 100)
  return {
    // The same crossing makes the same id: run twice, the script orders once.
    clOrdId: `crossing-${symbol}-${date}`,
    symbol,
    side: 'Buy',
    orderQty: Math.floor(Math.min(byRisk, account.buyingPower / price)),
    ordType: 'Market',
    timeInForce: 'Day',
    exits: { stop: { percent: STOP_PERCENT }, target: { percent: TARGET_PERCENT } },
  }
}

/** Prints what becomes of an order until it is over; returns its last state. Nothing is missed where the stream breaks. */
function follow(order: Order): Promise<string> {
  console.log(`acknowledged: ${order.orderId} ${order.ordStatus}`)
  if (OVER.includes(order.ordStatus)) return Promise.resolve(order.ordStatus)
  return new Promise((done) => {
    let status: string = order.ordStatus
    const end = () => {
      clearTimeout(timer)
      stop()
      done(status)
    }
    const timer = setTimeout(end, Number(options.wait) * 1000)
    const stop = followStream(broker, `/executions/stream?after=${order.lastSeq}`, {
      event: ({ event, data }) => {
        if (event !== 'executionReport') return
        const report = ExecutionReport.parse(JSON.parse(data))
        if (report.clOrdId !== order.clOrdId) return
        status = report.ordStatus
        const fill = report.lastQty === undefined ? '' : `, ${report.lastQty} at ${report.lastPx}`
        console.log(`${report.transactTime} ${status}${fill}`)
        if (OVER.includes(status)) end()
      },
      there: () => undefined,
      away: () => undefined,
    })
  })
}

async function printOutcome(clOrdId: string): Promise<void> {
  const orders = await broker.orders('all')
  const order = orders.find((o) => o.clOrdId === clOrdId)!
  console.log(
    `outcome: ${order.ordStatus}, ${order.cumQty} of ${order.orderQty} ${order.symbol} at ${order.avgPx}`,
  )
  for (const one of orders.filter((o) => o.parentOrderId === order.orderId))
    console.log(`  ${one.role} ${one.stopPx ?? one.price}: ${one.ordStatus}, held at the broker`)
}

async function main(): Promise<number> {
  const found = await find()
  if (!found) {
    console.log('No crossing on the last bar; nothing to order.')
    return 0
  }
  const order = await orderFor(found.symbol, found.date)
  console.log(JSON.stringify(order, null, 2))
  const { checks } = await broker.check(order)
  for (const check of checks)
    console.log(`  ${check.verdict}: ${check.sentence} ${check.mend ?? ''}`.trimEnd())
  if (!options.send) {
    console.log('Dry run: nothing was sent. Add --send to send it.')
    return 0
  }
  const sent = await broker.send(order).catch((error: unknown) => {
    if (!(error instanceof BrokerProblem) || error.kind !== 'duplicate-client-order-id') throw error
    console.log('This crossing was ordered before; following that order.')
    return error.order!
  })
  const status = await follow(sent)
  await printOutcome(order.clOrdId)
  return status === 'Filled' ? 0 : 3
}

main().then(
  (code) => process.exit(code),
  (error: Error) => {
    const refused = error instanceof BrokerProblem && error.kind !== 'unreachable'
    console.error(
      refused
        ? `Refused. ${error.title}: ${error.detail} ${error.mend}`
        : error instanceof BrokerProblem
          ? `The broker does not answer at ${options.broker}. Is the demo running?`
          : error.message,
    )
    process.exit(1)
  },
)
