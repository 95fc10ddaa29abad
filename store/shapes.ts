import * as z from 'zod'
import { Drawing } from '@/core/market/drawings'
import { Report } from '@/core/market/report'
import { Ballot } from '@/core/scan/ballot'
import { type Schedule as ScheduleShape } from '@/core/scan/schedule'

/** What the trader makes, as it lies in the browser's storage and in workspace files. */

/** How two sets of securities are put together. */
export const Joining = z.enum(['or', 'and', 'without'])
export type Joining = z.infer<typeof Joining>

/** Which securities a scan looks through. */
export type Universe =
  | { is: 'everything' }
  | { is: 'venue'; mic: string }
  | { is: 'kind'; kind: 'Stock' | 'Fund' }
  | { is: 'sector'; sector: string }
  | { is: 'country'; country: string }
  | { is: 'index'; index: string }
  | { is: 'own'; dataId: string }
  | { is: 'scan'; scanId: string }
  | { is: 'list'; listId: string }
  /** Sets joined: those of either, of both, or of the first without the second. */
  | { is: 'joined'; how: Joining; parts: [Universe, Universe] }

export const Universe: z.ZodType<Universe> = z.lazy(() =>
  z.discriminatedUnion('is', [
    z.object({ is: z.literal('everything') }),
    z.object({ is: z.literal('venue'), mic: z.string() }),
    z.object({ is: z.literal('kind'), kind: z.enum(['Stock', 'Fund']) }),
    z.object({ is: z.literal('sector'), sector: z.string() }),
    z.object({ is: z.literal('country'), country: z.string() }),
    z.object({ is: z.literal('index'), index: z.string() }),
    z.object({ is: z.literal('own'), dataId: z.string() }),
    z.object({ is: z.literal('scan'), scanId: z.string() }),
    z.object({ is: z.literal('list'), listId: z.string() }),
    z.object({ is: z.literal('joined'), how: Joining, parts: z.tuple([Universe, Universe]) }),
  ]),
)

/** Bars that a scan runs on: a timeframe, with " so far" after it where the bar still growing is among them. */
export const ScanFrame = z.string().regex(/^\d+ (min|hour|day|week|month)( so far)?$/)
export type ScanFrame = z.infer<typeof ScanFrame>

/** When a scan runs by itself, while the application is open. */
const venue = z.string().optional()
export const Schedule: z.ZodType<ScheduleShape> = z.discriminatedUnion('is', [
  z.object({ is: z.literal('every'), minutes: z.int().min(1).max(390), venue }),
  z.object({ is: z.literal('before open'), minutes: z.int().min(1).max(600), venue }),
  z.object({ is: z.literal('after open'), minutes: z.int().min(0).max(390), venue }),
  z.object({ is: z.literal('after close'), venue }),
])
export type Schedule = ScheduleShape

const asked = {
  rule: z.string(),
  measures: z.array(z.string()),
  universe: Universe,
  frame: ScanFrame,
  savedAt: z.number(),
  /** By which column its rows are ranked. */
  order: z.object({ by: z.string(), down: z.boolean() }).optional(),
}

/** Counts up whenever what is asked is saved anew; files and stores of older builds hold version 1. */
const version = z.int().min(1).default(1)

export const SavedScan = z.object({
  id: z.string(),
  name: z.string(),
  version,
  ...asked,
  tags: z.array(z.string()).optional(),
  schedule: Schedule.optional(),
})
export type SavedScan = z.infer<typeof SavedScan>

/** What a saved scan asked in one of its versions. */
export const ScanVersion = z.object({ id: z.string(), version, ...asked })
export type ScanVersion = z.infer<typeof ScanVersion>

/** One run of a saved scan, kept with the moment that its data stood at. */
export const ScanRun = z.object({
  id: z.string(),
  scanId: z.string(),
  scanVersion: version,
  name: z.string(),
  /** Wall clock, and the market's own time, where it was known. */
  ranAt: z.number(),
  marketTime: z.number().optional(),
  dataAsOf: z.number(),
  /** Zone and bars in which that moment is told; runs kept by older builds have none. */
  zone: z.string().optional(),
  frame: ScanFrame.optional(),
  symbols: z.array(z.string()),
})
export type ScanRun = z.infer<typeof ScanRun>

/** A set of the trader's own securities, imported from files. */
export const OwnData = z.object({
  id: z.string(),
  name: z.string(),
  importedAt: z.number(),
  every: z.string(),
  symbols: z.array(z.string()),
})
export type OwnData = z.infer<typeof OwnData>

/** Securities by hand or from a file, in the order that the trader gave them. */
export const SymbolList = z.object({
  id: z.string(),
  name: z.string(),
  symbols: z.array(z.string()),
  changedAt: z.number(),
})
export type SymbolList = z.infer<typeof SymbolList>

/** One panel of a chart and the measures drawn in it; the first holds the price. */
export const LookPanel = z.object({ id: z.string(), measures: z.array(z.string()) })
export type LookPanel = z.infer<typeof LookPanel>

/** What is drawn on the chart of a security, and how that chart is laid out. */
export const LookLayout = z.object({
  symbol: z.string(),
  drawings: z.array(Drawing),
  panels: z.array(LookPanel),
  /** Timeframes beside one another, the first large. */
  frames: z.array(z.string()),
  changedAt: z.number(),
})
export type LookLayout = z.infer<typeof LookLayout>

/** Company figures of the trader's own, from a file. */
export const OwnReports = z.object({
  symbol: z.string(),
  reports: z.array(Report),
})
export type OwnReports = z.infer<typeof OwnReports>

/** Bars of some securities of the market, as they came (form FHB1), kept between visits. */
export interface BarChunk {
  /** Frame and number of the chunk. */
  id: string
  frame: string
  symbols: string[]
  /** End of the last complete bar of each; NaN where there is none. */
  ends: number[]
  buffer: ArrayBuffer
  keptAt: number
  /** Date of the market on which it was brought up to date: a split may change all of it on the next. */
  day?: string
  /** The sessions of the venues, of which there is nothing more to come; of bars of a day and longer. */
  sessions?: string
}

export const Setting = z.object({ name: z.string(), value: z.unknown() })
export type Setting = z.infer<typeof Setting>

export { Ballot }
