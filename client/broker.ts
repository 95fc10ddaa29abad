import * as z from 'zod'
import { Security } from '@/core/market/security'
import { Action, type Adjustment } from '@/core/market/adjust'
import { type ExtraName } from '@/core/market/bars'
import { type Report } from '@/core/market/figures'
import { Clock, Quote, Rate, ReportView, SessionView, Tick } from '@/core/market/wire'
import { type Gate } from '@/core/orders/gate'
import { ExecutionReport, type SentOrder, Order, type OrderChange } from '@/core/orders/model'
import { Check } from '@/core/orders/checks'
import {
  Account,
  AccountDay,
  ExpiryNotice,
  GroupView,
  LotView,
  Position,
  StatementLine,
} from '@/core/orders/views'
import { SetAside, WorldView } from '@/core/orders/worlds'
import {
  CsvToken,
  KeyView,
  KeyWithSecret,
  type NewAccount,
  type NewCsvToken,
  type NewKey,
  WhoAmI,
} from '@/core/orders/access'
import { type Access } from './access'
import { type BrokerProblem, problemIn, problemOf, unreachable } from './problem'
import { Together } from './together'

const Checked = z.object({ accepted: z.boolean(), checks: z.array(Check) })
const Batch = z.array(
  z.object({
    order: Order.optional(),
    problem: z.looseObject({ status: z.int() }).optional(),
  }),
)
const StandsDown = z.object({
  canceled: z.array(z.string()),
  closing: z.array(z.string()),
  left: z.array(z.string()),
})

const Bar = z.object({
  time: z.string(),
  open: z.number(),
  high: z.number(),
  low: z.number(),
  close: z.number(),
  volume: z.number(),
})

/** Which orders are asked for; see GET /orders. */
export type OrdersAsked = Partial<
  Record<
    'which' | 'symbol' | 'side' | 'ordStatus' | 'from' | 'to' | 'clOrdId' | 'clOrdIdBegins' | 'text',
    string | undefined
  >
>

const queryOf = (fields: Record<string, string | undefined>): string =>
  new URLSearchParams(
    Object.entries(fields).filter((one): one is [string, string] => one[1] !== undefined),
  ).toString()

/** The broker's API as functions. Answers are checked against the same schemas that describe the API. */
export class Broker {
  /** The account that everything is asked of; the key's first where there is none. */
  account: string | undefined
  private together: Together | undefined

  /** `early` has answers that were asked for before, each to be taken once. */
  constructor(
    public access: Access,
    private readonly early: (path: string) => Promise<Response | undefined> = () =>
      Promise.resolve(undefined),
  ) {}

  /** Sends a request with the token; a token that is not taken any more is renewed once. */
  async fetch(path: string, init: RequestInit = {}, base = this.access.base): Promise<Response> {
    for (let attempt = 0; ; attempt++) {
      const headers = new Headers(init.headers)
      headers.set('Authorization', `Bearer ${await this.access.token()}`)
      if (init.body) headers.set('Content-Type', 'application/json')
      const answer = await fetch(`${base}${path}`, {
        ...init,
        headers,
        cache: 'no-store',
      }).catch((error: Error) => {
        if (error.name === 'AbortError') throw error
        throw unreachable()
      })
      if (answer.ok) return answer
      if (answer.status === 401 && attempt === 0) {
        this.access.forget()
        continue
      }
      throw await problemOf(answer)
    }
  }

  /** Has all streams come over one connection from now on, as a browser needs it. */
  streamTogether(): this {
    this.together = new Together(this)
    return this
  }

  /** A stream of server-sent events as its bytes. Throws BrokerProblem where it does not open. */
  async stream(
    path: string,
    asked: { signal: AbortSignal; lastEventId?: string },
  ): Promise<ReadableStream<Uint8Array>> {
    if (this.together) return this.together.open(path, asked)
    const { signal, lastEventId } = asked
    const headers: HeadersInit = lastEventId === undefined ? {} : { 'Last-Event-ID': lastEventId }
    return (await this.fetch(path, { signal, headers })).body!
  }

