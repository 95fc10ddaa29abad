import { readFileSync, statSync } from 'node:fs'
import {
  Access,
  baseOf,
  Broker,
  BrokerProblem,
  clOrdIdOf,
  follow,
  keyTokens,
  priceAsked,
  type WorldName,
} from '@/client'
import { writeCsv } from '@/core/formats/csv'
import { API_VERSION } from '@/core/orders/access'
import { ExecutionReport, NewOrder, type Order, OrderChange, type SentOrder } from '@/core/orders/model'
import { EXIT, Failure, note } from './fail'

/** What every command that speaks to the broker takes. */
export interface TradingOptions {
  broker: string
  keyFile: string
  live?: boolean
  world?: string
  account?: string
}

/** Key and secret: of the environment, or of a file that only its owner can read. Throws Failure. */
function credentials({ keyFile }: TradingOptions): { keyId: string; secret: string } {
  const { HERON_KEY_ID: keyId, HERON_SECRET: secret } = process.env
  if (keyId && secret) return { keyId, secret }
  try {
    if (process.platform !== 'win32' && (statSync(keyFile).mode & 0o077) !== 0)
      throw new Failure(`Others can read ${keyFile}. Say "chmod 600 ${keyFile}", then try again.`)
    return JSON.parse(readFileSync(keyFile, 'utf8')) as { keyId: string; secret: string }
  } catch (error) {
    if (error instanceof Failure) throw error
    throw new Failure(
      `No key: ${(error as Error).message}. Start the demo, name a key with --key-file, or set HERON_KEY_ID and HERON_SECRET.`,
    )
  }
}

/** The broker, once it has said who asks; that is noted. Live needs to be said outright. */
export async function connected(options: TradingOptions): Promise<Broker> {
  const { keyId, secret } = credentials(options)
  if (keyId.startsWith('live-') && !options.live)
    throw new Failure(`${keyId} is a live key. Say --live outright, or use a paper key.`, EXIT.usage)
  const world = (options.live ? 'live' : (options.world ?? 'paper')) as WorldName
  const access = new Access(options.broker, keyTokens(baseOf(options.broker, world), keyId, secret), world)
  const broker = new Broker(access)
  broker.account = options.account
  const who = await broker.whoami()
  if (who.api !== API_VERSION)
    throw new Failure(
      `The broker speaks version ${who.api} of its API, this command ${API_VERSION}. Update one.`,
    )
  note(
    `${who.key.label} (${keyId}) in ${world}${options.live ? ', a stand-in: no real money' : ''}, account ${options.account ?? who.account ?? 'none'}, may ${who.scopes.join(', ')}; market time ${who.now}`,
  )
  return broker
}

/** Runs something against the broker. */
const withBroker = async <T>(options: TradingOptions, work: (broker: Broker) => Promise<T>): Promise<T> =>
  work(await connected(options))

const COLUMNS = [
  ...['enteredTime', 'clOrdId', 'symbol', 'side', 'orderQty', 'ordType', 'price', 'stopPx'],
  ...['timeInForce', 'expireDate', 'ordStatus', 'cumQty', 'leavesQty', 'avgPx', 'role', 'text'],
] as (keyof Order)[]

const ordersCsv = (orders: readonly Order[]): string =>
  writeCsv(
    COLUMNS,
    orders.map((order) => COLUMNS.map((field) => order[field] as string | number | undefined)),
    '\n',
  )

export interface OrdersOptions extends TradingOptions {
  which?: string
  symbol?: string
  from?: string
  to?: string
  begins?: string
  status?: string
}

/** Orders as CSV: all of today where nothing is asked for. */
export const orders = (options: OrdersOptions): Promise<string> =>
  withBroker(options, async (broker) => {
    const { which, symbol, from, to, begins, status } = options
    return ordersCsv(
      await broker.ordersBy({ which, symbol, from, to, clOrdIdBegins: begins, ordStatus: status }),
    )
  })

export const positions = (options: TradingOptions): Promise<string> =>
  withBroker(options, async (broker) => {
    const fields = [
      'symbol',
      'quantity',
      'avgPx',
      'last',
      'marketValue',
      'unrealized',
      'realizedToday',
    ] as const
    const held = await broker.positions()
    return writeCsv(
      fields,
      held.map((one) => fields.map((field) => one[field])),
      '\n',
    )
  })

export const whoami = (options: TradingOptions): Promise<string> =>
  withBroker(options, async (broker) => `${JSON.stringify(await broker.whoami(), null, 2)}\n`)

export interface SendOptions extends TradingOptions {
  order: string
  send?: boolean
  /** Sends an order although its price is questioned. */
  sure?: boolean
}

/** An order from JSON text, a file or standard input. Throws Failure that names the field. */
function orderFrom(text: string): SentOrder {
  const source = text.trim().startsWith('{') ? text : readFileSync(text === '-' ? 0 : text, 'utf8')
  let json: unknown
  try {
    json = JSON.parse(source)
  } catch (error) {
    throw new Failure(`The order is no JSON: ${(error as Error).message}.`, EXIT.usage)
  }
  return parsed(NewOrder.safeParse(json))
}

