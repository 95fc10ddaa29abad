import { type CandidateName } from '../market/candidate'
import { type Amount } from '../orders/checks'
import { type Finding } from '../orders/findings'
import { type Leg } from '../orders/legs'
import { type ByHand } from '../plans/document'
import { type Scored } from '../plans/score'
import { type Became } from '../plans/seen'
import { type View } from '../plans/view'
import { type SessionTime } from '../plans/times'

/** Why a clause of a plan holds, fails or cannot tell; its words are in say.ts. */
export type ClauseWhy =
  | { clause: 'When'; why: 'closed' }
  | { clause: 'When'; why: 'weekday' }
  | { clause: 'When'; why: 'month day' }
  /** An order for the opening auction is sent while the venue is closed. */
  | { clause: 'When'; why: 'open' }
  | { clause: 'When'; why: 'before the open' }
  /** An event that is judged later: at the first moment at which the plan may enter. */
  | {
      clause: 'When'
      why: 'kept'
      because:
        | 'closed'
        | 'weekday'
        | 'month day'
        | 'too early'
        | 'too late'
        | 'open'
        | 'its time'
        | 'not quoted'
      at?: SessionTime
    }
  /** It began with a bar that ended with its session. */
  | { clause: 'When'; why: 'next session' }
  | { clause: 'When'; why: 'too early' | 'in time' | 'too late'; from?: SessionTime; until?: SessionTime }
  | { clause: 'Among'; why: 'listed' | 'not listed' | 'unknown'; symbol: string }
  /** `sentence`: what its parts came to, where it was looked into. */
  | { clause: 'If'; why: 'condition'; rule: string; sentence?: string }
  /** More of what is held is asked for: the price has gone so far from the last fill. */
  | { clause: 'If'; why: 'distance'; last: number; from: number }
  /** Figures of the order that are known; in words where it is told. */
  | { clause: 'Provided'; why: 'gate'; name: string; rule: string; figures: Figures; currency: string }
  | { clause: 'Provided'; why: 'no order'; name: string }
  | { clause: 'Provided'; why: 'score'; sum: number; least: number; lines: readonly Scored[] }
  | { clause: 'Provided'; why: 'view'; wanted: View; view?: View }
  | { clause: 'Provided'; why: 'seen before'; became: Became; at: number }
  | {
      clause: 'Do'
      why: 'order'
      quantity: number
      entry: number
      /** More was wanted than a limit left room for. */
      wanted?: Wanted
      mate?: { symbol: string; side: string; quantity: number }
    }
  /** Of several legs: their net price. */
  | { clause: 'Do'; why: 'whole'; quantity: number; net: number; legs: readonly Leg[]; wanted?: Wanted }
  | { clause: 'Do'; why: 'no contract' | 'no quote'; contract: string }
  | { clause: 'Do'; why: 'too much kept'; each: number; most: number }
  | { clause: 'Do'; why: 'no order'; sentence: string }
  /** Nothing is ordered: the trader is told. */
  | { clause: 'Do'; why: 'tell' }
  | { clause: 'Do'; why: 'held already'; held: number }
  | { clause: 'Do'; why: 'enough added'; most: number }
  | { clause: 'Do'; why: 'added just now'; minutes: number }
  | { clause: 'Do'; why: 'works already' }
  | { clause: 'Do'; why: 'by hand'; at: number; text?: string }
  | { clause: 'Do'; why: 'enough at a time'; most: number }
  | { clause: 'Do'; why: 'nothing held' }
  | { clause: 'Do'; why: 'no mate'; mate: string; ratio: number }
  | { clause: 'Do'; why: 'price unknown'; measure: string }
  /** `mate`: the other leg of the pair, where it is that one that the broker would refuse beside the first. */
  | { clause: 'Do'; why: 'refused'; finding: Finding; mate?: string }
  /** Of a pair: the broker has refused one of its legs in this session; `mate` where it was the other. */
  | { clause: 'Do'; why: 'refused today'; text: string; mate?: string }
  | { clause: 'Then'; why: 'exits'; stop?: number; target?: number }
  | { clause: 'Then'; why: 'none' }
  /** Of several legs: the net prices at which they are closed, as orders tell them. */
  | { clause: 'Then'; why: 'net'; gain?: number; loss?: number }
  | {
      clause: 'Then'
      why: 'level'
      wrong: 'unknown' | 'wrong side'
      role: 'stop' | 'target'
      measure: string
    }
  | { clause: 'Never'; why: Guardrail }
  | { clause: 'Never'; why: 'hours'; from?: SessionTime; until?: SessionTime }

/** What is known of the order that gates ask about; what is left out is not known, or beyond any number. */
export type Figures = Partial<Record<CandidateName, number>>

/** How much was wanted, and the limit that left room for less. */
export interface Wanted {
  quantity: number
  by: Guardrail
}

export type Guardrail =
  | 'entries of the security today'
  | 'entries of the plan today'
  | 'entries of the plan in all'
  | 'exposure in the security'
  | 'exposure of the plan'
  | 'share of the plan'
  | 'most of the position'
  | 'realised loss today'
  | 'loss today, open loss counted'
  | 'buying power left'
  | 'size of one order'
  | 'price away from the last'
  | 'age of the quote'
  | 'bars missing'
  | 'own bars missing'

/** A figure of a clause with its unit. */
export type Measured = Amount | { amount: number; unit: 'count' | 'seconds' | 'percent' }

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
  /** Looks since the trace before, this one included; all but this one came to the same as that. */
  looks?: number
  /** Key of the event that it is about. */
  event?: string
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
  findings.find(({ verdict }) => verdict === 'fails') ??
  // Why there is no order says more than that nothing can be asked of it.
  findings.find(({ verdict, why }) => verdict === 'unknown' && why !== 'no order') ??
  findings.find(({ verdict }) => verdict === 'unknown')

/** Something that a plan has to say besides its verdicts. */
export type Note = { symbol: string } & (Told | LetGo | Answered | Handled | PointsRefused)

/** The trader is told that the condition has begun, at a price. */
interface Told {
  why: 'told'
  at: number
  last: number
}

/** Points that were brought and are not taken; `symbol` is the key of the candidate. */
interface PointsRefused {
  why: 'points refused'
  text: string
}

/** What a hand did to what a plan holds, or to an order of it. */
export type HandDid = 'less held' | 'more held' | 'order moved' | 'order canceled'

interface Handled {
  why: 'by hand'
  did: HandDid
  does: ByHand
  /** Shares that the plan holds and that no stop covers. */
  withoutStop?: number
}

/** The trader was asked about an order: the answer, or that none came in time. */
interface Answered {
  why: 'approved' | 'declined' | 'not answered'
  clOrdId: string
}

interface LetGo {
  /** Less is held than the plan had: somebody else closed it, and it lets go of that. */
  why: 'let go'
  before: number
  left: number
  /** Name of the plan that closed it; undefined where it was a hand, a script or an exit. */
  by?: string
  /** What the plan does then, where it was a hand. */
  does?: ByHand
}
