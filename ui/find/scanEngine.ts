import { type Breadth } from '@/core/scan/breadth'
import { type ScanResult } from '@/core/scan/scan'
import { type Part } from '@/core/rules'
import { type ScanFrame } from '@/store/db'
import { ownBars } from '@/store/own'
import { ScanClient } from '@/workers/scanClient'
import { type Broker } from '../link/broker'

/** What a scan runs on: bars of the market, or a set of the trader's own. */
export type Source =
  { is: 'market'; frame: ScanFrame; version: string } | { is: 'own'; dataId: string; version: string }

const client = new ScanClient()
/** Data sets that the worker holds, by name, with the version that it has. */
const loaded = new Map<string, string>()

const nameOf = (source: Source): string => (source.is === 'own' ? `own ${source.dataId}` : source.frame)

/** Sees to it that the worker has the data; bars that still grow are fetched anew each time. */
async function ensure(broker: Broker, source: Source): Promise<void> {
  const name = nameOf(source)
  const fixed = source.is === 'own' || source.frame !== '1 day so far'
  if (fixed && loaded.get(name) === source.version) return
  if (source.is === 'own') {
    await client.loadOwn(name, await ownBars(source.dataId))
  } else {
    const soFar = source.frame === '1 day so far'
    const limit = source.frame === '15 min' ? 260 : undefined
    await client.load(name, await broker.bars(soFar ? '1 day' : source.frame, { soFar, limit }))
    // Rules on quarter hours may look at days: on(1 day, …).
    if (source.frame === '15 min') await ensure(broker, { ...source, frame: '1 day' })
  }
  loaded.set(name, source.version)
}

const beside = (source: Source) => (source.is === 'market' && source.frame === '15 min' ? '1 day' : undefined)

export async function runScan(
  broker: Broker,
  source: Source,
  about: { rule: string; measures: string[]; among?: string[] },
  progress: (done: number, of: number) => void,
): Promise<ScanResult> {
  await ensure(broker, source)
  return client.scan({ data: nameOf(source), beside: beside(source), ...about }, progress)
}

export async function explainOne(
  broker: Broker,
  source: Source,
  rule: string,
  symbol: string,
): Promise<Part | undefined> {
  await ensure(broker, source)
  return client.explain({ data: nameOf(source), beside: beside(source), rule, symbol })
}

/** How everything that is listed, or all of a set of own data, moved together. */
export async function breadthOf(broker: Broker, source: Source, among?: string[]): Promise<Breadth> {
  await ensure(broker, source)
  return client.breadth(nameOf(source), among)
}

/** Stops the scan that runs. */
export function cancelScan(): void {
  loaded.clear()
  client.end(new Error('canceled'))
}
