import { type Snapshot } from '../rules/exec/steps'
import { type Prepared, tellHeld } from './prepare'
import { type PlanState } from './state'

/** What is kept of a plan between runs, for JSON. */
export interface Saved {
  state: PlanState
  machines: Record<string, Snapshot>
}

export const saved = (state: PlanState, { followers }: Prepared): Saved => ({
  state,
  machines: Object.fromEntries([...followers].map(([key, { memory }]) => [key, memory.save()])),
})

/**
 * Puts back what was kept. What another version of the plan remembers of its conditions is not taken over: their memory is
 * made anew from bars; counts, orders and what is held are the plan's, whatever its version.
 */
export function restored(prepared: Prepared, kept: Saved): PlanState {
  const state = { ...structuredClone(kept.state), version: prepared.plan.version }
  // What is held is followed also where it is looked for no more.
  for (const symbol of Object.keys(state.held)) tellHeld(prepared, state, symbol)
  for (const follower of prepared.followers.values()) {
    const memory = kept.machines[follower.key]
    if (!memory || !follower.memory.restore(memory)) delete state.watched[follower.key]
    follower.watched = state.watched[follower.key]
  }
  return state
}
