import { type ExecutionReport, type NewOrder } from '../orders/model'
import { type LiveBar } from '../rules/exec/liveBar'

/** What an engine is told, in the order of moments; of one moment reports before bars, bars before quotes. */
export type PlanEvent =
  /** A bar of a timeframe is complete; `at` is its end. */
  | { is: 'bar'; at: number; symbol: string; every: string; bar: LiveBar }
  | { is: 'quote'; at: number; symbol: string; bid: number; ask: number; last: number }
  | { is: 'report'; at: number; report: ExecutionReport }
  /** Time passes; nothing else happened. */
  | { is: 'time'; at: number }

/** An order that a plan wants to send. */
export interface Intent {
  planId: string
  version: number
  at: number
  role: 'entry' | 'out'
  order: NewOrder
}
