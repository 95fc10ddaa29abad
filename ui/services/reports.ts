import { type Broker, follow } from '@/client'
import { ExecutionReport } from '@/core/orders/model'
import { brokerAway, brokerThere } from './link'

type Listener = (report: ExecutionReport) => void

/** The account's execution reports as they happen, over one stream that goes on after the last that came. */
export class Reports {
  private readonly listeners = new Set<Listener>()
  private readonly returns = new Set<() => void>()
  private stop: (() => void) | undefined
  private wasAway = false

  constructor(private readonly broker: Broker) {}

  start(): void {
    this.stop ??= follow(this.broker, this.broker.executionStream, {
      event: ({ event, data }) => {
        if (event !== 'executionReport') return
        const report = ExecutionReport.parse(JSON.parse(data))
        for (const listener of this.listeners) listener(report)
      },
      there: () => {
        brokerThere()
        if (this.wasAway) for (const back of this.returns) back()
        this.wasAway = false
      },
      away: (error) => {
        this.wasAway = true
        brokerAway(error)
      },
    })
  }

  end(): void {
    this.stop?.()
    this.stop = undefined
  }

  /** Hands each report to a listener, until the function that is given back is called. */
  listen(listener: Listener): () => void {
    this.listeners.add(listener)
    return () => void this.listeners.delete(listener)
  }

  /** Told whenever the broker is there again: what was asked before may have changed. */
  onReturn(back: () => void): () => void {
    this.returns.add(back)
    return () => void this.returns.delete(back)
  }
}
