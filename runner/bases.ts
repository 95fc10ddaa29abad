import { type Broker } from '@/client'
import { localDate } from '@/core/market/venue'
import { toE4 } from '@/core/market/money'
import { type Side } from '@/core/plans/document'
import { type Shared } from '@/core/engine/shared'

/** Whether sizes are a part of another equity than that of now. */
export const asksForBases = (sides: readonly Side[]): boolean =>
  sides.some(
    ({ do: deed }) =>
      'open' in deed && 'of' in deed.size && (deed.size.of === 'DayStart' || deed.size.of === 'Start'),
  )

/** The equity with which an account was opened, and with which it began the day of a moment. */
export async function basesOf(
  broker: Broker,
  { home }: Pick<Shared, 'home'>,
  at: number,
): Promise<Required<Shared['bases']>> {
  const [days, [first], account] = await Promise.all([
    broker.history(),
    broker.statement(),
    broker.ownAccount(),
  ])
  const opening = first?.cash ?? account.cash
  const today = localDate(home, at)
  const before = days.findLast(({ date }) => date < today)
  return { startE4: toE4(opening), dayE4: toE4(before?.equity ?? opening) }
}
