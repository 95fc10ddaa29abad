import { type Bars } from '@/core/market/bars'
import { whatFollowed } from '@/core/scan/hits'
import { Change } from '../shell/Change'

/** Bars after a hit at which the price is compared. */
export const AHEAD = 10

/** Fewer cases than this are said to be too few to trust. */
const ENOUGH = 20

/** How often a rule came true, and how the price stood some bars later, against all other bars. */
export function Followed({ bars, rows }: { bars: Bars; rows: readonly number[] }) {
  const { cases, after, always } = whatFollowed(bars, rows, AHEAD)
  return (
    <p style={{ margin: '6px 0' }}>
      {rows.length === 0 ? 'Never' : rows.length === 1 ? 'Once' : `${rows.length} times`} in{' '}
      {bars.time.length.toLocaleString('en-US')} bars.{' '}
      {cases > 0 && (
        <>
          {AHEAD} bars later: median <Change value={after} decimals={2} /> %, all bars{' '}
          <Change value={always} decimals={2} /> %.{' '}
        </>
      )}
      {rows.length > 0 && cases < ENOUGH && (
        <span className="soft">
          Too few to trust: {cases} case{cases === 1 ? '' : 's'}.
        </span>
      )}
    </p>
  )
}
