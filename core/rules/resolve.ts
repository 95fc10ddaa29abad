import { type SeriesName } from '../market/bars'
import { type Indicator } from '../indicators/types'
import { usageOf } from './catalogue'
import { type Issue } from './issues'
import { type CallNode, type Node, type Span } from './tree'

/** An indicator call with everything filled in that the trader left out. */
export interface ResolvedCall {
  indicator: Indicator
  /** The series that it is taken of; undefined where the indicator takes fixed columns. */
  series?: Node
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
  let series: Node | undefined
  if (indicator.input === 'series') {
    const first = args[0]
    const leftOut =
      first === undefined || (first.kind === 'number' && args.length <= indicator.parameters.length)
    series = leftOut ? CLOSE : first
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
