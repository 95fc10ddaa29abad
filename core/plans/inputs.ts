import { parse } from '../rules'
import { wordsOf } from '../rules/wordsOf'
import { type Plan } from './document'
import { type Input } from './input'
import { putInPlace, standsAt, valueAt } from './places'

type Named = Pick<Input, 'name' | 'value'>

/** Values as they are put in place: rule text with inputs before it put in, in brackets if it is more than one word or call. */
function valuesOf(inputs: readonly Named[]): Map<string, string> {
  const values = new Map<string, string>()
  for (const { name, value } of inputs) {
    const text = putInto(value, values).text
    const tree = parse(text).tree
    const isPart = tree !== undefined && 'left' in tree
    values.set(name, isPart ? `(${text})` : text)
  }
  return values
}

/** Rule text with the values of inputs in place of their names, and where a place of it stood before. */
export const withValues = (
  text: string,
  inputs: readonly Named[],
): { text: string; back(place: number): number } => putInto(text, valuesOf(inputs))

function putInto(
  text: string,
  values: ReadonlyMap<string, string>,
): { text: string; back(place: number): number } {
  const moves: { after: number; by: number }[] = []
  let out = ''
  let from = 0
  for (const { word, at } of wordsOf(text)) {
    const value = values.get(word)
    if (value === undefined) continue
    out += text.slice(from, at) + value
    from = at + word.length
    moves.push({ after: out.length, by: word.length - value.length })
  }
  return {
    text: out + text.slice(from),
    back: (place) => place + moves.reduce((sum, { after, by }) => (place >= after ? sum + by : sum), 0),
  }
}

/** Where rule text stands in a plan. */
const TEXTS: ReadonlySet<string> = new Set([
  'rule',
  'leaveIf',
  'level',
  'distance',
  'limit',
  'stop',
  'over',
  'ratio',
  'by',
])

/** A plan with its inputs in their places; the same plan where it has none. */
export function bound(plan: Plan): Plan {
  const { inputs = [] } = plan
  if (inputs.length === 0) return plan
  // What it carries is of no input, and may be long.
  const { inputs: _inputs, events, drawings, figures, bars, ...rest } = plan
  const out = textsBound(rest, inputs) as Plan
  putInPlace(out, inputs)
  return Object.assign(
    out,
    events && { events },
    drawings && { drawings },
    figures && { figures },
    bars && { bars },
  )
}

function textsBound(of: unknown, inputs: readonly Input[]): unknown {
  if (Array.isArray(of)) return of.map((one) => textsBound(one, inputs))
  if (typeof of !== 'object' || of === null) return of
  return Object.fromEntries(
    Object.entries(of).map(([key, value]) => [
      key,
      typeof value === 'string' && TEXTS.has(key)
        ? withValues(value, inputs).text
        : textsBound(value, inputs),
    ]),
  )
}

/** The same plan with another value of one of its inputs: for trying many. Throws RangeError where there is none of that name. */
export function withInput(plan: Plan, name: string, value: string): Plan {
  const { inputs = [] } = plan
  if (!inputs.some((one) => one.name === name))
    throw new RangeError(
      `${plan.name} has no input “${name}”; it has ${inputs.map((one) => one.name).join(', ') || 'none'}.`,
    )
  return { ...plan, inputs: inputs.map((one) => (one.name === name ? { ...one, value } : one)) }
}

/** What is wrong with the inputs of a plan, in words. */
export function wrongInputs({ inputs = [], ...plan }: Plan): string[] {
  return inputs.flatMap(({ name, value, at = [] }, i) => {
    const said: string[] = []
    if (inputs.findIndex((one) => one.name === name) !== i) said.push(`there are two inputs called ${name}`)
    if (isWord(name)) said.push(`${name} is a word of rule text; call the input otherwise`)
    for (const path of at) {
      const stands = standsAt(plan, path)
      if (stands === undefined) said.push(`${name} stands at ${path}, where there is no value`)
      else if (valueAt(path, stands, value) === undefined)
        said.push(`${name} stands at ${path}, and ${value} does not fit there`)
    }
    return said
  })
}

/** Whether rule text knows a name already: it would never be read as an input. */
const isWord = (name: string): boolean => wordsOf(`${name} `).length !== 1 || wordsOf(name)[0].known
