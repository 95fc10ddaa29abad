import { readRows } from '../formats/csv'
import { DatedEvent } from './seen'

export const EVENT_COLUMNS = ['key', 'symbol', 'at', 'text'] as const

/** Events of CSV text whose first line names the columns key, symbol, at and text; or what is wrong in which line, with the mend. */
export function eventsOf(text: string): { events: DatedEvent[] } | { wrong: string } {
  let rows: ReturnType<typeof readRows>
  try {
    rows = readRows(text)
  } catch {
    return { wrong: 'A quote is never closed.' }
  }
  const [head, ...rest] = rows
  const names = head?.cells.map((one) => one.toLowerCase()) ?? []
  const missing = EVENT_COLUMNS.slice(0, 3).find((name) => !names.includes(name))
  if (missing)
    return { wrong: `The first line names the columns key, symbol, at and text; ${missing} is missing.` }
  const events: DatedEvent[] = []
  for (const { line, cells } of rest) {
    const filled = cells.flatMap((cell, i) => (cell === '' || !names[i] ? [] : [[names[i], cell]]))
    const read = DatedEvent.safeParse(Object.fromEntries(filled))
    if (!read.success) {
      const [{ path, message }] = read.error.issues
      const what =
        path[0] === 'at'
          ? 'at is no moment with an offset; write 2026-03-16T11:05:00-03:00'
          : `${path.join('.') || 'it'}: ${message}`
      return { wrong: `Line ${line}: ${what}.` }
    }
    events.push(read.data)
  }
  return { events }
}
