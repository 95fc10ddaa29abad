import { type SeriesName } from '../market/bars'
import { type Indicator } from '../indicators/types'
import { type Issue } from './issues'
import { type CallNode, type Node, type Span } from './tree'
import { usageOf } from './words'

/** An indicator call with everything filled in that the trader left out. */
export interface ResolvedCall {
  indicator: Indicator
  /** The series that it is taken of; none where the indicator takes fixed columns. */
  series: Node[]
  params: number[]
  /** Which of the outputs is meant. */
  output: number
}

const CLOSE: Node = { kind: 'name', name: 'close' satisfies SeriesName }
const HERE: Span = { from: 0, to: 0 }

/** Matches the arguments of a call to the indicator's series and parameters. */
export function resolveCall(node: CallNode, indicator: Indicator): ResolvedCall | Issue {
  const at = node.at ?? HERE
  const usage = usageOf(indicator)
  const { name } = indicator
  let args = node.args
  let series: Node[] = []
  if (indicator.input === 'two series') {
    series = args.slice(0, 2)
    if (series.length < 2) return { code: 'argument_count', name, usage, given: args.length, at }
    args = args.slice(2)
  } else if (indicator.input === 'series') {
    const first = args[0]
    const leftOut =
      first === undefined || (first.kind === 'number' && args.length <= indicator.parameters.length)
    series = [leftOut ? CLOSE : first]
    if (!leftOut) args = args.slice(1)
  }
  if (args.length > indicator.parameters.length) {
    return { code: 'argument_count', name, usage, given: node.args.length, at }
  }
  const params: number[] = []
  for (const [i, parameter] of indicator.parameters.entries()) {
    const arg = args[i]
    if (arg === undefined) {
      if (parameter.preset === undefined)
        return { code: 'argument_count', name, usage, given: node.args.length, at }
      params.push(parameter.preset)
      continue
    }
    if (parameter.minutes) {
      const minutes = minutesOf(arg)
      if (!minutes) return { code: 'wants_minutes', name, parameter: parameter.name, usage, at: arg.at ?? at }
      if (minutes > parameter.max) {
        const { min, max } = parameter
        return {
          code: 'parameter_range',
          name,
          parameter: parameter.name,
          min,
          max,
          whole: true,
          at: arg.at ?? at,
        }
      }
      params.push(minutes)
      continue
    }
    if (arg.kind !== 'number' || arg.unit !== 'number') {
      return { code: 'wants_plain_number', name, parameter: parameter.name, usage, at: arg.at ?? at }
    }
    const { min, max, whole } = parameter
    if (arg.value < min || arg.value > max || (whole && !Number.isInteger(arg.value))) {
      return { code: 'parameter_range', name, parameter: parameter.name, min, max, whole, at: arg.at ?? at }
    }
    params.push(arg.value)
  }
  const output = node.output === undefined ? 0 : indicator.outputs.findIndex((o) => o.name === node.output)
  if (output < 0) {
    const outputs = indicator.outputs.length > 1 ? indicator.outputs.map((o) => o.name) : []
    return { code: 'unknown_output', name, output: node.output!, outputs, at }
  }
  return { indicator, series, params, output }
}

/** A length such as "25 min" or "2 hours" in minutes, a time of day as minutes below nought; undefined for anything else. */
function minutesOf(arg: Node): number | undefined {
  if (arg.kind === 'time') return -arg.minutes
  if (arg.kind !== 'duration') return undefined
  if (arg.unit === 'min') return arg.count
  return arg.unit === 'hour' ? 60 * arg.count : undefined
}
