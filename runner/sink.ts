import { type Broker, BrokerProblem } from '@/client'
import { type Intent, type Want } from '@/core/engine/events'
import { type NewOrder } from '@/core/orders/model'
import { type RunEntry } from './entries'

/** After how long what could not be brought to the broker is tried again, real milliseconds; the last of them over and over. */
const AGAIN = [250, 500, 1000, 2000, 4000]

/** Of an intent: the id under which the broker answers. */
export function idOf(want: Want): string {
  if (want.is === 'send' || want.is === 'ask') return want.order.clOrdId
  return want.is === 'replace' ? want.change.clOrdId : want.clOrdId
}

/** Whether something must reach the broker however long that takes: what leaves, takes back or moves a stop. An entry has its moment. */
export const isNeeded = (want: Want): boolean =>
  want.is === 'send' ? want.role === 'out' : want.is !== 'ask'

/** Brings what a plan wants to the broker, and says what became of it. */
export class Sink {
  private readonly sending = new Set<Promise<void>>()
  private ended = false

  constructor(
    private readonly broker: Broker,
    private readonly write: (entry: RunEntry) => void,
    /** Told of one that the broker has refused, or that never came there: it holds nothing back. */
    private readonly refused: (want: Want, why: string) => void,
    private readonly again: readonly number[] = AGAIN,
  ) {}

  take(intent: Intent): void {
    if (intent.is === 'ask') return
    const job = this.now(intent).finally(() => this.sending.delete(job))
    this.sending.add(job)
  }

  /**
   * Sends until the broker has answered: an entry a few times, since its moment passes, all else for as long as it takes. A repeated one
   * is refused there and does no harm.
   */
  async now(want: Want): Promise<void> {
    const clOrdId = idOf(want)
    const began = Date.now()
    const wrong = await this.ofPair(want)
    if (wrong !== undefined) return this.refuse(want, wrong)
    for (let tries = 0; ; tries++) {
      try {
        await this.ask(want)
        return this.write({ is: 'taken', clOrdId, waited: Date.now() - began })
      } catch (error) {
        if (!(error instanceof BrokerProblem)) throw error
        // One that stands already under this id is this one.
        if (want.is === 'send' && error.status === 409 && error.order)
          return this.write({ is: 'taken', clOrdId, waited: Date.now() - began })
        if (error.status >= 400 && error.status < 500 && error.status !== 429)
          return this.refuse(want, `${error.title}: ${error.detail}`)
        if (this.ended) return this.write({ is: 'not sent', clOrdId, why: error.detail })
        if (tries >= this.again.length && !isNeeded(want)) return this.settle(want, error.detail, began)
        await this.pause(tries)
      }
    }
  }

  /** Checks of pairs that are under way or done, by client order id of the first leg. */
  private readonly checks = new Map<string, Promise<string | undefined>>()

  /** Why neither leg of a pair is sent; undefined if both may be, or the order belongs to no pair. */
  private async ofPair(want: Want): Promise<string | undefined> {
    if (want.is !== 'send') return undefined
    const { order, mate, mateOf } = want
    if (mate && !this.checks.has(order.clOrdId)) this.checks.set(order.clOrdId, this.checkPair(order, mate))
    if (mate) return this.checks.get(order.clOrdId)
    const wrong = mateOf === undefined ? undefined : await this.checks.get(mateOf)
    if (mateOf !== undefined) this.checks.delete(mateOf)
    return wrong
  }

  /** Asks the broker whether it would take both legs, and whether both trade now, before either is sent. */
  private async checkPair(first: NewOrder, second: NewOrder): Promise<string | undefined> {
    for (let tries = 0; ; tries++) {
      try {
        const quotes = await this.broker.quotes([first.symbol, second.symbol])
        const halted = quotes.find((quote) => quote.halted)
        if (halted) return `neither leg was sent, since trading in ${halted.symbol} is halted`
        for (const order of [first, second]) {
          const { accepted, checks } = await this.broker.check(order)
          const failed = checks.find(({ verdict }) => verdict === 'fails')
          if (!accepted)
            return `neither leg was sent, since the broker would refuse ${order.symbol}${failed ? ` (${failed.sentence.replace(/\.$/, '')})` : ''}`
        }
        return undefined
      } catch (error) {
        if (!(error instanceof BrokerProblem)) throw error
        if (this.ended || tries >= this.again.length)
          return `neither leg was sent, since the broker could not be asked about both (${error.detail})`
        await this.pause(tries)
      }
    }
  }

  private readonly wakes = new Set<() => void>()

  /** Waits before the next try, or until it is ended. */
  private readonly pause = (tries: number): Promise<void> =>
    this.ended
      ? Promise.resolve()
      : new Promise((resolve) => {
          const over = () => {
            clearTimeout(timer)
            this.wakes.delete(over)
            resolve()
          }
          const timer = setTimeout(over, this.again[Math.min(tries, this.again.length - 1)])
          this.wakes.add(over)
        })

  /** An entry of which no answer came: it may have arrived. It stays reserved until the broker can be asked for it. */
  private async settle(want: Want, why: string, began: number): Promise<void> {
    const clOrdId = idOf(want)
    for (;;) {
      if (this.ended) return this.write({ is: 'not sent', clOrdId, why })
      try {
        const [there] = await this.broker.ordersBy({ which: 'all', clOrdId })
        if (there) return this.write({ is: 'taken', clOrdId, waited: Date.now() - began })
        return this.refuse(want, `it did not reach the broker, and its moment has passed: ${why}`)
      } catch (error) {
        if (!(error instanceof BrokerProblem)) throw error
        await this.pause(Infinity)
      }
    }
  }

  private refuse(want: Want, why: string): void {
    this.refused(want, why)
    this.write({ is: 'refused', clOrdId: idOf(want), why })
  }

  private async ask(want: Want): Promise<unknown> {
    // The trader is asked, not the broker.
    if (want.is === 'ask') return undefined
    if (want.is === 'send') return this.broker.send(want.order)
    return want.is === 'cancel'
      ? this.broker.cancel(want.clOrdId)
      : this.broker.replace(want.clOrdId, want.change)
  }

  /** Tries nothing again from now on; done once everything that was being sent is answered. */
  async quiet(): Promise<void> {
    this.ended = true
    for (const wake of this.wakes) wake()
    await Promise.all(this.sending)
  }
}
