import { mkdirSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { type Broker } from '@/client'
import { bound } from '@/core/plans/inputs'
import { namedBy } from '@/core/plans/drawn'
import { type Plan } from '@/core/plans/document'
import { parseTimeframe, roughMinutes } from '@/core/market/timeframe'
import { knownAccount } from '@/runner/connect'
import { universeOf } from '@/runner/universe'
import { Failure, note } from './fail'
import { readPlan } from './plan'
import { connected, type TradingOptions } from './trading'

export interface UpdateOptions extends TradingOptions {
  /** Folder in which bars are kept, a CSV file a security and timeframe. */
  bars?: string
  limit?: number
}

/** Bars of a security that are kept where nothing else is said. */
const LIMIT = 2000

/**
 * Before a session, without a browser: runs the searches of plans and says what each finds, and keeps bars of all that they look
 * at as files. Throws Failure, once everything has been tried, where any of it failed: a plan would stand still.
 */
export async function update(
  paths: readonly string[],
  options: UpdateOptions,
  print: (text: string) => void,
): Promise<string> {
  const plans = paths.map((path) => bound(readPlan(path)))
  const broker = await connected(options)
  const failed: string[] = []
  const wanted = new Map<string, Set<string>>()
  const { shared, reports } = await knownAccount(broker, [])
  for (const plan of plans)
    for (const [at, side] of plan.sides.entries()) {
      const named = `${plan.name}${plan.sides.length > 1 ? `, side ${at + 1}` : ''}`
      try {
        const { symbols, left, unknown, looked } = await universeOf(broker, plan, at, shared, reports)
        print(`${named}: ${sayFound(symbols, left.length, unknown, looked)}\n`)
        const all = wanted.get(side.if.every) ?? new Set()
        for (const symbol of [...symbols, ...matesIn(plan)]) all.add(symbol)
        wanted.set(side.if.every, all)
      } catch (error) {
        failed.push(`${named}: ${(error as Error).message}`)
      }
    }
  if (options.bars !== undefined)
    for (const [every, symbols] of finestFirst(wanted))
      failed.push(...(await keepBars(broker, options.bars, every, [...symbols], options.limit ?? LIMIT)))
  if (failed.length > 0)
    throw new Failure(`${failed.join('\n')}\nUntil that is mended, what looks there stands still.`)
  return ''
}

const matesIn = (plan: Plan): string[] =>
  plan.sides.some(({ among }) => 'pairs' in among) ? namedBy(plan) : []

const finestFirst = <T>(wanted: Map<string, T>): [string, T][] =>
  [...wanted].sort(([a], [b]) => roughMinutes(parseTimeframe(a)!) - roughMinutes(parseTimeframe(b)!))

function sayFound(symbols: readonly string[], left: number, unknown: number, looked: number): string {
  const more = [left > 0 && `${left} left out by its limit`, unknown > 0 && `${unknown} not known`].filter(
    Boolean,
  )
  return `${symbols.length} of ${looked}${more.length > 0 ? ` (${more.join(', ')})` : ''}${symbols.length > 0 ? `: ${symbols.join(', ')}` : ''}`
}

/** Writes a file for each security; one that cannot be had leaves the file before it as it was. Gives what failed. */
async function keepBars(
  broker: Broker,
  folder: string,
  every: string,
  symbols: readonly string[],
  limit: number,
): Promise<string[]> {
  const own = join(folder, every.replaceAll(' ', '-'))
  const failed: string[] = []
  mkdirSync(own, { recursive: true })
  for (const symbol of symbols) {
    const path = join(own, `${symbol}.csv`)
    try {
      const asked = new URLSearchParams({ every, limit: String(limit), format: 'csv' })
      const answer = await broker.fetch(`/securities/${encodeURIComponent(symbol)}/bars?${asked}`)
      writeFileSync(`${path}.new`, await answer.text())
      renameSync(`${path}.new`, path)
    } catch (error) {
      failed.push(`${symbol}, ${every} bars: ${(error as Error).message}`)
    }
  }
  note(`${symbols.length - failed.length} files of ${every} bars in ${own}.`)
  return failed
}
