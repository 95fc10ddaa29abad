import { decimal } from '@/core/market/money'
import { type LookedBack } from '@/core/engine/lookBack'

const one = (x: number): string => decimal(x, 1)
const count = (x: number): string => (x === 0 ? 'none' : String(x))

/** What became of the condition's past beginnings for one security, in sentences. */
export function Back({
  back,
  bars,
  nextSession,
}: {
  back: LookedBack
  bars: number
  /** Whether its bars end with the session, and it enters in the next. */
  nextSession: boolean
}) {
  const { began, target, stop, other, open, stopRanges, targetRanges, meanPercent } = back
  if (began === 0)
    return (
      <p className="soft">
        In its last {bars} bars it did not begin once{nextSession ? '' : ' within the times of When'}.
      </p>
    )
  const ways = [
    targetRanges !== undefined && `${count(target)} came to the target first`,
    stopRanges !== undefined && `${count(stop)} ${targetRanges === undefined ? 'came ' : ''}to the stop`,
    other > 0 && `${other} left by rule or time`,
    open > 0 && `${open} still open`,
  ].filter(Boolean)
  const far = [
    stopRanges !== undefined && `the stop lies ${one(stopRanges)}`,
    targetRanges !== undefined && `the target ${stopRanges === undefined ? 'lies ' : ''}${one(targetRanges)}`,
  ].filter(Boolean)
  return (
    <p
      style={{ fontSize: 12, margin: '6px 0' }}
      title={`As if entered at the ${nextSession ? 'open of the next session' : 'close of the bar'}; where a bar reaches both, the stop counts. Provided and Never are not asked, costs are not counted.`}
    >
      In its last {bars} bars it began {began === 1 ? 'once' : `${began} times`}
      {ways.length > 0 && `: ${ways.join(', ')}`}; on average {decimal(meanPercent, 2)} % each, before costs.
      {far.length > 0 &&
        ` ${far.join(', ').replace(/^t/, 'T')} average ${far.length === 1 && one(stopRanges ?? targetRanges!) === '1.0' ? 'range' : 'ranges'} away.`}
    </p>
  )
}
