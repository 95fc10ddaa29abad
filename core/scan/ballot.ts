import * as z from 'zod'
import { parse } from '../rules/parse'
import { type Node } from '../rules/tree'
import { spanless } from '../rules/walk'

/** Older builds called the two rules buy and sell. */
const renamed = (value: unknown): unknown => {
  if (typeof value !== 'object' || value === null || !('buy' in value) || !('sell' in value)) return value
  const { buy, sell, ...rest } = value
  return { for: buy, against: sell, ...rest }
}

/** One voice: a rule for a security and a rule against it, as rule text. */
export const Voter = z.preprocess(
  renamed,
  z.object({ name: z.string().min(1).max(60), for: z.string(), against: z.string() }),
)
export type Voter = z.infer<typeof Voter>

/** Several named voters that are asked together. */
export const Ballot = z.object({
  id: z.string(),
  name: z.string().min(1).max(60),
  voters: z.array(Voter).max(50),
})
export type Ballot = z.infer<typeof Ballot>

/** The usual voices, to begin with. */
export const USUAL_VOTERS: readonly Voter[] = [
  { name: 'Long trend', for: 'close > sma(close, 200)', against: 'close < sma(close, 200)' },
  { name: 'Turns', for: 'trend up', against: 'trend down' },
  {
    name: 'Slope',
    for: 'regression(close, 33).slope > 0',
    against: 'regression(close, 33).slope < 0',
  },
  {
    name: 'Fast over slow',
    for: 'ema(close, 9) > ema(close, 33)',
    against: 'ema(close, 9) < ema(close, 33)',
  },
  { name: 'Strength', for: 'rsi(14) < 36', against: 'rsi(14) > 64' },
  { name: 'Momentum', for: 'macd.line > macd.signal', against: 'macd.line < macd.signal' },
  {
    name: 'Bands',
    for: 'close < bollinger(close, 20, 2).lower',
    against: 'close > bollinger(close, 20, 2).upper',
  },
  { name: 'Direction', for: 'adx.plus > adx.minus', against: 'adx.plus < adx.minus' },
  { name: 'Place in range', for: 'stochastic.slow < 18', against: 'stochastic.slow > 82' },
  { name: 'Money flow', for: 'chaikin(20) > 0.06', against: 'chaikin(20) < -0.06' },
]

const SIDES = ['for', 'against'] as const

/** Rules of each voice, for and against; undefined where one of them cannot be read. */
function treesOf(voters: readonly Voter[]): [Node, Node][] | undefined {
  const out: [Node, Node][] = []
  for (const voter of voters) {
    const [pro, con] = SIDES.map((side) => parse(voter[side]).tree)
    if (!pro || !con) return undefined
    out.push([spanless(pro), spanless(con)])
  }
  return out.length > 0 ? out : undefined
}

const count = (parts: Node[]): Node => ({ kind: 'fan', each: 'count', parts })
const less = (left: Node, right: Node): Node => ({ kind: 'arith', op: '-', left, right })

/** What one voice says as a measure: 1 for, -1 against, 0 where it abstains, unknown where one of its rules is. */
export function voiceTree(voter: Voter): Node | undefined {
  const [trees] = treesOf([voter]) ?? []
  return trees && less(count([trees[0]]), count([trees[1]]))
}

/** The sum of a ballot as a measure: voices for less those against; one that is unknown is neither. */
export function ballotTree(voters: readonly Voter[]): Node | undefined {
  const trees = treesOf(voters)
  if (!trees) return undefined
  // A voice speaks where one rule holds and the other is known to fail, as voteOf has it.
  const only = (one: Node, other: Node): Node => ({
    kind: 'call',
    name: 'certainly',
    args: [{ kind: 'logic', op: 'and', parts: [...partsOf(one), { kind: 'not', of: other }] }],
  })
  return less(
    count(trees.map(([pro, con]) => only(pro, con))),
    count(trees.map(([pro, con]) => only(con, pro))),
  )
}

/** Parts of the same kind are one list in the tree, as in the text. */
const partsOf = (node: Node): Node[] => (node.kind === 'logic' && node.op === 'and' ? node.parts : [node])

export type Vote = 'for' | 'against' | 'abstains' | 'unknown'

/** What one voice says: it abstains where both of its rules hold or neither does, and is unknown where one is. */
export function voteOf(pro: 'holds' | 'fails' | 'unknown', con: 'holds' | 'fails' | 'unknown'): Vote {
  if (pro === 'unknown' || con === 'unknown') return 'unknown'
  if (pro === con) return 'abstains'
  return pro === 'holds' ? 'for' : 'against'
}

/** Shape and word of each vote: one shape means one thing, and nothing is said by colour. */
export const VOTE_MARKS: Record<Vote, string> = { for: '●', against: '○', abstains: '·', unknown: '◌' }
