import { type Command } from 'commander'
import { IANAZone } from 'luxon'
import { type Adjustment } from '../core/market/adjust'
import { EXIT, Failure } from './fail'

/** Options that several commands take, and how their values are read. */

export const collect = (value: string, before: string[]) => [...before, value]

export function zoneName(value: string): string {
  if (!IANAZone.isValidZone(value))
    throw new Failure(`"${value}" is not a time zone. Use an IANA name such as America/Halifax.`, EXIT.usage)
  return value
}

export function wholeNumber(value: string): number {
  if (/^\d+$/.test(value) && Number(value) > 0) return Number(value)
  throw new Failure(`"${value}" is not a whole number above nought.`, EXIT.usage)
}

export function yesOrNo(value: string): boolean {
  if (value === 'yes' || value === 'no') return value === 'yes'
  throw new Failure(`"${value}" is neither yes nor no.`, EXIT.usage)
}

export const number = (value: string): number => {
  if (Number(value) > 0) return Number(value)
  throw new Failure(`"${value}" is not a number above nought.`, EXIT.usage)
}

/** How prices are made comparable. */
export function adjustment(value: string): Adjustment {
  if (value === 'as-traded' || value === 'over-splits' || value === 'over-splits-and-dividends') return value
  throw new Failure(`"${value}" is none of as-traded, over-splits and over-splits-and-dividends.`, EXIT.usage)
}

export const ZONE = ['--zone <zone>', 'of files: zone of times that name none', zoneName, 'UTC'] as const

export const EVERY = [
  '--every <timeframe>',
  'how long a bar is, such as "1 week"; bars of files are made into longer ones',
] as const
export const AMONG = [
  '--among <symbols>',
  'only these: symbols between commas, or @file with a list',
] as const
export const COLUMNS = [
  '--columns <fields>',
  'of files: columns by name or number: date=Datum,close="Close/Last"',
] as const
export const INDEX = [
  '--index <symbol>',
  'of files: which security beside("index", x) means; the market knows its own',
] as const

/** Where the broker is and who asks: for commands that speak to it. */
export const withBroker = (command: Command): Command =>
  command
    .option('--broker <url>', 'where it is', process.env.HERON_BROKER_URL ?? 'http://127.0.0.1:4312')
    .option('--key-file <file>', 'key and secret as JSON', '.heron/broker/paper-key.json')
    .option('--live', 'the live stand-in instead of paper; needs a live key')
    .option('--world <world>', 'a rehearsal instead, such as rehearsals/march')
    .option('--account <account>', 'which account, where the key speaks for several')
