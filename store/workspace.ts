import * as z from 'zod'
import { FileFailure } from '@/core/formats/problems'
import { parseTimeframe, timeframeText } from '@/core/market/timeframe'
import { type Bars } from '@/core/market/bars'
import { Plan } from '@/core/plans/document'
import { Seen } from '@/core/plans/seen'
import { BEGUN } from './plans'
import { db, type OwnBars, versionOf } from './db'
import {
  Ballot,
  LookLayout,
  OwnData,
  OwnReports,
  SavedScan,
  ScanRun,
  ScanVersion,
  Setting,
  SymbolList,
} from './shapes'

/** The file form of a workspace. Keys are named in it, their secrets never. */
const FORM = 'fleet-heron-workspace'

const COLUMNS = ['time', 'end', 'open', 'high', 'low', 'close', 'volume'] as const
/** Columns that only some files have. */
const MORE = ['uptrades', 'downtrades', 'optionvolume'] as const

const Workspace = z.object({
  form: z.literal(FORM),
  version: z.literal(1),
  savedAt: z.string(),
  scans: z.array(SavedScan),
  /** Files of older builds have none: their scans are the first versions. */
  scanVersions: z.array(ScanVersion).default([]),
  runs: z.array(ScanRun),
  ownData: z.array(OwnData),
  lists: z.array(SymbolList).default([]),
  layouts: z.array(LookLayout).default([]),
  ballots: z.array(Ballot).default([]),
  ownReports: z.array(OwnReports).default([]),
  ownBars: z.array(
    z.object({
      dataId: z.string(),
      symbol: z.string(),
      every: z.string(),
      zone: z.string(),
      columns: z.object({
        ...(Object.fromEntries(COLUMNS.map((name) => [name, z.string()])) as Record<
          (typeof COLUMNS)[number],
          z.ZodString
        >),
        ...(Object.fromEntries(MORE.map((name) => [name, z.string().optional()])) as Record<
          (typeof MORE)[number],
          z.ZodOptional<z.ZodString>
        >),
      }),
    }),
  ),
  keys: z.array(z.object({ keyId: z.string(), name: z.string() })),
  settings: z.array(Setting),
  plans: z.array(z.object({ id: z.string(), plan: Plan, changedAt: z.number() })).default([]),
  planVersions: z
    .array(z.object({ id: z.string(), version: z.int(), plan: Plan, madeAt: z.number() }))
    .default([]),
  seen: z.array(Seen.extend({ plan: z.string(), key: z.string(), world: z.string().optional() })).default([]),
})
type Workspace = z.infer<typeof Workspace>

/** Bytes of a column as base64; little-endian, as every browser's machine is. */
function pack(column: Float64Array): string {
  const bytes = new Uint8Array(column.buffer, column.byteOffset, column.byteLength)
  let text = ''
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
  return btoa(text)
}

/** A column of its text; undefined where that is no base64, or is cut off. */
function unpack(text: string): Float64Array | undefined {
  try {
    const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0))
    return bytes.length % 8 === 0 ? new Float64Array(bytes.buffer) : undefined
  } catch {
    return undefined
  }
}

/** The whole workspace as the text of one file. */
export async function exportWorkspace(): Promise<string> {
  const [scanVersions, lists, layouts, ballots, ownReports] = await Promise.all([
    db.scanVersions.toArray(),
    db.lists.toArray(),
    db.layouts.toArray(),
    db.ballots.toArray(),
    db.ownReports.toArray(),
  ])
  const [scans, runs, ownData, bars, keys, settings] = await Promise.all([
    db.scans.toArray(),
    db.runs.toArray(),
    db.ownData.toArray(),
    db.ownBars.toArray(),
    db.keys.toArray(),
    db.settings.toArray(),
  ])
  const [plans, planVersions, seen] = await Promise.all([
    db.plans.toArray(),
    db.planVersions.toArray(),
    db.seen.toArray(),
  ])
  const ownBars = bars.map(({ dataId, symbol, bars: b }) => ({
    dataId,
    symbol,
    every: timeframeText(b.every),
    zone: b.zone,
    columns: Object.fromEntries(
      [...COLUMNS, ...MORE].flatMap((name) => (b[name] ? [[name, pack(b[name])]] : [])),
    ) as Workspace['ownBars'][number]['columns'],
  }))
  const workspace: Workspace = {
    form: FORM,
    version: 1,
    savedAt: new Date().toISOString(),
    scans,
    scanVersions,
    runs,
    ownData,
    lists,
    layouts,
    ballots,
    ownReports,
    ownBars,
    keys: keys.map(({ keyId, name }) => ({ keyId, name })),
    // What runs in a tab of this browser is nothing that another could go on with.
    settings: settings.filter(({ name }) => !name.startsWith(BEGUN)),
    plans,
    planVersions,
    seen,
  }
  return JSON.stringify(workspace)
}

