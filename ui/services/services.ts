import { type Broker } from '@/client'
import { type ScanPool } from '@/workers/scanPool'
import { AboutSecurities, Holdings } from './about'
import { MarketBars } from './bars'
import { Plans } from './plans'
import { Quotes } from './quotes'
import { Reports } from './reports'
import { Scans } from './scans'
import { Schedules } from './schedules'
import { SheetSender } from './sheetSender'

/** What works for the page apart from any screen: each has its lifetime here, and hooks reach it. */
export interface Services {
  broker: Broker
  quotes: Quotes
  reports: Reports
  bars: MarketBars
  holdings: Holdings
  scans: Scans
  schedules: Schedules
  plans: Plans
  sheet: SheetSender
  start(): void
  end(): void
}

export function makeServices(broker: Broker, pool: ScanPool): Services {
  const quotes = new Quotes(broker)
  const reports = new Reports(broker)
  const bars = new MarketBars(broker)
  const holdings = new Holdings(broker, reports)
  const scans = new Scans(bars, pool, new AboutSecurities(broker, holdings))
  const schedules = new Schedules(broker, scans)
  const plans = new Plans(broker)
  const sheet = new SheetSender(broker)
  const running = [quotes, reports, schedules, plans]
  return {
    ...{ broker, quotes, reports, bars, holdings, scans, schedules, plans, sheet },
    start() {
      for (const service of running) service.start()
    },
    end() {
      for (const service of running) service.end()
    },
  }
}
