import { type Bars, emptyBars, SERIES } from '../market/bars'
import { parseTimeframe, timeframeText } from '../market/timeframe'

/**
 * Bars of many securities in one compact message: the letters "FHB1", the length of a JSON header (32 bits,
 * little-endian), the header, then columns of 32-bit numbers. Times are minutes since 1970; prices are whole
 * numbers of 1/`priceScale` (−2^31 stands for unknown). Securities with the same calendar share its columns.
 */
const MAGIC = 0x31424846
const UNKNOWN_PRICE = -2147483648
/** End of a bar that is not complete. */
const STILL_GROWING = 2147483647
const MINUTE = 60_000

interface Header {
  every: string
  zone: string
  asOf: string
  priceScale: number
  calendars: { rows: number }[]
  securities: { symbol: string; calendar: number }[]
}

export interface BarSet {
  every: string
  /** Moment up to which the bars are complete, as the sender says it. */
  asOf: string
  symbols: string[]
  bars: Bars[]
}

/** Writes bars of one timeframe and zone. Throws RangeError for a price of 214,748 or more. */
export function encodeBars(securities: readonly { symbol: string; bars: Bars }[], asOf: string): Uint8Array {
  const calendars = new Map<Float64Array, { index: number; bars: Bars }>()
  for (const { bars } of securities) {
    if (!calendars.has(bars.time)) calendars.set(bars.time, { index: calendars.size, bars })
  }
  const first = securities[0]?.bars
  const header: Header = {
    every: first ? timeframeText(first.every) : '1 day',
    zone: first?.zone ?? 'UTC',
    asOf,
    priceScale: 10_000,
    calendars: [...calendars.values()].map(({ bars }) => ({ rows: bars.time.length })),
    securities: securities.map(({ symbol, bars }) => ({ symbol, calendar: calendars.get(bars.time)!.index })),
  }
  const text = new TextEncoder().encode(JSON.stringify(header))
  const start = Math.ceil((8 + text.length) / 4) * 4
  const words =
    header.calendars.reduce((sum, c) => sum + 2 * c.rows, 0) +
    securities.reduce((sum, s) => sum + 5 * s.bars.time.length, 0)
  const out = new Uint8Array(start + 4 * words)
  const view = new DataView(out.buffer)
  view.setUint32(0, MAGIC, true)
  view.setUint32(4, text.length, true)
  out.set(text, 8)
  const signed = new Int32Array(out.buffer, start)
  const unsigned = new Uint32Array(out.buffer, start)
  let at = 0
  for (const { bars } of calendars.values()) {
    for (const column of [bars.time, bars.end])
      for (let i = 0; i < column.length; i++)
        signed[at++] = column[i] === Infinity ? STILL_GROWING : Math.round(column[i] / MINUTE)
  }
  for (const { symbol, bars } of securities) {
    for (const name of SERIES) {
      const column = bars[name]
      for (let i = 0; i < column.length; i++, at++) {
        const value = column[i]
        if (name === 'volume') unsigned[at] = value
        else if (value !== value) signed[at] = UNKNOWN_PRICE
        else {
          const whole = Math.round(value * header.priceScale)
          if (whole > 2147483647)
            throw new RangeError(`${symbol}: a price of ${value} does not fit this form; ask for JSON`)
          signed[at] = whole
        }
      }
    }
  }
  return out
}

/** Reads what encodeBars wrote. Throws RangeError with a reason where the message is not whole. */
export function decodeBars(buffer: ArrayBuffer): BarSet {
  const view = new DataView(buffer)
  if (buffer.byteLength < 8 || view.getUint32(0, true) !== MAGIC)
    throw new RangeError('These are not bars in the FHB1 form')
  const length = view.getUint32(4, true)
  if (8 + length > buffer.byteLength) throw new RangeError('The bars were cut off on the way; ask again')
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 8, length))) as Header
  const every = parseTimeframe(header.every)
  if (!every) throw new RangeError(`The bars name an unknown timeframe, "${header.every}"`)
  const start = Math.ceil((8 + length) / 4) * 4
  const rows = (calendar: number) => header.calendars[calendar].rows
  const words =
    header.calendars.reduce((sum, c) => sum + 2 * c.rows, 0) +
    header.securities.reduce((sum, s) => sum + 5 * rows(s.calendar), 0)
  if (start + 4 * words > buffer.byteLength)
    throw new RangeError('The bars were cut off on the way; ask again')
  const signed = new Int32Array(buffer, start, words)
  const unsigned = new Uint32Array(buffer, start, words)
  let at = 0
  const times = header.calendars.map(({ rows: n }) => {
    const pair = [new Float64Array(n), new Float64Array(n)]
    for (const column of pair) {
      for (let i = 0; i < n; i++, at++)
        column[i] = signed[at] === STILL_GROWING ? Infinity : signed[at] * MINUTE
    }
    return { time: pair[0], end: pair[1] }
  })
  const bars = header.securities.map(({ calendar }) => {
    const made: Bars = { ...emptyBars(0, every, header.zone), ...times[calendar] }
    for (const name of SERIES) {
      const column = new Float64Array(rows(calendar))
      for (let i = 0; i < column.length; i++, at++) {
        if (name === 'volume') column[i] = unsigned[at]
        else column[i] = signed[at] === UNKNOWN_PRICE ? NaN : signed[at] / header.priceScale
      }
      made[name] = column
    }
    return made
  })
  return { every: header.every, asOf: header.asOf, symbols: header.securities.map((s) => s.symbol), bars }
}