/**
 * Brings a workspace back: what has the same id is replaced, everything else stays. All of it or nothing.
 * Throws FileFailure with the place and the mend where the file is not one. Says what was brought.
 */
export async function importWorkspace(
  text: string,
): Promise<{ scans: number; runs: number; sets: number; securities: number }> {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw new FileFailure({ code: 'not_json' })
  }
  const read = Workspace.safeParse(json)
  if (!read.success) {
    const issue = read.error.issues[0]
    throw new FileFailure({ code: 'not_workspace', place: issue.path.join('.'), reason: issue.message })
  }
  const { scans, runs, ownData, ownBars, keys, settings } = read.data
  const { scanVersions, lists, layouts, ballots, ownReports, plans, planVersions, seen } = read.data
  const bars = ownBars.map((row): OwnBars => ({ dataId: row.dataId, symbol: row.symbol, bars: toBars(row) }))
  const tables = [db.scans, db.scanVersions, db.runs, db.ownData, db.ownBars, db.keys, db.settings]
  const more = [db.lists, db.layouts, db.ballots, db.ownReports, db.plans, db.planVersions, db.seen]
  await db.transaction('rw', [...tables, ...more], async () => {
    await db.lists.bulkPut(lists)
    await db.layouts.bulkPut(layouts)
    await db.ballots.bulkPut(ballots)
    await db.ownReports.bulkPut(ownReports)
    await db.scans.bulkPut(scans)
    await db.scanVersions.bulkPut([...scanVersions, ...scans.map(versionOf)])
    await db.runs.bulkPut(runs)
    for (const data of ownData) await db.ownBars.where('dataId').equals(data.id).delete()
    await db.ownData.bulkPut(ownData)
    await db.ownBars.bulkPut(bars)
    for (const key of keys) if (!(await db.keys.get(key.keyId))) await db.keys.put(key)
    await db.settings.bulkPut(settings)
    await db.plans.bulkPut(plans)
    await db.planVersions.bulkPut(planVersions)
    await db.seen.bulkPut(seen)
  })
  return { scans: scans.length, runs: runs.length, sets: ownData.length, securities: bars.length }
}

function toBars(row: Workspace['ownBars'][number]): Bars {
  const every = parseTimeframe(row.every)
  if (!every) throw damaged(row.symbol, `"${row.every}" is not a timeframe`)
  const length = unpack(row.columns.time)?.length
  const columnOf = (name: (typeof COLUMNS)[number] | (typeof MORE)[number]): Float64Array => {
    const values = unpack(row.columns[name]!)
    if (!values) throw damaged(row.symbol, `the column ${name} is damaged`)
    if (values.length !== length) throw damaged(row.symbol, 'its columns differ in length')
    return values
  }
  const columns = COLUMNS.map(columnOf)
  const [time, end, open, high, low, close, volume] = columns
  const bars: Bars = { every, zone: row.zone, time, end, open, high, low, close, volume }
  for (const name of MORE) if (row.columns[name] !== undefined) bars[name] = columnOf(name)
  return bars
}

const damaged = (symbol: string, reason: string): FileFailure =>
  new FileFailure({ code: 'not_workspace', place: `the bars of ${symbol}`, reason })
