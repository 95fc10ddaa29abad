import { type Amount } from './checks'

/** Why a check holds, fails or cannot tell, with what its words need. */
export type Why =
  | { code: 'client-order-id'; why: 'new' | 'taken'; clOrdId: string }
  | {
      code: 'security'
      why: 'listed'
      symbol: string
      name: string
      venue: string
      traded: string
      rate: number
    }
  | { code: 'security'; why: 'unlisted'; symbol: string; near: readonly string[] }
  | { code: 'orderable'; why: 'index'; symbol: string }
  | { code: 'quantity'; why: 'whole lots' | 'not whole' | 'off the lot'; use: number }
  | { code: 'quantity'; why: 'too little money'; lot: number }
  | { code: 'trigger'; why: 'works' | 'unknown' | 'over'; clOrdId: string }
  | { code: 'locate'; why: 'easy' | 'located' | 'not to be had'; symbol: string }
  | { code: 'tick'; why: 'on the tick'; prices: readonly number[]; net?: true }
  | { code: 'tick'; why: 'off the tick'; field: string; down: number; up: number }
  | { code: 'price'; why: 'far through'; side: 'bid' | 'ask' | 'stop'; percent: number }
  | { code: 'price'; why: 'brings a credit' | 'gives away' | 'hardly trades'; mid: number; natural: number }
  | { code: 'market-open'; why: 'open' | 'halted' | 'rests' | 'closed'; venue: string; opens: string }
  | { code: 'expiry'; why: 'ends' | 'past'; date: string }
  | { code: 'legs'; why: 'one underlying'; symbol: string; count: number }
  | { code: 'legs'; why: 'other underlying'; symbol: string; leg: string }
  | { code: 'legs'; why: 'odd shares'; symbol: string; ratio: number }
  | { code: 'legs'; why: 'no auction'; symbol: string }
  | { code: 'option-level'; why: 'allowed'; level: number; allowed: number }
  | { code: 'option-level'; why: 'not allowed'; level: number; allowed: number; symbol: string }
  | { code: 'exit-side'; why: 'no exits' }
  | { code: 'exit-side'; why: 'no price' }
  | { code: 'exit-side'; why: 'right side'; roles: readonly ('Stop' | 'Target')[] }
  | { code: 'exit-side'; why: 'wrong side'; role: 'Stop' | 'Target'; side: 'above' | 'below' }
  | { code: 'shares-held'; why: SharesWhy; symbol: string; held: number; promised: number }
  | { code: 'gate'; why: 'passes' | 'stops' | 'asks first'; gate: string; rule: string; sentence: string }
  | { code: 'standing-down'; why: 'closes' | 'account' | 'security'; symbol: string }
  | { code: 'buying-power'; why: 'no price' }
  | { code: 'buying-power'; why: 'closes' }
  | { code: 'buying-power'; why: 'brings' }
  | { code: 'buying-power'; why: 'enough cash' }
  | { code: 'buying-power'; why: 'not enough cash' }
  | { code: 'buying-power'; why: 'enough' }
  | { code: 'buying-power'; why: 'not enough'; most: number }

export type SharesWhy =
  | 'free to sell'
  | 'promised to sales'
  | 'too few held'
  | 'none long'
  | 'sells nothing short'
  | 'no such lot'
  | 'crossed by purchases'
  | 'held long'
  | 'needs none'
  | 'crossed by short sales'
  | 'promised to purchases'
  | 'crosses to long'
  | 'closes with exits'
  | 'nothing to close'
  | 'closes'

/** One check of an order: a code, what came of it, what the order has (`value`), and what it may have (`limit`). */
export type Finding = Why & {
  verdict: 'holds' | 'fails' | 'unknown'
  value?: Amount
  limit?: Amount
}

export const shares = (amount: number): Amount => ({ amount, unit: 'shares' })
export const money = (amount: number, currency: string): Amount => ({ amount, unit: 'money', currency })
export const price = (amount: number, currency: string): Amount => ({ amount, unit: 'price', currency })

/** Makes a finding of what was just said, in place: thousands of rows are checked in a breath. */
function found(why: Why, verdict: Finding['verdict'], value?: Amount, limit?: Amount): Finding {
  const finding = why as Finding
  finding.verdict = verdict
  finding.value = value
  finding.limit = limit
  return finding
}
export const holds = (why: Why, value?: Amount, limit?: Amount): Finding => found(why, 'holds', value, limit)
export const fails = (why: Why, value?: Amount, limit?: Amount): Finding => found(why, 'fails', value, limit)
export const unknown = (why: Why, value?: Amount, limit?: Amount): Finding =>
  found(why, 'unknown', value, limit)

/** The first finding that fails, by which an order is refused. */
export const refusal = (findings: readonly Finding[]): Finding | undefined =>
  findings.find((finding) => finding.verdict === 'fails')
