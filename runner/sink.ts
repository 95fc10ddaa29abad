import { type Broker, BrokerProblem } from '@/client'
import { type Intent, type Want } from '@/core/engine/events'
import { type RunEntry } from './entries'

/** How often an order that could not be brought to the broker is tried again, real milliseconds. */
const AGAIN = [250, 500, 1000, 2000, 4000]

/** Of an intent: the id under which the broker answers. */
export function idOf(want: Want): string {
  if (want.is === 'send' || want.is === 'ask') return want.order.clOrdId
  return want.is === 'replace' ? want.change.clOrdId : want.clOrdId
}

/** Brings what a plan wants to the broker, and says what became of it. */
export class Sink {
  private readonly sending = new Set<Promise<void>>()

  constructor(
    private readonly broker: Broker,
    private readonly write: (entry: RunEntry) => void,
    /** Told of one that the broker has refused: it holds nothing back. */
    private readonly refused: (want: Want) => void,
  ) {}

  take(intent: Intent): void {
    if (intent.is === 'ask') return
    const job = this.now(intent).finally(() => this.sending.delete(job))
    this.sending.add(job)
  }

  /** Sends until the broker has answered, or the last try has failed; a repeated one is refused there and does no harm. */
  async now(want: Want): Promise<void> {
    const clOrdId = idOf(want)
    const began = Date.now()
    for (let tries = 0; ; tries++) {
      try {
        await this.ask(want)
        return this.write({ is: 'taken', clOrdId, waited: Date.now() - began })
      } catch (error) {
        if (!(error instanceof BrokerProblem)) throw error
        // One that stands already under this id is this one.
        if (want.is === 'send' && error.status === 409 && error.order)
          return this.write({ is: 'taken', clOrdId, waited: Date.now() - began })
        if (error.status >= 400 && error.status < 500 && error.status !== 429) {
          this.refused(want)
          return this.write({ is: 'refused', clOrdId, why: `${error.title}: ${error.detail}` })
        }
        if (tries >= AGAIN.length) {
          // It may have arrived: its report tells, and it stays reserved until then.
          return this.write({ is: 'not sent', clOrdId, why: error.detail })
        }
        await new Promise((resolve) => setTimeout(resolve, AGAIN[tries]))
      }
    }
  }

  private async ask(want: Want): Promise<unknown> {
    // The trader is asked, not the broker.
    if (want.is === 'ask') return undefined
    if (want.is === 'send') return this.broker.send(want.order)
    return want.is === 'cancel'
      ? this.broker.cancel(want.clOrdId)
      : this.broker.replace(want.clOrdId, want.change)
  }

  /** Until everything that was being sent is answered. */
  async quiet(): Promise<void> {
    await Promise.all(this.sending)
  }
}