  private async get<T>(schema: z.ZodType<T>, path: string): Promise<T> {
    const answer = (await this.early(path)) ?? (await this.fetch(path))
    return schema.parse(await answer.json())
  }

  /** A list, all of its pages: an answer that is cut tells where the rest is. */
  private async pages<T>(schema: z.ZodType<T>, path: string): Promise<T[]> {
    const found: T[] = []
    for (let next: string | undefined = path; next !== undefined;) {
      const answer = await this.fetch(next)
      found.push(...z.array(schema).parse(await answer.json()))
      const rest = /<([^>]+)>; rel="next"/.exec(answer.headers.get('Link') ?? '')?.[1]
      next = rest?.slice(this.access.world.length + 1)
    }
    return found
  }

  private async post<T>(schema: z.ZodType<T>, path: string, body: unknown): Promise<T> {
    return schema.parse(
      await (
        await this.fetch(path, {
          method: 'POST',
          body: body === undefined ? undefined : JSON.stringify(body),
        })
      ).json(),
    )
  }

  session = (mic: string) => this.get(SessionView, `/venues/${mic}/session`)
  /** Rates by which fills in another currency are converted today. */
  rates = () => this.get(z.array(Rate), '/rates')
  venues = () => this.get(z.array(SessionView), '/venues')
  actions = (symbol: string) => this.get(z.array(Action), `/securities/${encodeURIComponent(symbol)}/actions`)

  /** What companies have reported, by symbol, oldest first. */
  async reports(symbols?: readonly string[]): Promise<Record<string, Report[]>> {
    const query = symbols ? `?symbols=${symbols.map(encodeURIComponent).join(',')}` : ''
    const out: Record<string, Report[]> = {}
    for (const { symbol, known, ...told } of await this.get(z.array(ReportView), `/reports${query}`))
      (out[symbol] ??= []).push({ known: Date.parse(known), ...told })
    return out
  }

  securities = () => this.get(z.array(Security), '/securities')
  quotes = (symbols?: readonly string[]) =>
    this.get(
      z.array(Quote),
      symbols ? `/quotes?symbols=${symbols.map(encodeURIComponent).join(',')}` : '/quotes',
    )
  /** A path that is about the account. */
  private of(path: string): string {
    if (this.account === undefined) return path
    return `${path}${path.includes('?') ? '&' : '?'}account=${this.account}`
  }

  /** What is sent, with the account that it is for. */
  asSent<T extends object>(body: T): T {
    return this.account === undefined ? body : { ...body, account: this.account }
  }

  ownAccount = () => this.get(Account, this.of('/account'))
  /** The account at the close of each session, oldest first. */
  history = () => this.get(z.array(AccountDay), this.of('/history'))
  /** Everything that moved cash, from the account's opening on; empty while nothing has. */
  statement = () => this.get(z.array(StatementLine), this.of('/statement'))
  positions = () => this.get(z.array(Position), this.of('/positions'))
  orders = (which: 'today' | 'working' | 'all' = 'today') => this.ordersBy({ which })
  /** Orders that are asked for by any of the fields; all of today where none is given. Every page of them. */
  ordersBy = (query: OrdersAsked = {}) =>
    this.pages(Order, this.of(`/orders?${queryOf({ ...query, limit: '1000' })}`))

  /** Cancels all working orders that are meant; gives them as they stand then. */
  async cancelMany(query: OrdersAsked): Promise<Order[]> {
    const answer = await this.fetch(this.of(`/orders?${queryOf({ ...query })}`), { method: 'DELETE' })
    return z.array(Order).parse(await answer.json())
  }

  lots = (symbol: string) => this.get(z.array(LotView), this.of(`/lots?symbol=${encodeURIComponent(symbol)}`))

