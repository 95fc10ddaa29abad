import { type Broker, BrokerProblem, unreachable } from '@/client'
import { type NewOrder, type Order } from '@/core/orders/model'
import { type Sent, useSheet } from '../sheet/sheetStore'

/** A row that is sent. */
export interface SheetOrder {
  line: number
  order: NewOrder
}

/** Rows of one request: so many are under way when it is stopped. */
const TOGETHER = 25
/** What became of rows is told to the page so often, milliseconds: thousands of rows are drawn anew each time. */
const TOLD = 500
/** A key that asks too fast is told to wait. */
const PAUSE = 1_000

/** Sends the rows of a sheet, whatever section is in view, in their order. */
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
    try {
      for (let i = 0; i < rows.length && !this.isStopping; i += TOGETHER)
        await this.sendTogether(rows.slice(i, i + TOGETHER))
    } finally {
      clearInterval(timer)
      this.tell(rows.length)
      useSheet.setState({ sending: undefined })
    }
  }

  /** Sends no more rows; those under way are still answered. */
  stop(why = 'You stopped it.'): void {
    const { sending } = useSheet.getState()
    if (!sending || this.isStopping) return
    this.isStopping = true
    useSheet.setState({
      sending: { ...sending, isStopping: true },
      ended: `${why} The rows that are left can be sent later.`,
    })
  }

  private async sendTogether(rows: readonly SheetOrder[]): Promise<void> {
    for (const { line } of rows) this.told.set(line, { is: 'sending' })
    for (;;) {
      try {
        const answers = await this.broker.sendMany(rows.map(({ order }) => order))
        return rows.forEach((row, i) => this.answer(row, answers[i]))
      } catch (error) {
        const problem = error instanceof BrokerProblem ? error : unreachable()
        if (problem.status !== 429 || this.isStopping) return this.refused(rows, problem)
        await new Promise((resolve) => setTimeout(resolve, PAUSE))
      }
    }
  }

  /** What is done where a whole request was refused. */
  private async refused(rows: readonly SheetOrder[], problem: BrokerProblem): Promise<void> {
    const isUnread = problem.status === 400 || problem.status === 413
    // One row that cannot be read keeps the others of its request from being sent: each is sent by itself.
    if (isUnread && rows.length > 1) for (const row of rows) await this.sendTogether([row])
    else {
      for (const row of rows) this.answer(row, problem)
      // Nobody knows whether an order arrived that was not answered; its id keeps it from being doubled.
      if (!isUnread) this.stop(problem.detail)
    }
  }

  private answer({ line }: SheetOrder, answer: Order | BrokerProblem): void {
    this.done++
    if (!(answer instanceof BrokerProblem)) return void this.told.set(line, { is: 'sent' })
    const isBefore = answer.kind === 'duplicate-client-order-id'
    this.told.set(line, isBefore ? { is: 'before' } : { is: 'refused', problem: answer })
    if (answer.kind === 'stood-down') this.stop('The account stands down.')
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
