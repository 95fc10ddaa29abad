import { smooth } from './recursive'
import * as step from './steps'
import { ABOUT_NOUGHT, GAP, type Indicator, length } from './types'

/** Two exponential averages compared as `put` does in the first, the average of that, and the gap between those. */
const compared =
  (put: (fast: Float64Array, slow: Float64Array) => void): Indicator['column'] =>
  ([src], [fast, slow, signal], [line, signalLine, histogram]) => {
    smooth(src, fast, 2 / (fast + 1), line)
    smooth(src, slow, 2 / (slow + 1), histogram)
    put(line, histogram)
    smooth(line, signal, 2 / (signal + 1), signalLine)
    for (let i = 0; i < src.length; i++) histogram[i] = line[i] - signalLine[i]
  }

/** The same one value at a time. */
const comparedSteps =
  (distance: (fast: number, slow: number) => number): Indicator['steps'] =>
  (params, slots) => {
    const [quick, calm, smoothed] = params.map((n) => step.exponential(slots, n))
    return (ins, outs, keep) => {
      outs[0] = distance(quick(ins[0], keep), calm(ins[0], keep))
      outs[1] = smoothed(outs[0], keep)
      outs[2] = outs[0] - outs[1]
    }
  }

const outputs = (unit: 'input' | 'percent') =>
  (['line', 'signal', 'histogram'] as const).map((name) => ({ name, unit }))

const shape = {
  opposite: ABOUT_NOUGHT,
  unknown: GAP,
  input: 'series',
  parameters: [length('fast', 12), length('slow', 26), length('signal', 9)],
  warmUp: ([fast, slow, signal]: readonly number[]) => Math.max(fast, slow) + signal - 1,
} as const

export const macd: Indicator = {
  ...shape,
  name: 'macd',
  also: ['moving average convergence divergence', 'convergence', 'divergence'],
  outputs: outputs('input'),
  doc: 'Distance between a fast and a slow exponential average (line), its own average (signal), and the gap between those two (histogram).',
  source: 'Appel: exponential averages of 12 and 26 bars, signal of 9',
  column: compared((fast, slow) => {
    for (let i = 0; i < fast.length; i++) fast[i] -= slow[i]
  }),
  steps: comparedSteps((fast, slow) => fast - slow),
}

export const ppo: Indicator = {
  ...shape,
  name: 'ppo',
  also: ['percentage price oscillator'],
  outputs: outputs('percent'),
  doc: 'Percentage price oscillator: macd as a percentage of its slow average, so that dear and cheap securities compare.',
  source: 'Appel’s macd over its slow average (common practice)',
  column: compared((fast, slow) => {
    for (let i = 0; i < fast.length; i++) fast[i] = slow[i] > 0 ? (100 * (fast[i] - slow[i])) / slow[i] : NaN
  }),
  steps: comparedSteps((fast, slow) => (slow > 0 ? (100 * (fast - slow)) / slow : NaN)),
}
