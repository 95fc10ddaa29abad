import { z } from 'zod'
import { parse } from '../rules/parse'
import { type Node } from '../rules/tree'
import { spanless } from '../rules/walk'

/** One voice: a rule to buy and a rule to sell, as rule text. */
export const Voter = z.object({ name: z.string().min(1).max(60), buy: z.string(), sell: z.string() })
export type Voter = z.infer<typeof Voter>

/** Several named voters that are asked together. */
export const Ballot = z.object({
  id: z.string(),
  name: z.string().min(1).max(60),
  voters: z.array(Voter).max(50),
})
export type Ballot = z.infer<typeof Ballot>

/** The usual voices, to begin with; bounds and lengths are common practice. */
export const USUAL_VOTERS: readonly Voter[] = [
  { name: 'Long trend', buy: 'close > sma(close, 200)', sell: 'close < sma(close, 200)' },
  {
    name: 'Fast over slow',
    buy: 'ema(close, 12) > ema(close, 26)',
    sell: 'ema(close, 12) < ema(close, 26)',
  },
  { name: 'Strength', buy: 'rsi(14) < 30', sell: 'rsi(14) > 70' },
  { name: 'Momentum', buy: 'macd.line > macd.signal', sell: 'macd.line < macd.signal' },
  {
    name: 'Bands',
    buy: 'close < bollinger(close, 20, 2).lower',
    sell: 'close > bollinger(close, 20, 2).upper',
  },
  { name: 'Direction', buy: 'adx.plus > adx.minus', sell: 'adx.plus < adx.minus' },
  { name: 'Place in range', buy: 'stochastic.slow < 20', sell: 'stochastic.slow > 80' },
  { name: 'Money flow', buy: 'chaikin(20) > 0.05', sell: 'chaikin(20) < -0.05' },
]

/** The sum of a ballot as a measure: voters that say buy less those that say sell. */
export function ballotTree(voters: readonly Voter[]): Node | undefined {
  const side = (which: 'buy' | 'sell'): Node[] | undefined => {
    const trees = voters.map((voter) => parse(voter[which]).tree)
    return trees.includes(undefined) ? undefined : (trees as Node[]).map(spanless)
  }
  const [buys, sells] = [side('buy'), side('sell')]
  if (!buys || !sells || buys.length === 0) return undefined
  const count = (parts: Node[]): Node => ({ kind: 'fan', each: 'count', parts })
  return { kind: 'arith', op: '-', left: count(buys), right: count(sells) }
}

export type Vote = 'buy' | 'sell' | 'neither' | 'unknown'

/** What one voter says: neither where both of its rules hold, unknown where one is and the other does not hold. */
export function voteOf(buy: 'holds' | 'fails' | 'unknown', sell: 'holds' | 'fails' | 'unknown'): Vote {
  if (buy === 'unknown' || sell === 'unknown') return 'unknown'
  if (buy === sell) return 'neither'
  return buy === 'holds' ? 'buy' : 'sell'
}
