import { timeframeText, type Timeframe } from '../market/timeframe'
import { checkMeasure, checkRule, unitOf } from '../rules'
import { PLAN_FORM, Plan } from './document'

/** What a plan is begun with, from a scan, a row or something drawn. */
export interface Seed {
  name: string
  symbols: readonly string[]
  rule: string
  every: Timeframe
  inputs?: Plan['inputs']
}

/**
 * A plan that opens filled: its securities and its rule, looked at with each tick, entering once. Size and arming are left to
 * the trader; until then it is a draft like any other.
 */
export const seedPlan = ({ name, symbols, rule, every, inputs }: Seed): Plan =>
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
    ...(inputs ? { inputs } : {}),
  })

const BOUND = 'bound'

/**
 * What a plan is begun with from a column of a table: its measure through a bound, which stands in one place to be changed and is
 * the value of now to begin with. Undefined where no number can be written beside the measure.
 */
export function seedBound(
  measure: string,
  value: number,
  { every, ...part }: Pick<Seed, 'symbols' | 'every'>,
): Seed | undefined {
  if (!Number.isFinite(value)) return undefined
  const number = String(Number(value.toPrecision(4)))
  const { tree } = checkMeasure(measure, every)
  const percent = tree !== undefined && unitOf(tree, every) === 'percent'
  const written = (percent ? ['%'] : ['', ' ticks']).map((unit) => `${number}${unit}`)
  const fits = [...written, `$${number}`, `€${number}`].find(
    (one) => checkRule(`${measure} crosses above ${one}`, every).issues.length === 0,
  )
  return fits === undefined
    ? undefined
    : {
        ...part,
        every,
        name: `${part.symbols.join(', ')} at a bound`,
        rule: `${measure} crosses above ${BOUND}`,
        inputs: [{ name: BOUND, value: fits }],
      }
}
