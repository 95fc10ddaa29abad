import { fromE4, halfEven, toE4 } from '../market/money'
import { multiplierOf } from '../options/osi'
import { directionOf } from '../orders/levels'
import { type ExecutionReport } from '../orders/model'
import { type Booking, type StatementLine } from '../orders/views'

type Line = Omit<StatementLine, 'cash'>

/** What a trade did to the cash, a line for each security. */
function* tradeLines(report: ExecutionReport): Generator<Line> {
  const {
    transactTime: at,
    tradeDate: date,
    clOrdId,
    symbol,
    side,
    lastQty = 0,
    lastPx = 0,
    commission = 0,
  } = report
  const rate = report.settlCurrFxRate ?? 1
  for (const leg of report.legFills ?? [{ symbol, side, lastQty, lastPx, commission }]) {
    const quantity = directionOf(leg.side) * leg.lastQty
    const tradedE4 = halfEven(quantity * toE4(leg.lastPx) * multiplierOf(leg.symbol) * rate)
    yield {
      ...{ at, date, kind: report.splitRatio === undefined ? 'Trade' : 'Split', symbol: leg.symbol },
      ...{ side: leg.side, quantity, price: leg.lastPx },
      ...{ commission: leg.commission, amount: fromE4(-tradedE4 - toE4(leg.commission)), clOrdId },
      ...(rate === 1 ? {} : { text: `${report.currency} at ${rate}` }),
    }
  }
}

function* bookingLine({ kind, at, date, symbol, amount, text }: Booking): Generator<Line> {
  yield { at, date, kind, ...(symbol ? { symbol } : {}), amount, text }
}

/** Writes the lines of a statement: everything that moved cash, in the order of time, each with what there was after it. */
export class Statement {
  private cashE4: number
  readonly lines: StatementLine[] = []

  /** `cash` is what the account was opened with; lines of session dates outside `from` and `to` are only reckoned with. */
  constructor(
    cash: number,
    private readonly bookings: readonly Booking[],
    private readonly span: { from?: string; to?: string },
  ) {
    this.cashE4 = toE4(cash)
  }

  private next = 0

  /** Takes the next report; those that are no trade move nothing. */
  take(report: ExecutionReport): void {
    if (report.execType !== 'Trade') return
    this.bookUpTo(Date.parse(report.transactTime))
    for (const line of tradeLines(report)) this.add(line)
  }

  /** Takes what was booked up to a moment. */
  bookUpTo(moment: number): void {
    while (this.next < this.bookings.length && Date.parse(this.bookings[this.next].at) <= moment)
      for (const line of bookingLine(this.bookings[this.next++])) this.add(line)
  }

  private add(line: Line): void {
    const { from = '', to = '9999' } = this.span
    if (line.date >= from && line.date <= to) {
      if (this.lines.length === 0) this.open(line)
      this.lines.push({ ...line, cash: fromE4(this.cashE4 + toE4(line.amount)) })
    }
    this.cashE4 += toE4(line.amount)
  }

  /** What there was before the first line. */
  private open({ at, date }: Line): void {
    this.lines.push({ at, date, kind: 'Opening', amount: 0, cash: fromE4(this.cashE4) })
  }
}
