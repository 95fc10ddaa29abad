/** What a European option on a stock without dividends is valued by. Rates and volatility a year, as shares of 1. */
export interface Terms {
  call: boolean
  price: number
  strike: number
  /** Years until it ends. */
  years: number
  rate: number
  volatility: number
}

/**
 * Value of a European option, in the unit of its price. Source: Black and Scholes, "The Pricing of Options and Corporate
 * Liabilities", Journal of Political Economy 81 (1973).
 */
export function europeanValue({ call, price, strike, years, rate, volatility }: Terms): number {
  const sign = call ? 1 : -1
  const discounted = strike * Math.exp(-rate * years)
  const spread = volatility * Math.sqrt(years)
  if (!(spread > 0)) return Math.max(0, sign * (price - discounted))
  const d1 = Math.log(price / discounted) / spread + spread / 2
  return sign * (price * normal(sign * d1) - discounted * normal(sign * (d1 - spread)))
}

/**
 * Share of a standard normal variable below x, to 15 digits. Source: Hart, Computer Approximations (1968), algorithm 5666, in the
 * form of West, "Better approximations to cumulative normal functions", Wilmott (2005); from memory, held by tests.
 */
export function normal(x: number): number {
  const z = Math.abs(x)
  if (z > 37) return x > 0 ? 1 : 0
  const e = Math.exp((-z * z) / 2)
  let tail: number
  if (z < 7.07106781186547) {
    const above = [
      3.52624965998911e-2, 0.700383064443688, 6.37396220353165, 33.912866078383, 112.079291497871,
      221.213596169931, 220.206867912376,
    ]
    const below = [
      8.83883476483184e-2, 1.75566716318264, 16.064177579207, 86.7807322029461, 296.564248779674,
      637.333633378831, 793.826512519948, 440.413735824752,
    ]
    tail = (e * horner(above, z)) / horner(below, z)
  } else tail = e / (z + 1 / (z + 2 / (z + 3 / (z + 4 / (z + 0.65))))) / 2.506628274631
  return x > 0 ? 1 - tail : tail
}

const horner = (factors: readonly number[], z: number): number =>
  factors.reduce((sum, factor) => sum * z + factor, 0)