function parsed<T>(read: { success: true; data: T } | { success: false; error: { issues: Issue[] } }): T {
  if (read.success) return read.data
  const wrong = read.error.issues.map(({ path, message }) => `${path.join('.') || 'the order'}: ${message}`)
  throw new Failure(`${wrong.join('; ')}.`, EXIT.usage)
}
type Issue = { path: PropertyKey[]; message: string }

const DRY = 'Nothing was sent. Add --send to send it.'

/** Checks an order and prints what was found; sends it only where that is said. */
export const send = (options: SendOptions): Promise<string> => {
  const order = orderFrom(options.order)
  return withBroker(options, async (broker) => {
    const { accepted, checks } = await broker.check(order)
    for (const { verdict, sentence, mend = '' } of checks) note(`${verdict}: ${sentence} ${mend}`.trimEnd())
    const question = checks.find(({ code }) => code === 'price')
    if (options.send && question && !options.sure)
      throw new Failure(
        `Nothing was sent. ${question.sentence} Correct the price, or add --sure if you mean it.`,
      )
    if (options.send) return `${JSON.stringify(await broker.send(order), null, 2)}\n`
    note(accepted ? DRY : 'It would be refused. Nothing was sent.')
    return `${JSON.stringify(order, null, 2)}\n`
  })
}

export interface ReplaceOptions extends TradingOptions {
  id?: string
  quantity?: number
  price?: number
  stop?: number
  send?: boolean
  /** Changes it although its price is questioned. */
  sure?: boolean
}

/** Changes a working order; prints what would be changed where it is not said to send. */
export const replace = (clOrdId: string, options: ReplaceOptions): Promise<string> =>
  withBroker(options, async (broker) => {
    const before = await broker.order(clOrdId)
    const change = parsed(
      OrderChange.safeParse({
        clOrdId: options.id ?? nextId(before.clOrdId),
        ...(options.quantity === undefined ? {} : { orderQty: options.quantity }),
        ...(options.price === undefined ? {} : { price: options.price }),
        ...(options.stop === undefined ? {} : { stopPx: options.stop }),
      }),
    )
    const question = await priceAsked(broker, before, change)
    if (options.send && question && !options.sure)
      throw new Failure(
        `Nothing was changed. ${question.sentence} Correct the price, or add --sure if you mean it.`,
      )
    if (options.send) return `${JSON.stringify(await broker.replace(clOrdId, change), null, 2)}\n`
    if (question) note(`${question.verdict}: ${question.sentence} ${question.mend ?? ''}`.trimEnd())
    note(DRY)
    return `${JSON.stringify(change, null, 2)}\n`
  })

/** The id of an order after its next change: a-1 becomes a-1.2, then a-1.3. */
function nextId(clOrdId: string): string {
  const [, stem, count = '1'] = /^(.*?)(?:\.(\d+))?$/.exec(clOrdId)!
  return `${stem}.${Number(count) + 1}`
}

export interface CancelOptions extends TradingOptions {
  symbol?: string
  begins?: string
  all?: boolean
  send?: boolean
}

/** Cancels one order by its id, or all that are meant; prints which where it is not said to send. */
export const cancel = (clOrdId: string | undefined, options: CancelOptions): Promise<string> => {
  const { symbol, begins, all } = options
  if ((clOrdId ?? symbol ?? begins ?? all) === undefined)
    throw new Failure('Name an order, or --symbol, --begins or --all.', EXIT.usage)
  const filter = { symbol, clOrdIdBegins: begins, clOrdId }
  return withBroker(options, async (broker) => {
    if (options.send)
      return ordersCsv(await broker.cancelMany({ ...filter, which: all ? 'working' : undefined }))
    note('Nothing was canceled. Add --send to cancel these.')
    return ordersCsv(await broker.ordersBy({ ...filter, which: 'working' }))
  })
}

export interface StreamOptions extends TradingOptions {
  after?: number
  until?: number
  for?: number
}

/** Execution reports as they happen, a JSON document a line, until the one of `--until`, or `--for` is over. */
export const stream = (options: StreamOptions, print: (text: string) => void): Promise<string> =>
  withBroker(options, async (broker) => {
    const { after } = options
    const path =
      broker.executionStream + (after === undefined ? '' : `${broker.account ? '&' : '?'}after=${after}`)
    await new Promise<void>((done, failed) => {
      const stop = follow(broker, path, {
        event: ({ event, data }) => {
          if (event !== 'executionReport') return
          const report = ExecutionReport.parse(JSON.parse(data))
          print(`${JSON.stringify(report)}\n`)
          if (report.seq === options.until) {
            stop()
            done()
          }
        },
        there: () => undefined,
        away: (error) => {
          if (!(error instanceof BrokerProblem) || error.kind === 'unreachable') return
          stop()
          failed(error)
        },
      })
      if (options.for !== undefined)
        setTimeout(() => {
          stop()
          done()
        }, options.for * 1000)
    })
    return ''
  })

/** A client order id from program, security, session and signal. */
export const id = (parts: readonly string[]): string => {
  if (parts.length !== 4)
    throw new Failure('An id is made of four parts: program, security, session, signal.', EXIT.usage)
  return `${clOrdIdOf(...(parts as [string, string, string, string]))}\n`
}
