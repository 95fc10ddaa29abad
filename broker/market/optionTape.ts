import { chance, seedOf } from '@/core/market/chance'
import { type Session } from '@/core/market/venue'
import { countUpTo } from './countUpTo'
import { dealtBy, sessionWeights } from './intraday'
import { type Listed } from './listing'

const MINUTE = 60_000

/** Contracts in one trade, on average. */
const USUAL_SIZE = 6

/** Sessions of underlyings whose trades are kept in memory. */
const MOST_KEPT = 160

/** Trades of one contract in a session, in the order of their seconds. */
export interface ContractTrades {
  /** Seconds since the open. */
  second: number[]
  /** Contracts. */
  size: number[]
}

/** Every trade in the contracts of one underlying over a session. */
interface Tape {
  byContract: Map<string, ContractTrades>
  /** Contracts traded in each second of the session, of all contracts together. */
  volume: Int32Array
}

const NONE: ContractTrades = { second: [], size: [] }

/** What a tape is made from, as known at the open of its session. */
export interface TapeSource {
  seed: string
  /** Listed contracts, each with its share of the trading. */
  contracts(underlying: Listed, session: Session): { symbol: string; weight: number }[]
  /** Contracts of an underlying that trade on a session in all. */
  volume(underlying: Listed, session: Session): number
}

/**
 * Trades in option contracts. The contracts of an underlying share its option volume of the day: each trade has a second, a
 * size and one contract, drawn by weight. So the contracts add up to the day's option volume, and no second gives away a
 * later one.
 */
export class OptionTapes {
  private readonly kept = new Map<string, Tape>()

  constructor(private readonly source: TapeSource) {}

  /** Trades of a contract over a whole session. */
  tradesOf(contract: Listed, underlying: Listed, session: Session): ContractTrades {
    return this.tapeOf(underlying, session).byContract.get(contract.symbol) ?? NONE
  }

  /** Contracts of an underlying that have traded in a session up to a second since its open, that one included. */
  volumeUpTo(underlying: Listed, session: Session, second: number): number {
    const { volume } = this.tapeOf(underlying, session)
    let sum = 0
    for (let s = 0; s <= Math.min(second, volume.length - 1); s++) sum += volume[s]
    return sum
  }

  private tapeOf(underlying: Listed, session: Session): Tape {
    const key = `${underlying.symbol} ${session.date}`
    let tape = this.kept.get(key)
    if (!tape) {
      tape = this.make(underlying, session)
      if (this.kept.size >= MOST_KEPT) this.kept.delete(this.kept.keys().next().value!)
      this.kept.set(key, tape)
    }
    return tape
  }

  private make(underlying: Listed, session: Session): Tape {
    const tape: Tape = {
      byContract: new Map(),
      volume: new Int32Array((session.close - session.open) / 1000),
    }
    const contracts = this.source.contracts(underlying, session)
    if (contracts.length === 0) return tape
    const upTo = new Float64Array(contracts.length)
    let whole = 0
    contracts.forEach(({ weight }, i) => (upTo[i] = whole += weight))
    const luck = chance(seedOf(this.source.seed, 'option tape', underlying.symbol, session.date))
    const minutes = (session.close - session.open) / MINUTE
    const volumes = dealtBy(sessionWeights(luck, minutes), this.source.volume(underlying, session))
    for (let k = 0; k < minutes; k++) {
      const trades: { second: number; size: number; symbol: string }[] = []
      for (let left = volumes[k]; left > 0;) {
        const size = Math.min(left, 1 + Math.floor(-Math.log(1 - luck.uniform()) * USUAL_SIZE))
        const drawn = luck.uniform() * whole
        const { symbol } = contracts[countUpTo(contracts.length - 1, (i) => upTo[i] <= drawn)]
        trades.push({ second: 60 * k + luck.below(60), size, symbol })
        left -= size
      }
      for (const { second, size, symbol } of trades.sort((a, b) => a.second - b.second)) {
        let of = tape.byContract.get(symbol)
        if (!of) tape.byContract.set(symbol, (of = { second: [], size: [] }))
        of.second.push(second)
        of.size.push(size)
        tape.volume[second] += size
      }
    }
    return tape
  }
}