  /** Option contracts of an underlying that can be traded now. */
  options = (underlyingSymbol: string) =>
    this.get(z.array(Security), `/options?underlyingSymbol=${encodeURIComponent(underlyingSymbol)}`)

  /** Rehearsals that the key may use, and what could not be opened or was set aside. */
  async rehearsals(): Promise<(WorldView | SetAside)[]> {
    const answer = await this.fetch('/rehearsals', {}, this.access.brokerUrl)
    return z.array(z.union([WorldView, SetAside])).parse(await answer.json())
  }

  /** Deletes a rehearsal, even one that could not be opened. */
  async removeRehearsal(id: string): Promise<void> {
    await this.fetch(`/rehearsals/${encodeURIComponent(id)}`, { method: 'DELETE' }, this.access.brokerUrl)
  }

  /** What will happen to contracts that expire, or may be assigned, in this session. */
  expiries = (): Promise<ExpiryNotice[]> => this.get(z.array(ExpiryNotice), this.of('/expiries'))

  /** Sets whether a long contract is exercised when it expires. */
  async sayExercise(symbol: string, exercise: boolean): Promise<void> {
    const path = this.of(`/expiries/${encodeURIComponent(symbol)}`)
    await this.fetch(path, { method: 'PUT', body: JSON.stringify({ exercise }) })
  }

  groups = () => this.get(z.array(GroupView), this.of('/groups'))
  /** Closes all that a group holds, at the market. */
  closeGroup = (group: string, clOrdId: string) =>
    this.post(z.array(Order), this.of(`/groups/${encodeURIComponent(group)}/close`), { clOrdId })

  /** Sets the gates of the account. */
  async setGates(gates: readonly Gate[]): Promise<void> {
    await this.fetch(this.of('/gates'), { method: 'PUT', body: JSON.stringify({ gates }) })
  }

  approve = (clOrdId: string) => this.answer(clOrdId, 'approve')
  decline = (clOrdId: string) => this.answer(clOrdId, 'decline')
  private answer = (clOrdId: string, what: 'approve' | 'decline') =>
    this.post(Order, this.of(`/orders/${encodeURIComponent(clOrdId)}/${what}`), undefined)

  check = (order: SentOrder) => this.post(Checked, '/orders/check', this.asSent(order))
  send = (order: SentOrder) => this.post(Order, '/orders', this.asSent(order))
  /** Sends up to 50 orders, each by itself, in their order; gives for each the order, or why it was refused. */
  async sendMany(orders: readonly SentOrder[]): Promise<(Order | BrokerProblem)[]> {
    const asked = { orders: orders.map((order) => this.asSent(order)) }
    const answers = await this.post(Batch.length(orders.length), '/orders/batch', asked)
    return answers.map(({ order, problem = { status: 0 } }) => order ?? problemIn(problem, problem.status))
  }

  /** Stands down from everything, or from one security. */
  standDown = (flatten: boolean, symbol?: string) =>
    this.post(
      StandsDown,
      '/stand-down',
      this.asSent({ flatten, ...(symbol === undefined ? {} : { symbol }) }),
    )

  /** Lifts standing down, from a security or from everything. */
  async lift(symbol?: string): Promise<void> {
    const of = symbol === undefined ? '' : `?symbol=${encodeURIComponent(symbol)}`
    await this.fetch(this.of(`/stand-down${of}`), { method: 'DELETE' })
  }

  clock = () => this.get(Clock, '/market-time')
  setClock = (change: {
    running?: boolean
    sessionTakes?: number
    step?: number
    jumpTo?: 'open' | 'close'
  }) => this.post(Clock, '/market-time', change)

