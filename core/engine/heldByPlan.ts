import { type ExecutionReport } from '../orders/model'
import { type Plan } from '../plans/document'
import { takeReport } from './reports'
import { type Shared } from './shared'
import { type Prepared } from './prepare'
import { freshState } from './state'

/** What a plan holds by the broker's reports, oldest first; whether it runs or not, and wherever it does. */
export function heldByPlan(planId: string, reports: readonly ExecutionReport[], shared: Shared): string[] {
  // Whose an order is it says itself: nothing else of the plan need be known.
  const plan = { id: planId, version: 1, sides: [] as Plan['sides'] } as Plan
  const prepared: Prepared = {
    ...{ plan, sides: [], followers: new Map(), venues: new Set(), sameUntil: 0 },
    listed: shared.listed,
  }
  const state = freshState(plan)
  for (const report of reports) takeReport(prepared, state, shared, report)
  return Object.keys(state.held).filter((symbol) => state.held[symbol].quantity !== 0)
}
