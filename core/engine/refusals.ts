import { clockOf } from './clock'
import { type Prepared } from './prepare'
import { type PlanState } from './state'

/** Remembers for the session that the broker refused a leg of a pair; of single securities the next signal may try again. */
export function noteRefusal(
  { sides, listed }: Prepared,
  state: PlanState,
  symbol: string,
  at: number,
  text: string,
): void {
  if (!sides.some(({ mates }) => mates.has(symbol))) return
  const { date } = clockOf(listed[symbol].venue).at(at)
  state.refusals = { ...state.refusals, [symbol]: { date, text } }
}

/** Why the broker refused a security earlier in the session; undefined if it did not. */
export function refusalOf(
  { listed }: Prepared,
  { refusals }: PlanState,
  symbol: string,
  at: number,
): string | undefined {
  const known = refusals?.[symbol]
  return known?.date === clockOf(listed[symbol].venue).at(at).date ? known.text : undefined
}
