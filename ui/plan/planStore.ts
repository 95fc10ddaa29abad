import { create } from 'zustand'
import { type Plan } from '@/core/plans/document'
import { freshPlanId, keepPlan } from '@/store/plans'

/** Which plan is read; the first where none was chosen. */
export const usePlanPage = create<{
  chosen?: string
  /** A plan that was begun for securities that meet its condition now: arming it offers to act at once. */
  atOnce?: string
}>(() => ({}))

/** Keeps a new plan under an id of its own, and turns to it. Throws where the browser has no room. */
export async function startPlan(from: Plan, atOnce = false): Promise<void> {
  const id = await freshPlanId(from.name)
  await keepPlan({ ...from, id, version: 1 })
  usePlanPage.setState({ chosen: id, ...(atOnce ? { atOnce: id } : {}) })
}
