import { type Book, emptyBook } from '@/core/book/book'
import { toE4 } from '@/core/market/money'
import { type AccountRules } from '@/core/orders/accountRules'
import { type ExecutionReport } from '@/core/orders/model'
import { type Overlay } from './facts'
import { Exchange } from './exchange'
import { type Markets } from '../market/markets'

/** One account of a world: what it holds, what it sent, and its place at the market. */
export class Account {
  readonly book: Book
  readonly exchange: Exchange
  /** Reports that are on the disk, in order; what the outside may see. */
  readonly reports: ExecutionReport[] = []

  /** `tell` is handed every report, before it is on the disk. */
  constructor(
    markets: Markets,
    readonly name: string,
    opened: { cash: number; rules: AccountRules },
    tell: (report: ExecutionReport) => void,
    place: { manners: 'prompt' | 'slow'; overlay: Overlay },
  ) {
    this.book = emptyBook(toE4(opened.cash), opened.rules)
    this.exchange = new Exchange(markets, this.book, tell, place)
  }

  get rules(): AccountRules {
    return this.book.rules
  }

  /** Session date of a moment at the account's venue, or of the last session while that is closed. */
  today = (now: number): string => this.exchange.market.sessionsBegunBy(now).at(-1)!.date
}
