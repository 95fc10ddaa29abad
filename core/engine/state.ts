import { parseTimeframe } from '../market/timeframe'
import { type Venue } from '../market/venue'
import { conditionOf } from '../plans/check'
import { type Plan } from '../plans/document'
import { compile } from '../rules'
import { type Graph } from '../rules/exec/graph'
import { type Snapshot, StepMachine } from '../rules/exec/steps'
import { type Listed } from './shared'

/** One security as a side of a plan follows it. */
export interface Watched {
  /** The answer of the condition at the last bar; see verdict.ts. */
  verdict: number
  /** The bar in which the condition began, once it has since the plan looks. */
  began?: { time: number; end: number }
  /** End of the last bar that was stepped. */
  lastEnd: number
  /** What the clauses last came to, so that a trace is written only when that changes. */
  told: string
}

/** An order that the plan sent, as the broker's reports tell of it. */
export interface OwnOrder {
  symbol: string
  role: 'entry' | 'out'
  /** The broker's id, once it is known; exits are attached to it. */
  orderId?: string
  works: boolean
}

/** What a plan keeps from event to event. Plain JSON, but for the machines (see saved). */
export interface PlanState {
  planId: string
  version: number
  /** Session date of the counts, by venue. */
  dates: Record<string, string>
  /** Entries of the day by security. */
  entries: Record<string, number>
  /** What the plan holds by security: shares, below 0 where short, and what they have cost, in e4. */
  held: Record<string, { quantity: number; costE4: number }>
  /** Profit that its trades have taken today, by security, in e4. */
  takenE4: Record<string, number>
  /** Side that is opened once what is held of a security is closed. */
  turning: Record<string, number>
  /** When its last trades ended, by security. */
  ended: Record<string, number[]>
  orders: Record<string, OwnOrder>
  /** Client order id by the broker's id, of what attached exits belong to. */
  byOrderId: Record<string, string>
  /** Number of the last report that was taken. */
  seq: number
  /** By side and security. */
  watched: Record<string, Watched>
}

/** A plan made ready to be stepped: its conditions compiled, their memory by side and security. */
export interface Prepared {
  plan: Plan
  graphs: readonly Graph[]
  machines: Map<string, StepMachine>
  /** Venues of its securities. */
  venues: readonly Venue[]
}

export const keyOf = (side: number, symbol: string): string => `${side} ${symbol}`

/** Makes a plan ready. Throws RangeError for one whose conditions do not check, or that names a security which is not listed. */
export function prepare(plan: Plan, listed: Readonly<Record<string, Listed>>): Prepared {
  const graphs = plan.sides.map((side) => compile([conditionOf(side)], parseTimeframe(side.if.every)!))
  const machines = new Map<string, StepMachine>()
  plan.sides.forEach((side, at) => {
    for (const symbol of side.among.list) {
      const one = listed[symbol]
      if (!one) throw new RangeError(`The broker lists no ${symbol}. Take it out of Among, or name another.`)
      const about = { zone: one.venue.zone, currency: one.security.currency }
      machines.set(keyOf(at, symbol), new StepMachine(graphs[at], about))
    }
  })
  const symbols = plan.sides.flatMap((side) => side.among.list)
  return { plan, graphs, machines, venues: [...new Set(symbols.map((symbol) => listed[symbol].venue))] }
}

/** A plan that has seen nothing yet. */
export const freshState = ({ id, version }: Plan): PlanState => ({
  ...{ planId: id, version, dates: {}, entries: {}, held: {}, takenE4: {}, ended: {}, turning: {} },
  ...{ orders: {}, byOrderId: {}, seq: 0, watched: {} },
})

/** What is kept of a plan between runs, for JSON. */
export interface Saved {
  state: PlanState
  machines: Record<string, Snapshot>
}

export const saved = (state: PlanState, { machines }: Prepared): Saved => ({
  state,
  machines: Object.fromEntries([...machines].map(([key, machine]) => [key, machine.save()])),
})

/**
 * Puts back what was kept. What another version of the plan remembers of its conditions is not taken over: their memory is
 * made anew from bars; counts, orders and what is held are the plan's, whatever its version.
 */
export function restored(prepared: Prepared, kept: Saved): PlanState {
  const state = { ...structuredClone(kept.state), version: prepared.plan.version }
  for (const [key, machine] of prepared.machines) {
    const memory = kept.machines[key]
    if (!memory || !machine.restore(memory)) delete state.watched[key]
  }
  return state
}
