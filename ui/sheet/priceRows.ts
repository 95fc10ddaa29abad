import { checkOrder } from '@/core/orders/check'
import { type Book, isOpeningIn, sharesOf, standingUnder } from '@/core/book/book'
import { withGates } from '@/core/book/candidate'
import { noteTaken } from '@/core/book/lately'
import { rateInto } from '@/core/market/rates'
import { type Rate } from '@/core/market/wire'
import { factsOf } from '@/core/book/facts'
import { addSent } from '@/core/book/indexing'
import { type WorkingBook } from '@/core/book/working'
import { type SheetColumn, type SheetRow } from '@/core/formats/orderSheet'
import { toE4 } from '@/core/market/money'
import { type Security } from '@/core/market/security'
import { draftOrder, type OrderDraft } from '@/core/orders/draft'
import { initialShare } from '@/core/orders/margin'
import { refusal } from '@/core/orders/findings'
import { type CheckCode } from '@/core/orders/checks'
import { type Account } from '@/core/orders/views'
import { sayFinding } from '@/core/orders/say'
import { isLike, mayBecome } from './sentBefore'
import { type PricedRow } from './columns'
import { type SheetState } from './sheetStore'

/** Cells in which the reason of a failed check lies. */
const CELLS: Partial<Record<CheckCode, (order: OrderDraft) => SheetColumn>> = {
  security: () => 'symbol',
  quantity: () => 'quantity',
  'shares-held': () => 'quantity',
  'client-order-id': () => 'id',
  tick: (order) => (order.price !== undefined ? 'price' : order.stopPx !== undefined ? 'trigger' : 'stop'),
}

/** A reason at its cell, or at the row where it is about all of it. */
function placed(row: SheetRow, why: string, code: CheckCode): Pick<PricedRow, 'errors' | 'state' | 'why'> {
  const column = CELLS[code]?.(row.order!)
  return column
    ? { state: 'wrong', errors: { ...row.errors, [column]: { code: 'check', sentence: why } } }
    : { state: 'wrong', errors: row.errors, why }
}

/** What rows are priced and checked with; undefined where it has not come yet. */
export interface SheetFacts {
  sent: SheetState['sent']
  securities: ReadonlyMap<string, Security>
  quotes: Readonly<Record<string, { bid: number; ask: number; last: number } | undefined>>
  account: Pick<Account, 'equity' | 'buyingPower' | 'currency' | 'rules'> | undefined
  book: Book
  session: { open: boolean; venue: string; opens: string } | undefined
  /** Rates of other currencies than the account's. */
  rates?: readonly Rate[]
  /** Market time, as the broker tells it. */
  now: string
}

/** Prices and checks each row, in the order in which they are sent: as if those before it rested at the broker. */
export function priceRows(rows: readonly SheetRow[], facts: SheetFacts): PricedRow[] {
  const { sent, securities, quotes, account, session, rates = [], now } = facts
  // Rows are counted as if they were sent: in a copy.
  const book = { ...facts.book, lately: structuredClone(facts.book.lately) }
  let power = account?.buyingPower ?? 0
  const working: WorkingBook = Object.assign(Object.create(null), book.working)
  return rows.map((row): PricedRow => {
    const base = { line: row.line, cells: row.cells, errors: row.errors, clOrdId: row.order?.clOrdId }
    const outcome = sent[row.line]
    if (!row.order) return { ...base, state: 'wrong' }
    if (outcome?.is === 'refused')
      return {
        ...base,
        state: 'refused',
        why:
          outcome.problem.checks.length > 0 || outcome.problem.kind === 'unreachable'
            ? `${outcome.problem.detail} ${outcome.problem.mend}`
            : outcome.problem.detail,
      }
    const standing = standingUnder(book, row.order.clOrdId)
    if (standing && !isLike(row.order, standing))
      return { ...base, state: 'differs', order: row.order, mayChange: mayBecome(row.order, standing) }
    if (standing) return { ...base, state: outcome?.is === 'sent' ? 'sent' : 'before' }
    const sending = outcome?.is === 'sending'
    const security = securities.get(row.order.symbol)
    if (!security) {
      if (sending) return { ...base, state: 'sending' }
      if (securities.size === 0) return { ...base, state: 'waiting' }
      return { ...base, errors: { ...row.errors, symbol: { code: 'unlisted' } }, state: 'wrong' }
    }
    const quote = quotes[security.symbol]
    if (!account || !session || !quote) return { ...base, state: sending ? 'sending' : 'waiting' }
    const prices = { bid: quote.bid, ask: quote.ask, last: quote.last }
    const sharesHeld = sharesOf(book, security.symbol)
    const rate = rateInto(rates, security.currency, account.currency)
    if (rate === undefined) return { ...base, state: sending ? 'sending' : 'waiting' }
    const drafted = draftOrder(row.order, {
      ...{ security, ...prices, sharesHeld, rate },
      ...{ equity: account.equity, buyingPower: power, share: initialShare(account.rules) },
    })
    if (sending) {
      // The broker may not know of it yet: what comes after it must.
      if ('order' in drafted) {
        power = drafted.buyingPowerAfter
        addSent(working, drafted.order)
      }
      return { ...base, state: 'sending' }
    }
    if ('why' in drafted) return { ...base, state: 'wrong', why: drafted.why }
    const known = {
      ...{ security, near: [], ...prices, currency: account.currency, rate },
      ...{ session, buyingPowerE4: toE4(power) },
    }
    const about = { at: Date.parse(now), date: now.slice(0, 10), known: false }
    const checked = withGates(book, drafted.order, factsOf(book, drafted.order, known, working), about)
    const findings = checkOrder(drafted.order, checked)
    const refused = refusal(findings)
    const asks = findings.find(({ code }) => code === 'price')
    if (refused) {
      const { sentence, mend = '' } = sayFinding(refused)
      return { ...base, ...placed(row, `${sentence} ${mend}`, refused.code), drafted }
    }
    power = drafted.buyingPowerAfter
    addSent(working, drafted.order)
    noteTaken(book, drafted.order, isOpeningIn(book, drafted.order), about.at, about.date)
    return { ...base, state: 'ready', drafted, ...(asks ? { question: sayFinding(asks).sentence } : {}) }
  })
}
