import { type Session } from '@/core/market/venue'
import { incrementAt } from '@/core/market/increment'
import { toE4 } from '@/core/market/money'
import { type Factor } from './factors'
import { type Listed } from './listing'
import { chance, seedOf } from '@/core/market/chance'

/** Daily bars of a security as columns; prices in whole ten-thousandths, so that minutes can add up exactly. */
export interface DailyColumns {
  open: Int32Array
  high: Int32Array
  low: Int32Array
  close: Int32Array
  volume: Int32Array
}

const toStep = (price: number, listed: Listed): number => {
  const step = toE4(incrementAt(listed.increments, price))
  return Math.max(step, Math.round((price * 10_000) / step) * step)
}

/**
 * The first n sessions of a security: market and sector factors, a volatility of its own that comes and goes
 * in spells, news that gaps the price, and a mild pull back from extremes. On an ex-date the open is lower by the
 * dividend. Highs and lows are those of a
 * Brownian bridge from open to close (its maximum has the distribution used here; Karatzas and Shreve, 1991).
 */
export function dailyColumns(
  seed: string,
  listed: Listed,
  sessions: readonly Session[],
  market: readonly Factor[],
  sector: readonly Factor[],
  /** Dividend taken off the open of a row, given the close before in e4; in currency units. */
  dividendAt: (row: number, closeE4: number) => number,
): DailyColumns {
  const n = sessions.length
  const luck = chance(seedOf(seed, 'daily', listed.symbol))
  const column = () => new Int32Array(n)
  const out: DailyColumns = {
    open: column(),
    high: column(),
    low: column(),
    close: column(),
    volume: column(),
  }
  const { beta, ownVolatility } = listed
  let close = listed.firstPrice
  let spell = 1
  let spellLeft = 20 + luck.below(60)
  let restless = 1
  for (let i = 0; i < n; i++) {
    if (spellLeft-- <= 0) {
      spell = [0.45, 0.8, 1, 1.3][luck.below(4)]
      spellLeft = 15 + luck.below(70)
    }
    const jump =
      listed.kind === 'Stock' && luck.uniform() < 0.011
        ? (luck.uniform() < 0.52 ? 1 : -1) * (0.035 + 0.09 * luck.uniform())
        : 0
    restless = 0.88 * restless + 0.12 * (1 + (jump !== 0 ? 4 : 0))
    const own = ownVolatility * spell * restless
    const common = market[i]
    const group = listed.kind === 'Index' ? { overnight: 0, day: 0 } : sector[i]
    const pull = listed.kind === 'Index' ? 0 : -0.0025 * Math.log(close / listed.firstPrice / 1.4)
    const night = beta * common.overnight + group.overnight + 0.45 * own * luck.normal() + jump
    const open = close * Math.exp(night) - dividendAt(i, Math.round(close * 10_000))
    const move = beta * common.day + group.day + 0.85 * own * luck.normal() + pull
    const range = Math.sqrt((beta * 0.008 * common.liveliness) ** 2 + own ** 2)
    const reach = () => Math.sqrt(move * move - 2 * range * range * Math.log(1 - 0.9999 * luck.uniform()))
    const [up, down] = [(move + reach()) / 2, (move - reach()) / 2]
    close = open * Math.exp(move)
    const o = toStep(open, listed)
    const c = toStep(close, listed)
    out.open[i] = o
    out.close[i] = c
    out.high[i] = Math.max(o, c, toStep(open * Math.exp(up), listed))
    out.low[i] = Math.min(o, c, toStep(open * Math.exp(down), listed))
    const excitement = Math.abs(move + jump) / range
    const shares =
      listed.usualVolume *
      Math.sqrt(spell) *
      Math.exp(0.28 * luck.normal() + 0.22 * excitement - 0.25) *
      (jump !== 0 ? 2.4 : 1)
    out.volume[i] = Math.max(4_000, Math.round(shares))
    close = c / 10_000
  }
  return out
}
