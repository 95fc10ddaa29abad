import { type Broker } from '@/client'
import { ALL, emptyBook, takeReport } from '@/core/book/book'
import { unlike } from '@/core/book/holdings'
import { rateInto } from '@/core/market/rates'
import { toE4 } from '@/core/market/money'
import { type Security } from '@/core/market/security'
import { VENUES, venueOf } from '@/core/market/venue'
import { isOption, underlyingOf } from '@/core/options/osi'
import { type ExecutionReport } from '@/core/orders/model'
import { type DayEntries, noteEntry } from '@/core/engine/dayEntries'
import { type Listed } from '@/core/engine/listed'
import { sharedOf, type Shared } from '@/core/engine/shared'
import { Unavailable } from './unavailable'

/** Reports that one answer of the broker holds at most. */
const PAGE = 10_000

/** An account as the broker's records tell of it, and the reports that it was put together from. */
export interface Known {
  shared: Shared
  reports: readonly ExecutionReport[]
  /** Of the world that it is in: state of another is not taken over. */
  worldId: string
  /** Its name in that world. */
  account: string
  now: number
}

/** The broker's records contradict each other: nothing may be sent on what cannot be explained. */
export class RecordsDiffer extends Error {
  override readonly name = 'RecordsDiffer'
}

/** So often the records are asked for again, so many milliseconds apart, before they are said to differ. */
const ATTEMPTS = 5
const PAUSE = 400

const pause = () => new Promise((resolve) => setTimeout(resolve, PAUSE))

/** All reports after those that are known. Throws RecordsDiffer if one that has been numbered does not come. */
async function reportsAfter(broker: Broker, known: ExecutionReport[]): Promise<void> {
  for (let attempt = 1; ;) {
    const next = (known.at(-1)?.seq ?? 0) + 1
    const page = await broker.executions(next - 1, PAGE)
    const whole = page.findIndex(({ seq }, i) => seq !== next + i)
    known.push(...(whole < 0 ? page : page.slice(0, whole)))
    if (whole < 0 && page.length < PAGE) return
    if (whole < 0) continue
    if (attempt++ === ATTEMPTS)
      throw new RecordsDiffer(
        `The broker's execution reports were read ${ATTEMPTS} times, and each time number ${next + whole} was missing while number ${page[whole].seq} was there. Nothing is sent. Ask the broker for that report (GET /executions?after=${next + whole - 1}), then start again.`,
      )
    await pause()
  }
}

/**
 * Puts an account together from all of its reports, with the securities that it trades. Throws RecordsDiffer if the broker's
 * records contradict each other, and Error for a symbol that the broker does not list.
 */
export async function knownAccount(broker: Broker, symbols: readonly string[]): Promise<Known> {
  const [who, securities, rates, venues] = await Promise.all([
    broker.whoami(),
    broker.securities(),
    broker.rates(),
    broker.venues(),
  ])
  const reports: ExecutionReport[] = []
  // What is reported while it is asked for is asked for once more, so that cash and reports are of one moment.
  for (let attempt = 1; ;) {
    const account = await broker.ownAccount()
    await reportsAfter(broker, reports)
    const again = await broker.executions(reports.at(-1)?.seq ?? 0, 1)
    if (again.length > 0 || (await broker.ownAccount()).cash !== account.cash) continue
    const book = emptyBook(0, account.rules)
    const entries: DayEntries = {}
    for (const report of reports) {
      noteEntry(entries, book, report)
      takeReport(book, report)
    }
    book.cashE4 = toE4(account.cash)
    book.gates = account.gates
    for (const one of account.stoodDown) book.stoodDown[one.symbol ?? ALL] = one
    const wrong = await disagreement(broker, book.holdings)
    if (wrong) {
      // What was traded between the two questions explains itself.
      if ((await broker.executions(reports.at(-1)?.seq ?? 0, 1)).length > 0) continue
      if (attempt++ === ATTEMPTS) throw new RecordsDiffer(wrong)
      await pause()
      continue
    }
    const listed = listedIn(securities, rates, venues, account.currency)
    const held = Object.values(book.holdings).filter(({ quantity }) => quantity !== 0)
    await listContracts(
      broker,
      listed,
      held.map(({ symbol }) => symbol),
    )
    const unknown = symbols.filter((symbol) => !listed[symbol])
    if (unknown.length > 0)
      throw new Unavailable(
        `The broker lists no ${unknown.join(', ')}. Take it out of Among, or name another.`,
      )
    const home = VENUES.find(({ currency }) => currency === account.currency) ?? VENUES[0]
    return {
      shared: sharedOf(book, listed, home, entries),
      reports,
      worldId: who.world.id,
      account: who.account ?? '',
      now: Date.parse(who.now),
    }
  }
}

type Venues = Awaited<ReturnType<Broker['venues']>>
type Rates = Awaited<ReturnType<Broker['rates']>>

/** What the broker lists, by symbol, with what one unit of its currency is worth in another. */
function listedIn(
  securities: readonly Security[],
  rates: Rates,
  venues: Venues,
  currency: string,
): Record<string, Listed> {
  const indexOf = new Map(venues.map(({ mic, index }) => [mic, index]))
  const listed: Record<string, Listed> = {}
  for (const security of securities) {
    const venue = venueOf(security.venue)
    const rate = rateInto(rates, security.currency, currency)
    if (venue && rate !== undefined)
      listed[security.symbol] = { security, venue, rate, index: indexOf.get(venue.mic) }
  }
  return listed
}

/** What the broker lists, whatever account asks: for those who only look. */
export async function listedNow(broker: Broker): Promise<Record<string, Listed>> {
  const [securities, rates, venues] = await Promise.all([
    broker.securities(),
    broker.rates(),
    broker.venues(),
  ])
  return listedIn(securities, rates, venues, VENUES[0].currency)
}

/** Lists contracts beside the securities that they are about; gives those of the contracts that the broker does not list. */
export async function listContracts(
  broker: Broker,
  listed: Record<string, Listed>,
  symbols: readonly string[],
): Promise<string[]> {
  const unlisted = symbols.filter((symbol) => isOption(symbol) && !listed[symbol])
  for (const underlying of new Set(unlisted.map(underlyingOf))) {
    const { venue, rate } = listed[underlying] ?? {}
    if (!venue || rate === undefined) continue
    for (const security of await broker.options(underlying))
      if (unlisted.includes(security.symbol)) listed[security.symbol] = { security, venue, rate }
  }
  return unlisted.filter((symbol) => !listed[symbol])
}

/** Compares the positions that the reports add up to with those that the broker tells; a sentence if they differ. */
async function disagreement(
  broker: Broker,
  holdings: Readonly<Record<string, { quantity: number }>>,
): Promise<string | undefined> {
  const own = Object.fromEntries(Object.entries(holdings).map(([symbol, { quantity }]) => [symbol, quantity]))
  const [wrong] = unlike(own, await broker.positions())
  return (
    wrong &&
    `All execution reports of the account were added up and compared with its positions. By the reports it holds ${wrong.folded} ${wrong.symbol}; by the positions it holds ${wrong.told}. Nothing is sent. Compare the statement of ${wrong.symbol} with its fills, settle the difference with the broker, then start again.`
  )
}
