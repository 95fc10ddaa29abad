import { type PlanState } from './state'

/** How what the trader was told stands in the seen book. */
export const TOLD = 'told '

/**
 * When a plan last sent an order that opens, or told the trader, epoch milliseconds of the market; undefined where it has done neither.
 * Known again from the broker's reports and the seen book by a plan that goes on.
 */
export function firedAt({ orders, seen }: PlanState): number | undefined {
  const entered = Object.values(orders).flatMap(({ role, sentAt, refused }) =>
    role === 'entry' && sentAt !== undefined && !refused ? [sentAt] : [],
  )
  const told = Object.entries(seen).flatMap(([key, { at }]) => (key.startsWith(TOLD) ? [at] : []))
  const all = [...entered, ...told]
  return all.length === 0 ? undefined : all.reduce((a, b) => Math.max(a, b))
}
