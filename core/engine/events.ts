import { type Ticked } from '../market/growing'
import { type ExecutionReport, type NewOrder, type OrderChange } from '../orders/model'
import { type Seen } from '../plans/seen'
import { type DayView } from '../plans/view'
import { type LiveBar } from '../rules/exec/liveBar'

/** What an engine is told, in the order of moments; of one moment reports before bars, bars before quotes. */
export type PlanEvent =
  /** A bar of a timeframe is complete; `at` is its end. */
  | { is: 'bar'; at: number; symbol: string; every: string; bar: LiveBar }
  | ({ is: 'quote'; symbol: string; bid: number; ask: number } & Ticked)
  | { is: 'report'; at: number; report: ExecutionReport }
  /** Time passes; nothing else happened. */
  | { is: 'time'; at: number }
  /** The securities that a side looks at from now on. */
  | { is: 'universe'; at: number; side: number; symbols: readonly string[] }
  /** Something happened to a security; `key` tells it from others. */
  | { is: 'dated'; at: number; key: string; symbol: string; text?: string }
  /** Points for a line of a score card. */
  | { is: 'points'; at: number; key: string; line: string; points: number; reason?: string; until?: number }
  /** The trader's answer to an order that waits for it. */
  | { is: 'answer'; at: number; clOrdId: string; yes: boolean }
  /** What the trader thinks of the day. */
  | { is: 'view'; at: number; view: DayView }
  /** What the seen book held before. */
  | { is: 'seen'; at: number; book: Readonly<Record<string, Seen>> }
  /** The broker has refused an order; no report of it will come. */
  | { is: 'refused'; at: number; clOrdId: string; text?: string }
  /** A hand: conditions that hold already count as beginning now. */
  | { is: 'act now'; at: number; since: number; side?: number; symbols?: readonly string[] }
  /** Of all that a side looks at, or of those that it looks at newly. */
  | { is: 'go on'; at: number; since: number; symbols?: readonly string[] }

/** Something that a plan wants of the broker. */
export type Intent = { planId: string; version: number; at: number } & Want
export type Want =
  | ({ is: 'send'; role: 'entry' | 'out'; order: NewOrder } & Paired)
  /** Asks the trader, who has until then to answer. */
  | { is: 'ask'; order: NewOrder; mate?: NewOrder; until: number }
  /** Takes a resting order back. */
  | { is: 'cancel'; symbol: string; clOrdId: string }
  /** Moves a resting entry, or a stop that the broker holds. */
  | { is: 'replace'; symbol: string; clOrdId: string; change: OrderChange }

/** How one leg of a pair is tied to the other: neither is sent unless the broker would take both. */
export interface Paired {
  /** Of the first leg: the second, which is checked together with it. */
  mate?: NewOrder
  /** Of the second leg: client order id of the first. */
  mateOf?: string
}
