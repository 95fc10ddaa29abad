import { type Amount } from '../orders/checks'
import { type Finding } from '../orders/findings'
import { type SessionTime } from '../plans/document'

/** Why a clause of a plan holds, fails or cannot tell; its words are in say.ts. */
export type ClauseWhy =
  | { clause: 'When'; why: 'closed' }
  | { clause: 'When'; why: 'weekday' }
  | { clause: 'When'; why: 'too early' | 'in time' | 'too late'; from?: SessionTime; until?: SessionTime }
  | { clause: 'Among'; why: 'listed' | 'not listed'; symbol: string }
  | { clause: 'If'; why: 'condition'; rule: string }
  | { clause: 'Provided'; why: 'gate'; name: string; sentence: string }
  | { clause: 'Do'; why: 'order'; quantity: number; entry: number }
  | { clause: 'Do'; why: 'no order'; sentence: string }
  | { clause: 'Do'; why: 'held already'; held: number }
  | { clause: 'Do'; why: 'works already' }
  | { clause: 'Do'; why: 'refused'; finding: Finding }
  | { clause: 'Then'; why: 'exits'; stop?: number; target?: number }
  | { clause: 'Then'; why: 'none' }
  | { clause: 'Never'; why: Guardrail }

export type Guardrail =
  | 'entries of the security today'
  | 'entries of the plan today'
  | 'exposure in the security'
  | 'exposure of the plan'
  | 'loss today'
  | 'buying power left'
  | 'age of the quote'

/** A figure of a clause with its unit. */
export type Measured = Amount | { amount: number; unit: 'count' | 'seconds' }

/** What one clause came to, with its value and its limit where it has them. */
export type ClauseFinding = ClauseWhy & {
  verdict: 'holds' | 'fails' | 'unknown'
  value?: Measured
  limit?: Measured
}

/** The record of one evaluation of a plan for one security. */
export interface Trace {
  at: number
  planId: string
  version: number
  side: number
  symbol: string
  findings: readonly ClauseFinding[]
  /** Client order id of the order that came of it. */
  clOrdId?: string
}

/** What all clauses together come to: the first that fails, else the first that cannot tell, decides. */
export function togetherOf(findings: readonly ClauseFinding[]): ClauseFinding['verdict'] {
  if (findings.some(({ verdict }) => verdict === 'fails')) return 'fails'
  return findings.some(({ verdict }) => verdict === 'unknown') ? 'unknown' : 'holds'
}

/** The clause that decides: the first that fails, else the first that cannot tell. */
export const deciding = (findings: readonly ClauseFinding[]): ClauseFinding | undefined =>
  findings.find(({ verdict }) => verdict === 'fails') ?? findings.find(({ verdict }) => verdict === 'unknown')
