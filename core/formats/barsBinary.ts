import { EXTRAS, type ExtraName, QUOTED, SERIES } from '../market/bars'
import { type Allocate, type BarSet, type BarTable, calendarsOf, ownMemory, sizeOf } from '../market/barTable'
import { parseTimeframe, timeframeText } from '../market/timeframe'
import { FileFailure } from './problems'

/**
 * Bars of many securities in one compact message: the letters "FHB1", the length of a JSON header (32 bits,
 * little-endian), the header, then columns of 32-bit numbers. Times are minutes since 1970; prices are whole
 * numbers of 1/`priceScale` (−2^31 stands for unknown), volumes and counts whole numbers. Securities with the
 * same calendar share its columns.
 */
const MAGIC = 0x31424846
const UNKNOWN_PRICE = -2147483648
/** End of a bar that is not complete. */
const STILL_GROWING = 2147483647
const MINUTE = 60_000
const UNKNOWN_COUNT = 4294967295

interface Header {
  every: string
  asOf: string
  priceScale: number
  extras: ExtraName[]
  calendars: { zone: string; rows: number }[]
  securities: { symbol: string; calendar: number }[]
}

const isCount = (name: string): boolean => !['open', 'high', 'low', 'close', ...QUOTED].includes(name)

/** Writes bars of one timeframe. Throws FileFailure for a price of 214,748 or more. */
export function encodeBars(set: BarSet, asOf: string): Uint8Array {
  const steps = encodeSteps(set, asOf)
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}

/** The same in steps of one security each, for those who have to answer others between. */
export function* encodeSteps(set: BarSet, asOf: string): Generator<void, Uint8Array> {
  const { calendars, calendarOf } = calendarsOf(set.bars)
  const header: Header = {
    every: set.bars[0] ? timeframeText(set.bars[0].every) : '1 day',
    asOf,
    priceScale: 10_000,
    extras: EXTRAS.filter((name) => set.bars.some((bars) => bars[name])),
    calendars: calendars.map(({ zone, time }) => ({ zone, rows: time.length })),
    securities: set.symbols.map((symbol, i) => ({ symbol, calendar: calendarOf[i] })),
  }
  const text = new TextEncoder().encode(JSON.stringify(header))
  const start = Math.ceil((8 + text.length) / 4) * 4
  const words = sizeOf({ ...header, calendarOf })
  const out = new Uint8Array(start + 4 * words)
  const view = new DataView(out.buffer)
  view.setUint32(0, MAGIC, true)
  view.setUint32(4, text.length, true)
  out.set(text, 8)
  const signed = new Int32Array(out.buffer, start)
  const unsigned = new Uint32Array(out.buffer, start)
  let at = 0
  for (const { time, end } of calendars)
    for (const column of [time, end])
      for (let i = 0; i < column.length; i++)
        signed[at++] = column[i] === Infinity ? STILL_GROWING : Math.round(column[i] / MINUTE)
  for (const [k, bars] of set.bars.entries()) {
    yield
    for (const name of [...SERIES, ...header.extras]) {
      const column = bars[name] ?? new Float64Array(bars.time.length).fill(NaN)
      for (let i = 0; i < column.length; i++, at++) {
        const value = column[i]
        if (isCount(name)) unsigned[at] = value === value ? value : UNKNOWN_COUNT
        else if (value !== value) signed[at] = UNKNOWN_PRICE
        else {
          const whole = Math.round(value * header.priceScale)
          if (whole > 2147483647)
            throw new FileFailure({ code: 'price_too_large', symbol: set.symbols[k], price: value })
          signed[at] = whole
        }
      }
    }
  }
  return out
}

/**
 * Reads what encodeBars wrote into a table, in memory that `allocate` gives. Throws FileFailure where the message is not whole.
 */
export function decodeBars(buffer: ArrayBuffer, allocate: Allocate = ownMemory): BarTable {
  const view = new DataView(buffer)
  if (buffer.byteLength < 8 || view.getUint32(0, true) !== MAGIC) throw new FileFailure({ code: 'not_fhb1' })
  const length = view.getUint32(4, true)
  if (8 + length > buffer.byteLength) throw new FileFailure({ code: 'cut_off' })
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 8, length))) as Header
  if (!parseTimeframe(header.every)) throw new FileFailure({ code: 'timeframe_unknown', every: header.every })
  const start = Math.ceil((8 + length) / 4) * 4
  const { every, asOf, extras, calendars } = header
  const calendarOf = header.securities.map((s) => s.calendar)
  const words = sizeOf({ calendars, calendarOf, extras })
  if (start + 4 * words > buffer.byteLength) throw new FileFailure({ code: 'cut_off' })
  const signed = new Int32Array(buffer, start, words)
  const unsigned = new Uint32Array(buffer, start, words)
  const symbols = header.securities.map((s) => s.symbol)
  const table: BarTable = { every, asOf, extras, calendars, symbols, calendarOf, buffer: allocate(8 * words) }
  const out = new Float64Array(table.buffer)
  let at = 0
  for (const { rows } of calendars)
    for (const end = at + 2 * rows; at < end; at++)
      out[at] = signed[at] === STILL_GROWING ? Infinity : signed[at] * MINUTE
  const columns = [...SERIES, ...extras].map(isCount)
  for (const which of calendarOf) {
    const { rows } = calendars[which]
    for (const count of columns) {
      const end = at + rows
      if (count) for (; at < end; at++) out[at] = unsigned[at] === UNKNOWN_COUNT ? NaN : unsigned[at]
      else
        for (; at < end; at++) out[at] = signed[at] === UNKNOWN_PRICE ? NaN : signed[at] / header.priceScale
    }
  }
  return table
}
