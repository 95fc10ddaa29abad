import { timeframeText, type Timeframe } from '../market/timeframe'
import { PLAN_FORM, Plan } from './document'

/** What a plan is begun with, from a scan, a row or something drawn. */
export interface Seed {
  name: string
  symbols: readonly string[]
  rule: string
  every: Timeframe
}

/**
 * A plan that opens filled: its securities and its rule, looked at with each tick, entering once. Size and arming are left to
 * the trader; until then it is a draft like any other.
 */
export const seedPlan = ({ name, symbols, rule, every }: Seed): Plan =>
  Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'seed', version: 1, name: name.slice(0, 60) || 'New plan' },
    when: { look: 'Tick' },
    sides: [
      {
        among: { list: [...new Set(symbols)].slice(0, 500) },
        if: { rule, every: timeframeText(every), bars: 'SoFar' },
        provided: [],
        do: { open: 'Long', price: 'market', size: { shares: 100 } },
        then: { exits: { stop: { percent: 2 } }, outAt: { beforeClose: 10 } },
      },
    ],
    never: { entriesPerSecurityAndDay: 1, entriesPerDay: 1 },
  })