  whoami = () => this.get(WhoAmI, '/whoami')
  keys = () => this.get(z.array(KeyView), '/keys')
  createKey = (asked: NewKey) => this.post(KeyWithSecret, '/keys', asked)
  renewKey = (keyId: string) => this.post(KeyWithSecret, `/keys/${keyId}/renew`, undefined)
  /** A token that may stand in a URL: whoever asks with it reads CSV, and can do nothing else. */
  createCsvToken = (asked: NewCsvToken) => this.post(CsvToken, '/csv-tokens', asked)
  accounts = () => this.get(z.array(Account), '/accounts')
  openAccount = (asked: NewAccount) => this.post(Account, '/accounts', asked)

  async withdrawKey(keyId: string): Promise<void> {
    await this.fetch(`/keys/${keyId}`, { method: 'DELETE' })
  }

  async order(clOrdId: string): Promise<Order> {
    return this.get(Order, this.of(`/orders/${encodeURIComponent(clOrdId)}`))
  }

  async cancel(clOrdId: string): Promise<Order> {
    return Order.parse(
      await (
        await this.fetch(this.of(`/orders/${encodeURIComponent(clOrdId)}`), { method: 'DELETE' })
      ).json(),
    )
  }

  /** Changes a working order; what is left out stays. */
  async replace(clOrdId: string, change: OrderChange): Promise<Order> {
    const path = this.of(`/orders/${encodeURIComponent(clOrdId)}`)
    return Order.parse(
      await (await this.fetch(path, { method: 'PATCH', body: JSON.stringify(change) })).json(),
    )
  }

  /** Which securities an open stream of quotes follows from now on. */
  async followQuotes(stream: string, symbols: readonly string[]): Promise<void> {
    await this.fetch(`/quotes/stream/${stream}`, { method: 'PUT', body: JSON.stringify({ symbols }) })
  }

  /** Path of the account's stream of execution reports. */
  get executionStream(): string {
    return this.of('/executions/stream')
  }

  /** Execution reports after a sequence number, in the order of their numbers whatever order they came in. */
  executions = async (after = 0, limit = 10_000) => {
    const page = await this.get(
      z.array(ExecutionReport),
      this.of(`/executions?after=${after}&limit=${limit}`),
    )
    return page.sort((a, b) => a.seq - b.seq)
  }

  /** What a security was quoted at and traded for, second by second from a moment on. */
  ticks = (symbol: string, from: string, limit: number) =>
    this.get(
      z.array(Tick),
      `/securities/${encodeURIComponent(symbol)}/ticks?${new URLSearchParams({ from, limit: String(limit) })}`,
    )

  /** Bars of one security, as a list. */
  barsOf = async (symbol: string, every: string, limit: number) =>
    (
      await this.get(
        z.object({ bars: z.array(Bar) }),
        `/securities/${encodeURIComponent(symbol)}/bars?${new URLSearchParams({ every, limit: String(limit) })}`,
      )
    ).bars

  /** Bars of many securities, or of some, in the FHB1 form. */
  async bars(
    every: string,
    options: {
      soFar?: boolean
      symbols?: string[]
      limit?: number
      /** First date, "yyyy-MM-dd". */
      from?: string
      /** Last date, in the zone of each security's venue. */
      to?: string
      prices?: Adjustment
      extras?: readonly ExtraName[]
      signal?: AbortSignal
    } = {},
  ): Promise<ArrayBuffer> {
    const query = new URLSearchParams({ every, soFar: String(options.soFar ?? false) })
    if (options.symbols) query.set('symbols', options.symbols.join(','))
    if (options.limit) query.set('limit', String(options.limit))
    if (options.from) query.set('from', options.from)
    if (options.to) query.set('to', options.to)
    if (options.prices) query.set('prices', options.prices)
    if (options.extras && options.extras.length > 0) query.set('extras', options.extras.join(','))
    const answer = await this.fetch(`/bars?${query}`, { signal: options.signal })
    return answer.arrayBuffer().catch((error: Error) => {
      if (error.name === 'AbortError') throw error
      throw unreachable()
    })
  }
}
