import { chance, seedOf } from '@/core/market/chance'

/** A spell of the market: drift and volatility of a day, and the share of it that comes overnight. */
interface Regime {
  drift: number
  volatility: number
  overnight: number
}

const REGIMES: Record<string, Regime> = {
  calm: { drift: 0.0004, volatility: 0.0055, overnight: 0.25 },
  rising: { drift: 0.0013, volatility: 0.008, overnight: 0.3 },
  falling: { drift: -0.0019, volatility: 0.0145, overnight: 0.35 },
  gapping: { drift: 0.0002, volatility: 0.0125, overnight: 0.7 },
}

const AFTER: Record<string, [string, number][]> = {
  calm: [
    ['rising', 0.6],
    ['gapping', 0.2],
    ['falling', 0.2],
  ],
  rising: [
    ['calm', 0.45],
    ['falling', 0.35],
    ['gapping', 0.2],
  ],
  falling: [
    ['gapping', 0.35],
    ['calm', 0.35],
    ['rising', 0.3],
  ],
  gapping: [
    ['rising', 0.45],
    ['calm', 0.35],
    ['falling', 0.2],
  ],
}

/** What all securities, or all of a sector, have in common on one session: log returns. */
export interface Factor {
  overnight: number
  day: number
  /** How lively the day is against the usual, for ranges and volume. */
  liveliness: number
}

/** The market's factor for the first n sessions. More sessions never change earlier ones. */
export function marketFactor(seed: string, n: number): Factor[] {
  const luck = chance(seedOf(seed, 'market'))
  const out: Factor[] = []
  let regime = 'calm'
  let left = 60
  for (let i = 0; i < n; i++) {
    if (left-- <= 0) {
      let pick = luck.uniform()
      regime = AFTER[regime].find(([, share]) => (pick -= share) < 0)?.[0] ?? 'calm'
      left = 25 + luck.below(70)
    }
    const { drift, volatility, overnight } = REGIMES[regime]
    out.push({
      overnight: drift * overnight + volatility * Math.sqrt(overnight) * luck.normal(),
      day: drift * (1 - overnight) + volatility * Math.sqrt(1 - overnight) * luck.normal(),
      liveliness: volatility / 0.009,
    })
  }
  return out
}

/** A sector's own factor beside the market's. */
export function sectorFactor(seed: string, sector: string, n: number): Factor[] {
  const luck = chance(seedOf(seed, 'sector', sector))
  return Array.from({ length: n }, () => ({
    overnight: 0.002 * luck.normal(),
    day: 0.004 * luck.normal(),
    liveliness: 1,
  }))
}
