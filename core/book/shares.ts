import { type Working } from './working'

/** Shares of a security that working orders would trade already. */
export interface Promised {
  /** That sales of what is held would close, exits among them; a stop and target pair counts once. */
  sold: number
  /** That purchases would buy; exits of a short position rest beside what is bought by hand, each fill shrinks them. */
  bought: number
  /** That would be sold short. */
  short: number
}

const known = new WeakMap<readonly Working[], Promised>()

/** What the working orders of a security promise, kept with their list. */
export function promisedIn(working: readonly Working[]): Promised {
  let promised = known.get(working)
  if (!promised) known.set(working, (promised = add(working)))
  return promised
}

function add(working: readonly Working[]): Promised {
  const pairs = new Map<string, number>()
  let [bought, short] = [0, 0]
  for (const { side, role, pending, group, leavesQty } of working) {
    if (side === 'SellShort') short += leavesQty
    else if (side === 'Buy') bought += role === 'Entry' ? leavesQty : 0
    else if (!pending) pairs.set(group, Math.max(pairs.get(group) ?? 0, leavesQty))
  }
  let sold = 0
  for (const quantity of pairs.values()) sold += quantity
  return { sold, bought, short }
}
