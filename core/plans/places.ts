import { parseTimeframe } from '../market/timeframe'
import { type Plan } from './document'
import { type Input } from './input'

/** Where values of inputs may stand besides rule text: numbers of clauses, times of the session and lengths of bars. */
export interface Place {
  /** "sides.0.then.exits.stop.percent" */
  path: string
  /** In words: "Then: exits, stop, percent". */
  label: string
  value: number | string
}

const CLAUSES: Record<string, string> = {
  when: 'When',
  among: 'Among',
  if: 'If',
  score: 'Provided',
  ask: 'Provided',
  do: 'Do',
  then: 'Then',
  never: 'Never',
  seen: 'Never',
}

/** Values that no plan names: securities, points of a score, days of the week. */
const PASSED: ReadonlySet<string> = new Set(['list', 'pairs', 'legs', 'weekdays', 'scan', 'lines'])

const CLOCK = /^([01]\d|2[0-3]):[0-5]\d$/

/** Whether a text stands where a time of the clock or a length of bars does. */
const isNamed = (key: string, value: unknown): value is string =>
  typeof value === 'string' && (key === 'clock' || key === 'every')

/** Every place of a plan's clauses where an input may stand. */
export function placesOf(plan: Plan): Place[] {
  const { when, never, seen } = plan
  const shared = [
    ...placesIn({ when }, [], ''),
    ...plan.sides.flatMap((side, i) => placesIn(side, ['sides', String(i)], i === 0 ? '' : ', other side')),
  ]
  return [...shared, ...placesIn({ never, ...(seen ? { seen } : {}) }, [], '')]
}

function placesIn(of: object, path: readonly string[], where: string): Place[] {
  return Object.entries(of).flatMap(([key, part]): Place[] => {
    const clause = CLAUSES[key]
    if (clause === undefined || typeof part !== 'object' || part === null) return []
    return walk(part as object, []).map(({ keys, value }) => ({
      path: [...path, key, ...keys].join('.'),
      label: `${clause}${where}: ${keys.map(inWords).join(', ')}`,
      value,
    }))
  })
}

function walk(of: object, keys: readonly string[]): { keys: string[]; value: number | string }[] {
  return Object.entries(of).flatMap(([key, value]: [string, unknown]) => {
    if (PASSED.has(key)) return []
    if (typeof value === 'number' || isNamed(key, value)) return [{ keys: [...keys, key], value }]
    return typeof value === 'object' && value !== null ? walk(value, [...keys, key]) : []
  })
}

/** "entriesPerSecurityAndDay" as "entries per security and day"; "0" as "1". */
const inWords = (key: string): string =>
  /^\d+$/.test(key)
    ? String(Number(key) + 1)
    : key.replaceAll(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`)

/** A value as it stands at a place: "1.5%" is 1.5 where a number does; undefined where it does not fit. */
export function valueAt(path: string, stands: unknown, value: string): number | string | undefined {
  const key = path.split('.').at(-1)!
  if (isNamed(key, stands)) {
    const fits = key === 'clock' ? CLOCK.test(value) : parseTimeframe(value) !== undefined
    return fits ? value : undefined
  }
  const number = Number(/^-?[\d.]+/.exec(value)?.[0])
  return typeof stands === 'number' && Number.isFinite(number) ? number : undefined
}

export const inside = (of: unknown, key: string): unknown =>
  typeof of === 'object' && of !== null ? (of as Record<string, unknown>)[key] : undefined

/** What stands at a place of a plan; undefined where there is no such place. */
export const standsAt = (plan: unknown, path: string): unknown =>
  path.split('.').reduce<unknown>(inside, plan)

/** A plan with the values of its inputs at the places where they stand, so that each is seen where it holds. */
export function withValuesInPlace(plan: Plan): Plan {
  const { inputs = [] } = plan
  if (!inputs.some(({ at = [] }) => at.length > 0)) return plan
  const out = structuredClone(plan)
  putInPlace(out, inputs)
  return out
}

/** Puts values at their places of a plan that may be changed. */
export function putInPlace(plan: Plan, inputs: readonly Input[]): void {
  for (const { value, at = [] } of inputs)
    for (const path of at) {
      const keys = path.split('.')
      const last = keys.pop()!
      const of = keys.reduce<unknown>(inside, plan)
      const fits = valueAt(path, inside(of, last), value)
      if (fits !== undefined) (of as Record<string, number | string>)[last] = fits
    }
}

/**
 * A plan after a change by hand: where another value was written at a place of an input, or the place is gone, the input stands
 * there no more.
 */
export function letGoOfPlaces(before: Plan, after: Plan): Plan {
  const { inputs = [] } = after
  const kept = inputs.map((input): Input => {
    const was = before.inputs?.find(({ name }) => name === input.name)
    const at = (input.at ?? []).filter((path) => {
      const stands = standsAt(after, path)
      const isNew = !was?.at?.includes(path) || was.value !== input.value
      return stands !== undefined && (isNew || stands === standsAt(before, path))
    })
    const { at: _at, ...rest } = input
    return at.length > 0 ? { ...rest, at } : rest
  })
  return withValuesInPlace(inputs.length === 0 ? after : { ...after, inputs: kept })
}
