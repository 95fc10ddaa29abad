import { type Broker } from '@/client'
import { type Holding } from '@/core/market/holdings'
import { holdingsOf } from '@/core/book/holdings'
import { type ExecutionReport } from '@/core/orders/model'
import { type Reads } from '@/core/rules'
import { db } from '@/store/db'
import { type About, type Listing } from '@/workers/scan.protocol'
import { type Market } from './market'
import { type Reports } from './reports'

/** Reports that one answer of the broker holds at most. */
const PAGE = 10_000

/** What the account held of each security, folded from all of its execution reports; kept while it stands. */
export class Holdings {
  private readonly known: ExecutionReport[] = []
  private folded: Record<string, Holding[]> = {}
  private asking: Promise<Record<string, Holding[]>> | undefined

  constructor(
    private readonly broker: Broker,
    reports: Reports,
  ) {
    // What comes over the stream is asked for in order: nothing is missed, and nothing taken twice.
    reports.listen(() => (this.asking = undefined))
    reports.onReturn(() => (this.asking = undefined))
  }

  /** Another account is asked of from now on. */
  forget(): void {
    this.known.length = 0
    this.folded = {}
    this.asking = undefined
  }

  all(): Promise<Record<string, Holding[]>> {
    this.asking ??= this.bring().catch((error: unknown) => {
      this.asking = undefined
      throw error
    })
    return this.asking
  }

  private async bring(): Promise<Record<string, Holding[]>> {
    const { account, access } = this.broker
    const before = this.known.length
    for (;;) {
      const more = await this.broker.executions(this.known.at(-1)?.seq ?? 0, PAGE)
      if (this.broker.account !== account || this.broker.access !== access) return this.bring()
      this.known.push(...more)
      if (more.length < PAGE) break
    }
    if (this.known.length > before) this.folded = holdingsOf(this.known)
    return this.folded
  }
}

/** Gathers what rules ask of securities besides their bars, and knows when it is the same as before. */
export class AboutSecurities {
  private listed: { of: Market; listed: Record<string, Listing> } | undefined
  private lastKey = ''

  constructor(
    private readonly broker: Broker,
    private readonly holdings: Holdings,
  ) {}

  /** What is to be told for some rules at a moment; undefined where all of it was told. */
  async forRules(market: Market, { sources }: Reads, day: string): Promise<About | undefined> {
    const layouts = sources.has('drawing') ? await db.layouts.toArray() : []
    const holdings = sources.has('position') ? await this.holdings.all() : undefined
    const key = JSON.stringify([
      day,
      sources.has('figures'),
      layouts.map((layout) => [layout.symbol, layout.changedAt]),
      holdings && Object.entries(holdings).map(([symbol, all]) => [symbol, all.length]),
    ])
    const same = this.listed?.of === market && key === this.lastKey
    if (same) return undefined
    if (this.listed?.of !== market) this.listed = { of: market, listed: listingsOf(market) }
    const about: About = {
      listed: this.listed.listed,
      reports: sources.has('figures') ? await this.reports() : {},
      drawings: Object.fromEntries(layouts.map((layout) => [layout.symbol, layout.drawings])),
      ...(holdings ? { holdings } : {}),
    }
    this.lastKey = key
    return about
  }

  /** What was told did not arrive: it is told again. */
  forget(): void {
    this.lastKey = ''
  }

  /** Company figures of the market, and over them those that the trader brought. */
  private async reports(): Promise<About['reports']> {
    const out: Record<string, About['reports'][string]> = await this.broker.reports()
    for (const { symbol, reports } of await db.ownReports.toArray()) out[symbol] = reports
    return out
  }
}

const listingsOf = ({ securities, indices }: Market): Record<string, Listing> =>
  Object.fromEntries(
    securities.map(({ symbol, venue, currency, increments }) => [
      symbol,
      { index: indices[venue] ?? '', currency, increments },
    ]),
  )
