import { appendFileSync, existsSync, readFileSync, statSync, truncateSync } from 'node:fs'

/** Adds a line to a file, whole or not at all: what a full disk cut off is taken away again. Throws the disk's Error. */
export function appendLine(path: string, line: string): void {
  const before = statSync(path, { throwIfNoEntry: false })?.size ?? 0
  try {
    appendFileSync(path, line, { mode: 0o600 })
  } catch (error) {
    // The next line would become one with it, and an order that stands in it would be forgotten.
    if (existsSync(path)) truncateSync(path, before)
    throw error
  }
}

/** Ends a line that was cut off in mid-write when its process died, so that the next one is not lost with it. */
export function endTornLine(path: string): void {
  if (!existsSync(path)) return
  const { size } = statSync(path)
  if (size > 0 && readFileSync(path).at(-1) !== 0x0a) appendLine(path, '\n')
}
