import { type Scored } from '../plans/score'
import { HOLDS, UNKNOWN } from '../rules'
import { type Prepared, valueOf } from './prepare'
import { type PlanState } from './state'

/** What each line of a side's score card has come to for a candidate. */
export function scoredOf(
  { prepared, state, at }: { prepared: Prepared; state: PlanState; at: number },
  side: number,
  symbol: string,
  key: string,
): Scored[] {
  const { score } = prepared.sides[side].side
  return (score?.lines ?? []).map(({ name, points, from }) => {
    if (typeof from === 'object') {
      const verdict = valueOf(prepared, side, symbol, from.rule)
      return {
        name,
        points: !(verdict === verdict) || verdict === UNKNOWN ? undefined : verdict === HOLDS ? points : 0,
      }
    }
    const brought = state.points[key]?.[name]
    const valid = brought && (brought.until === undefined || at <= brought.until)
    return { name, points: valid ? brought.points : undefined, reason: valid ? brought.reason : undefined }
  })
}
