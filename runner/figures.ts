import { type Broker } from '@/client'
import { type Listed } from '@/core/engine/listed'

/** Brings what companies have reported by now to what is listed; who follows a security already sees what came anew. */
export async function learnFigures(broker: Broker, listed: Readonly<Record<string, Listed>>): Promise<void> {
  const told = await broker.reports()
  for (const [symbol, one] of Object.entries(listed)) {
    const known = (one.reports ??= [])
    known.splice(0, known.length, ...(told[symbol] ?? []))
  }
}
