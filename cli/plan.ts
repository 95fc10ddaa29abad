import { planFileText } from '../core/plans/file'
import { readFileSync } from 'node:fs'
import { carriedBarsText, withBars } from '@/core/plans/carriedBars'
import { planIssues } from '@/core/plans/check'
import { differences, differenceText } from '@/core/plans/difference'
import { type Plan } from '@/core/plans/document'
import { type PlanMemory, readPlanFile } from '@/core/plans/memory'
import { planProse } from '@/core/plans/say'
import { expandPaths, type FileOptions, readAll } from './barFiles'
import { Failure, note } from './fail'

/** Reads a plan, alone or with its memory, and says everything that is wrong with it, each at its place. Throws Failure. */
export const readPlan = (path: string): Plan => readFile(path).plan

/** The same with what it remembers, where the file holds that. */
export function readFile(path: string): { plan: Plan; memory?: PlanMemory } {
  let json: unknown
  try {
    json = JSON.parse(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new Failure(`${path} cannot be read as a plan: ${(error as Error).message}.`)
  }
  const read = readPlanFile(json)
  if ('plan' in read) return read
  throw new Failure(`${path} is no plan:\n${read.wrong.map((one) => `  ${one}`).join('\n')}`)
}

/** A plan as prose, and what is to be known of it. Throws Failure where it cannot be armed. */
export function plan(path: string): string {
  const read = readPlan(path)
  const issues = planIssues(read)
  const lines = planProse(read).map(
    ({ clause, side, text }) =>
      `  ${`${clause}${side !== undefined && read.sides.length > 1 ? ` ${side + 1}` : ''}`.padEnd(12)}${text}`,
  )
  const carried = carriedBarsText(read).map((text) => `  ${'Bars'.padEnd(12)}${text}`)
  const told = issues.map(
    ({ clause, is, text }) => `  ${is === 'error' ? 'wrong' : 'note'} in ${clause}: ${text}`,
  )
  const out = [`${read.name}, version ${read.version}`, ...lines, ...carried, ...told].join('\n')
  if (issues.some(({ is }) => is === 'error')) throw new Failure(`${out}\nIt cannot be armed like this.`)
  return `${out}\n`
}

/** What another version of a plan says differently. Throws Failure where either is no plan. */
export function difference(path: string, against: string): string {
  const found = differences(readPlan(against), readPlan(path))
  return found.length === 0 ? 'They say the same.\n' : `${found.map(differenceText).join('\n')}\n`
}

/**
 * A plan, with its memory where the file holds that, that carries bars of the trader's own out of files, as far as its rule text
 * reads them beside those of a security. Throws Failure.
 */
export function carry(path: string, files: readonly string[], options: FileOptions): string {
  const { plan: before, memory } = readFile(path)
  const brought = readAll(expandPaths(files), options)
  const own = new Map(brought.map(({ symbol, bars }) => [symbol, [bars]]))
  const made = withBars(before, own)
  for (const { symbol } of brought)
    if (!made.bars?.[symbol])
      note(`${symbol} left out: no rule text of the plan reads beside("${symbol}", …)`)
  for (const line of carriedBarsText(made)) note(line)
  return planFileText(memory ? { ...memory, plan: made } : made)
}
