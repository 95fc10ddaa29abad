import { stampOf } from '@/core/market/moments'
import { type Adjustment } from '@/core/market/adjust'
import { parseTimeframe } from '@/core/market/timeframe'

/**
 * What a chart is asked to show, as its address carries it: a row of a result, or a past hit, stands there with the
 * rule, the bars and the day on which it was found. A bar is named by its start: a date for days and longer.
 */
export interface Asked {
  /** Set of own data. */
  dataId?: string
  every?: string
  rule?: string
  prices?: Adjustment
  /** Date of a past day at whose end the scan stood. */
  asOf?: string
  /** The bar on which it was found, and the first bar that was looked at. */
  at?: string
  first?: string
}

/** A bar that was found, by its starts in the zone of its security. */
export interface FoundBar {
  every: string
  zone: string
  bar: number
  first: number
}

const KEYS = ['dataId', 'every', 'rule', 'prices', 'asOf', 'at', 'first'] as const

/** Names of the fields in the address. */
const NAMES: Record<(typeof KEYS)[number], string> = {
  dataId: 'data',
  every: 'every',
  rule: 'rule',
  prices: 'prices',
  asOf: 'as-of',
  at: 'at',
  first: 'first',
}

/** Longer rules would make an address that servers refuse; the chart then shows the rule that stands in Find. */
const LONGEST = 4_000

/** The address of a chart. */
export function lookPath(symbol: string, asked: Asked = {}, found?: FoundBar): string {
  const every = found && parseTimeframe(found.every)
  const all: Asked = {
    ...asked,
    ...(every && {
      every: found.every,
      at: stampOf(every, found.zone, found.bar),
      first: stampOf(every, found.zone, found.first),
    }),
  }
  const query = new URLSearchParams()
  for (const key of KEYS) {
    const value = all[key]
    if (value && !(key === 'rule' && encodeURIComponent(value).length > LONGEST)) query.set(NAMES[key], value)
  }
  const text = query.toString()
  return `/look/${encodeURIComponent(symbol)}${text && `?${text}`}`
}

const PRICES: readonly Adjustment[] = ['over-splits', 'over-splits-and-dividends', 'as-traded']

/** What an address asks for; what is no date, timeframe or adjustment in it is left out. */
export function readAsked(query: { get(name: string): string | null }): Asked {
  const out: Asked = {}
  for (const key of KEYS) {
    const value = query.get(NAMES[key])
    if (value) (out as Record<string, string>)[key] = value
  }
  if (out.every && !parseTimeframe(out.every)) delete out.every
  if (out.prices && !PRICES.includes(out.prices)) delete out.prices
  for (const key of ['asOf', 'at', 'first'] as const)
    if (out[key] && Number.isNaN(Date.parse(out[key]))) delete out[key]
  return out
}
