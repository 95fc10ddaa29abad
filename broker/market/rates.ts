import { chance, seedOf } from '@/core/market/chance'

/** What a unit of each currency is worth in US dollars in the long run. */
const USUAL: Record<string, number> = { USD: 1, EUR: 1.09 }

const DAY = 86_400_000
/** Days whose luck still shows, and how much of it is left after each. */
const MEMORY = 60
const KEPT = 0.95

/** What a unit of a currency is worth in US dollars on a day: it swings about its usual worth. */
function inDollars(seed: string, currency: string, date: string): number {
  if (currency === 'USD') return 1
  const day = Date.parse(`${date}T00:00:00Z`) / DAY
  let away = 0
  for (let back = 0; back < MEMORY; back++)
    away += KEPT ** back * 0.004 * chance(seedOf(seed, 'rate', currency, day - back)).normal()
  return USUAL[currency] * Math.exp(away)
}

/** Units of one currency for a unit of another on a day, to six decimals. */
export const rateOn = (seed: string, from: string, to: string, date: string): number =>
  from === to
    ? 1
    : Math.round((inDollars(seed, from, date) / inDollars(seed, to, date)) * 1_000_000) / 1_000_000

/** Currencies that there are rates of. */
export const CURRENCIES = Object.keys(USUAL)
