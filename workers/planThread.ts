import { type TokenSource } from '@/client'
import { type ToldPlan } from '@/runner/told'
import {
  type AccountNow,
  type Beginning,
  type HeardEntry,
  type PlansMessage,
  type PlansRequest,
  type PlansWhere,
} from './plans.protocol'
import { Requests } from './requests'

/** The worker that runs plans, as the page speaks with it. It is started with the first of them. */
export class PlanThread {
  private readonly requests: Requests<PlansRequest, PlansMessage>

  /** `tokens` gives the source of the key for an account, `heard` is told what plans write down, `broke` why none of them runs any more. */
  constructor(
    private readonly tokens: (where: PlansWhere) => TokenSource,
    heard: (plan: string, entries: readonly HeardEntry[]) => void,
    broke: (reason: string) => void,
  ) {
    this.requests = new Requests(
      () => new Worker(new URL('./plans.worker.ts', import.meta.url), { type: 'module' }),
      (message) => {
        if (message.is === 'heard') heard(message.plan, message.entries)
        else void this.giveToken(message.wanted, message.where)
      },
      broke,
    )
  }

  /** The account that plans will run in. Throws WorkerFailure where the broker's records cannot be explained, or it is away. */
  account(where: PlansWhere): Promise<AccountNow> {
    return this.requests.ask({ ask: 'account', where })
  }

  /** Begins a plan in an account that was asked for; done once it has caught up. Throws WorkerFailure. */
  begin(beginning: Beginning): Promise<void> {
    return this.requests.ask({ ask: 'begin', ...beginning })
  }

  /** Done once what was being sent is answered. */
  stop(plan: string, why: string): Promise<void> {
    return this.requests.ask({ ask: 'stop', plan, why })
  }

  tell(plan: string, told: ToldPlan): Promise<void> {
    return this.requests.ask({ ask: 'tell', plan, told })
  }

  private async giveToken(wanted: number, where: PlansWhere): Promise<void> {
    const given = await this.tokens(where)().then(
      (granted) => ({ granted }),
      (error: Error) => ({ why: error.message }),
    )
    await this.requests.ask({ ask: 'take token', wanted, ...given })
  }

  end(): void {
    this.requests.end()
  }
}
