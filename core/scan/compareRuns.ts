/** What changed between two runs of a scan, in the order of the later one. */
export interface RunChange {
  came: string[]
  went: string[]
  stayed: string[]
}

export function compareRuns(before: readonly string[], after: readonly string[]): RunChange {
  const [was, is] = [new Set(before), new Set(after)]
  return {
    came: after.filter((symbol) => !was.has(symbol)),
    went: before.filter((symbol) => !is.has(symbol)),
    stayed: after.filter((symbol) => was.has(symbol)),
  }
}
