import { type Broker } from '@/client'
import { type Listed } from '@/core/engine/listed'
import { type Side } from '@/core/plans/document'
import { readingsOf, treesIn } from '@/core/plans/texts'
import { readsOf } from '@/core/rules'

/** Whether rule text of some sides asks what companies have reported. */
export const asksForFigures = (sides: readonly Side[]): boolean =>
  sides.flatMap(readingsOf).some((one) => readsOf(treesIn(one).trees, one.every).sources.has('figures'))

/** Brings what companies have reported by now to what is listed; who follows a security already sees what came anew. */
export async function learnFigures(broker: Broker, listed: Readonly<Record<string, Listed>>): Promise<void> {
  const told = await broker.reports()
  for (const [symbol, one] of Object.entries(listed)) {
    const known = (one.reports ??= [])
    known.splice(0, known.length, ...(told[symbol] ?? []))
  }
}
