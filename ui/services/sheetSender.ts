import { type Broker, BrokerProblem, unreachable } from '@/client'
import { type NewOrder } from '@/core/orders/model'
import { type Sent, useSheet } from '../sheet/sheetStore'

/** A row that is sent. */
export interface SheetOrder {
  line: number
  order: NewOrder
}

/** Rows that are under way at one time: a browser opens six connections to one place, and the streams need one. */
const TOGETHER = 4
/** What became of rows is told to the page so often, milliseconds: thousands of rows are drawn anew each time. */
const TOLD = 500
/** A key that asks too fast is told to wait. */
const PAUSE = 1_000

/** Sends the rows of a sheet, whatever section is in view, in their order: a row waits for another side of its security. */
export class SheetSender {
  private isStopping = false
  private told = new Map<number, Sent>()
  private done = 0

  constructor(private readonly broker: Broker) {}

  /** Sends rows until all are answered, or it is stopped. Every id is taken once, so that a stopped sheet can simply be sent again. */
  async send(rows: readonly SheetOrder[]): Promise<void> {
    if (useSheet.getState().sending) return
    this.isStopping = false
    this.done = 0
    useSheet.setState({ sending: { done: 0, total: rows.length, isStopping: false }, ended: undefined })
    const timer = setInterval(() => this.tell(rows.length), TOLD)
    const underWay = new Map<Promise<void>, SheetOrder>()
    try {
      for (const row of rows) {
        while (!this.isStopping && (underWay.size >= TOGETHER || crosses(row, underWay.values())))
          await Promise.race(underWay.keys())
        if (this.isStopping) break
        this.told.set(row.line, { is: 'sending' })
        const job: Promise<void> = this.sendRow(row).finally(() => underWay.delete(job))
        underWay.set(job, row)
      }
      await Promise.all(underWay.keys())
    } finally {
      clearInterval(timer)
      this.tell(rows.length)
      useSheet.setState({ sending: undefined })
    }
  }

  /** Sends no more rows; those under way are still answered. */
  stop(why = 'You stopped it.'): void {
    const { sending } = useSheet.getState()
    if (!sending) return
    this.isStopping = true
    useSheet.setState({
      sending: { ...sending, isStopping: true },
      ended: `${why} The rows that are left can be sent later.`,
    })
  }

  private async sendRow({ line, order }: SheetOrder): Promise<void> {
    for (;;) {
      try {
        await this.broker.send(order)
        this.done++
        return void this.told.set(line, { is: 'sent' })
      } catch (error) {
        const problem = error instanceof BrokerProblem ? error : unreachable()
        if (problem.status === 429 && !this.isStopping) {
          await new Promise((resolve) => setTimeout(resolve, PAUSE))
          continue
        }
        this.done++
        this.told.set(
          line,
          problem.kind === 'duplicate-client-order-id' ? { is: 'before' } : { is: 'refused', problem },
        )
        // Nobody knows whether an order arrived that was not answered; its id keeps it from being doubled.
        if (problem.kind === 'unreachable') this.stop('The broker does not answer.')
        if (problem.kind === 'stood-down') this.stop('The account stands down.')
        return
      }
    }
  }

  private tell(total: number): void {
    if (this.told.size === 0) return
    const told = Object.fromEntries(this.told)
    this.told = new Map()
    useSheet.setState((state) => ({
      sent: { ...state.sent, ...told },
      sending: state.sending && { ...state.sending, done: this.done, total },
    }))
  }
}

/** Whether a row trades the other way in a security of which a row is under way: what it may do hangs on that one. */
function crosses({ order }: SheetOrder, underWay: Iterable<SheetOrder>): boolean {
  for (const { order: other } of underWay)
    if (other.symbol === order.symbol && other.side !== order.side) return true
  return false
}
