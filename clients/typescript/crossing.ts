/**
 * Orders on a crossing of two averages. Runs with Node 20 and nothing else: npx tsx crossing.ts
 *
 * Looks for a security whose 9-day average closed above its 33-day average on the last bar, sizes an order so
 * that 0.8 % of equity is lost at a stop 3 % below, prints what it would send, and with --send sends it, with
 * stop and target held at the broker, and follows it to the fill.
 *
 *   npx tsx crossing.ts                  look through everything, print, send nothing
 *   npx tsx crossing.ts OSPRY GANET      look at these only
 *   npx tsx crossing.ts --send           send the first that crosses
 *
 * The key is read from HERON_KEY_ID and HERON_SECRET, or from the file that the demo made (--key-file).
 */
import { readFileSync } from 'node:fs'
import { parseArgs } from 'node:util'

const [FAST, SLOW] = [9, 33]
const [RISK_PERCENT, STOP_PERCENT, TARGET_PERCENT] = [0.8, 3, 7]
const OVER = ['Filled', 'Canceled', 'Rejected', 'Expired']

interface Order {
  orderId: string
  clOrdId: string
  symbol: string
  ordStatus: string
  orderQty: number
  cumQty: number
  avgPx: number
  lastSeq: number
  role: string
  price?: number
  stopPx?: number
  parentOrderId?: string
}
type Report = Order & { seq: number; transactTime: string; lastQty?: number; lastPx?: number }
type Problem = { type: string; title: string; detail: string; mend: string; order?: Order }
type Bar = { time: string; close: number }

/** An answer of the broker that is a problem document (RFC 9457). */
class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(`${problem.title}: ${problem.detail} ${problem.mend}`)
  }
  get kind(): string {
    return this.problem.type.split('/').at(-1)!
  }
}

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

let token: { text: string; until: number } | undefined

async function authorization(): Promise<string> {
  if (!token || Date.now() > token.until - 30_000) {
    const { keyId, secret } = credentials()
    const answer = await fetch(`${options.broker}/paper/token`, {
      method: 'POST',
      headers: { Authorization: `Basic ${Buffer.from(`${keyId}:${secret}`).toString('base64')}` },
      body: new URLSearchParams({ grant_type: 'client_credentials' }),
    })
    if (!answer.ok) throw new Refused((await answer.json()) as Problem)
    const body = (await answer.json()) as { access_token: string; expires_in: number }
    token = { text: body.access_token, until: Date.now() + body.expires_in * 1000 }
  }
  return `Bearer ${token.text}`
}

async function ask(path: string, init: RequestInit = {}): Promise<Response> {
  const headers = { ...init.headers, Authorization: await authorization() }
  const answer = await fetch(options.broker + path, { ...init, headers })
  if (!answer.ok) throw new Refused((await answer.json()) as Problem)
  return answer
}

const get = async <T>(path: string): Promise<T> => (await (await ask(path)).json()) as T
const post = async <T>(path: string, body: unknown): Promise<T> =>
  (await (
    await ask(path, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
    })
  ).json()) as T

/** Execution reports after a sequence number; a broken stream is taken up again without loss. */
async function* reports(after: number, until: number): AsyncGenerator<Report> {
  while (Date.now() < until) {
    try {
      const stream = await ask('/paper/executions/stream', {
        headers: { 'Last-Event-ID': String(after) },
        signal: AbortSignal.timeout(until - Date.now()),
      })
      let text = ''
      for await (const chunk of stream.body!.pipeThrough(new TextDecoderStream())) {
        const lines = (text + chunk).split('\n')
        text = lines.pop()!
        for (const line of lines) {
          if (!line.startsWith('data:')) continue
          const report = JSON.parse(line.slice(5)) as Report
          after = report.seq
          yield report
        }
      }
    } catch (error) {
      if (error instanceof Refused) throw error
      await new Promise((resolve) => setTimeout(resolve, 500))
    }
  }
}

const average = (values: number[], length: number): number =>
  values.slice(-length).reduce((sum, value) => sum + value, 0) / length

/** True if the fast average is above the slow one on the last bar and was not on the bar before. */
function crossedAbove(closes: number[]): boolean {
  if (closes.length <= SLOW) return false
  const before = closes.slice(0, -1)
  return average(before, FAST) <= average(before, SLOW) && average(closes, FAST) > average(closes, SLOW)
}

async function find(): Promise<{ symbol: string; date: string } | undefined> {
  const listed = await get<{ symbol: string; orderable: boolean }[]>('/securities')
  const names = symbols.length > 0 ? symbols : listed.filter((s) => s.orderable).map((s) => s.symbol)
  for (const symbol of names) {
    const query = new URLSearchParams({ every: '1 day', limit: String(SLOW + 20) })
    const { bars } = await get<{ bars: Bar[] }>(`/securities/${encodeURIComponent(symbol)}/bars?${query}`)
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

async function orderFor(symbol: string, date: string) {
  const account = await get<{ equity: number; buyingPower: number }>('/paper/account')
  const [{ ask: price }] = await get<{ ask: number }[]>(`/quotes?symbols=${encodeURIComponent(symbol)}`)
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

/** Prints what becomes of an order until it is over; returns its last state. */
async function follow(order: Order): Promise<string> {
  let status = order.ordStatus
  console.log(`acknowledged: ${order.orderId} ${status}`)
  if (OVER.includes(status)) return status
  for await (const report of reports(order.lastSeq, Date.now() + Number(options.wait) * 1000)) {
    if (report.clOrdId !== order.clOrdId) continue
    status = report.ordStatus
    const fill = report.lastQty === undefined ? '' : `, ${report.lastQty} at ${report.lastPx}`
    console.log(`${report.transactTime} ${status}${fill}`)
    if (OVER.includes(status)) break
  }
  return status
}

async function printOutcome(clOrdId: string): Promise<void> {
  const orders = await get<Order[]>('/paper/orders?which=all')
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
  const { checks } = await post<{ checks: { verdict: string; sentence: string; mend?: string }[] }>(
    '/paper/orders/check',
    order,
  )
  for (const check of checks)
    console.log(`  ${check.verdict}: ${check.sentence} ${check.mend ?? ''}`.trimEnd())
  if (!options.send) {
    console.log('Dry run: nothing was sent. Add --send to send it.')
    return 0
  }
  const sent = await post<Order>('/paper/orders', order).catch((error: unknown) => {
    if (!(error instanceof Refused) || error.kind !== 'duplicate-client-order-id') throw error
    console.log('This crossing was ordered before; following that order.')
    return error.problem.order!
  })
  const status = await follow(sent)
  await printOutcome(order.clOrdId)
  return status === 'Filled' ? 0 : 3
}

main().then(
  (code) => process.exit(code),
  (error: Error) => {
    const cause = (error.cause as Error | undefined)?.message
    console.error(
      error instanceof Refused
        ? `Refused. ${error.message}`
        : cause
          ? `The broker does not answer: ${cause}. Is the demo running?`
          : error.message,
    )
    process.exit(1)
  },
)
