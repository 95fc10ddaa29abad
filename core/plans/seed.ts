import { timeframeText, type Timeframe } from '../market/timeframe'
import { checkMeasure, checkRule, unitOf } from '../rules'
import { PLAN_FORM, Plan } from './document'
import { type Found } from './found'

/** Which way the price, or a measure, passes what a plan is begun from. */
export type Way = 'up' | 'down' | 'either'

/** What a plan is begun with, from a scan, a row or something drawn. */
export interface Seed {
  name: string
  /** Securities of now, and how those are found that meet the rule from now on. */
  symbols: readonly string[]
  found?: Found
  /** The condition; what is passed has one for each way. */
  rule: string | Readonly<Record<Way, string>>
  every: Timeframe
  inputs?: Plan['inputs']
}

/** What the trader asks for in the sentence in which a plan is begun. What is left out is left out of the plan. */
export interface Wish {
  way: Way
  deed: 'buy' | 'close' | 'short' | 'tell'
  /** Each security that meets the rule from now on, where the seed tells how it is found. */
  from: 'each' | 'these'
  shares?: number
  /** Percent from the fill. */
  stop?: number
  target?: number
}

/** Conditions for a price that passes a level, either way: between bars each price is compared with the one before. */
export const passing = (level: string): Record<Way, string> => ({
  ...{ up: `passesup(${level})`, down: `passesdown(${level})`, either: `passes(${level})` },
})

/** The same for any other measure, which is compared with its value on the bar before. */
const crossing = (measure: string, bound: string): Record<Way, string> => ({
  up: `${measure} crosses above ${bound}`,
  down: `${measure} crosses below ${bound}`,
  either: `${measure} changes sides of ${bound}`,
})

/** A plan as it is asked for, looked at with each tick, once. Arming is left to the trader; until then it is a draft like any other. */
export function seedPlan(seed: Seed, { way, deed, from, shares, stop, target }: Wish): Plan {
  const { name, symbols, found, rule, every, inputs } = seed
  const exits = {
    ...(stop === undefined ? {} : { stop: { percent: stop } }),
    ...(target === undefined ? {} : { target: { percent: target } }),
  }
  const opens = deed === 'buy' || deed === 'short'
  const each = from === 'each' && found !== undefined
  return Plan.parse({
    ...{ form: PLAN_FORM, formVersion: 1, id: 'seed', version: 1, name: name.slice(0, 60) || 'New plan' },
    when: { look: 'Tick' },
    sides: [
      {
        among: each ? { found: { ...found, signal: true } } : { list: [...new Set(symbols)].slice(0, 500) },
        if: { rule: typeof rule === 'string' ? rule : rule[way], every: timeframeText(every), bars: 'SoFar' },
        provided: [],
        do: opens
          ? { open: deed === 'buy' ? 'Long' : 'Short', price: 'market', size: { shares: shares ?? 100 } }
          : deed === 'close'
            ? { close: 100, price: 'market' }
            : { tell: true },
        then: opens && Object.keys(exits).length > 0 ? { exits } : {},
      },
    ],
    // One that is drawn or bounded is for once; of those that a search finds each has its turn.
    never: each
      ? { entriesPerSecurityAndDay: 1 }
      : symbols.length === 1
        ? { entriesInAll: 1 }
        : { entriesPerSecurityAndDay: 1, entriesPerDay: Math.min(500, symbols.length) },
    ...(inputs ? { inputs } : {}),
  })
}

const BOUND = 'bound'
/** Measures that are the price itself: what passes a bound is then compared from price to price. */
const PRICES: ReadonlySet<string> = new Set(['close', 'last'])

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
        rule: PRICES.has(measure.trim()) ? passing(BOUND) : crossing(measure, BOUND),
        inputs: [{ name: BOUND, value: fits }],
      }
}
