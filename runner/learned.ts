import { localDate } from '@/core/market/venue'
import { type Plan } from '@/core/plans/document'
import { asksOfCompanies } from '@/core/plans/drawn'
import { learnFigures } from './figures'
import { type Hub } from './hub'
import { asksForMarket, marketsAt } from './marketOf'

const HOUR = 3_600_000

/** What a plan asks of the market besides bars and quotes, as far as it asks for it; unknown where it cannot be had. */
export class Learned {
  private readonly asksFigures: boolean
  private readonly asksMarket: boolean
  private marketDate = ''
  private figuresAt: number | undefined

  /** `trouble` tells why something is not known. */
  constructor(
    plan: Plan,
    private readonly hub: Hub,
    private readonly trouble: (why: string) => void,
  ) {
    this.asksFigures = asksOfCompanies(plan)
    this.asksMarket = asksForMarket(plan.sides)
  }

  /** How the market stands for these securities, as the session before left it. The broker is asked once a day. */
  async market(symbols: readonly string[], at: number): Promise<void> {
    const { shared } = this.hub.known
    const date = localDate(shared.home, at)
    if (!this.asksMarket || this.marketDate === date) return
    this.marketDate = date
    try {
      Object.assign(shared.market, await marketsAt(this.hub.broker, shared, symbols, at))
    } catch (error) {
      shared.market = {}
      this.trouble(`How the market stands is not known: ${(error as Error).message}`)
    }
  }

  /** What companies have reported. The broker is asked once an hour. */
  async figures(at: number): Promise<void> {
    if (!this.asksFigures) return
    if (this.figuresAt !== undefined && at - this.figuresAt < HOUR) return
    this.figuresAt = at
    try {
      await learnFigures(this.hub.broker, this.hub.known.shared.listed)
    } catch (error) {
      this.trouble(`What companies have reported lately is not known: ${(error as Error).message}`)
    }
  }
}
