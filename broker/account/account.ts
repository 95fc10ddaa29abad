import { merged } from '@/core/orders/fields'
import { type Book, bookOf, emptyBook } from '@/core/book/book'
import { forgetPast } from '@/core/book/past'
import { numberOf } from '@/core/book/working'
import { toE4 } from '@/core/market/money'
import { type AccountRules } from '@/core/orders/accountRules'
import { type ExecutionReport, type Order, type SentOrder } from '@/core/orders/model'
import { type Overlay } from './facts'
import { Exchange } from './exchange'
import { type Markets } from '../market/markets'
import { Reports } from './reports'
import { type Told } from './sessions'

/** What an account is made with. */
export interface Making {
  markets: Markets
  name: string
  opened: { cash: number; rules: AccountRules }
  /** As it was when a snapshot was taken. */
  book?: Book
  /** Handed every report, before it is on the disk. */
  tell: (report: ExecutionReport) => void
  told: Told
  readAt: (place: number) => ExecutionReport
  place: { manners: 'prompt' | 'slow'; overlay: Overlay }
}

/** One account of a world: what it holds, what it sent, and its place at the market. */
export class Account {
  readonly name: string
  readonly opened: Making['opened']
  readonly book: Book
  readonly exchange: Exchange
  /** Reports that are on the disk, in order; what the outside may see. */
  readonly reports: Reports
  /** Session date up to which what is over was taken out of memory. */
  private forgotten = ''

  constructor({ markets, name, opened, book, tell, told, readAt, place }: Making) {
    this.name = name
    this.opened = opened
    this.book = book ? bookOf(book) : emptyBook(toE4(opened.cash), opened.rules)
    this.exchange = new Exchange(markets, this.book, tell, place, told)
    this.reports = new Reports(readAt)
  }

  get rules(): AccountRules {
    return this.book.rules
  }

  /** Session date of a moment at the account's venue, or of the last session while that is closed. */
  today = (now: number): string => this.exchange.market.sessionsBegunBy(now).at(-1)!.date

  /** Takes an order or refuses it; of a repeated one gives that which stands. */
  submit(sent: SentOrder, now: number, sentBy?: string) {
    const { orderId, findings, refused } = this.exchange.submit(
      merged(sent, { account: this.name }),
      now,
      sentBy,
    )
    return { order: this.orderNumbered(numberOf(orderId))!, findings, refused }
  }

  /** An order by its number, also of the past. */
  orderNumbered = (number: number): Order | undefined =>
    this.book.orders[`O${number}`] ?? this.reports.order(number)

  /** The order that a client order id stands for, also of the past; undefined where there is none. */
  orderUnder(clOrdId: string): Order | undefined {
    const orderId = this.book.byClOrdId[clOrdId]
    return orderId === undefined ? undefined : this.orderNumbered(numberOf(orderId))
  }

  /** Takes what is over and of earlier sessions out of memory, once a session. */
  forgetBefore(date: string): void {
    if (date <= this.forgotten) return
    this.forgotten = date
    forgetPast(this.book, date)
  }
}
