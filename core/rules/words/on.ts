import { type DurationUnit } from '../tree'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

export const ON: FunctionWord = {
  kind: 'function',
  name: 'on',
  usage: 'on(1 week, x)',
  doc: 'The value, or the condition, on another timeframe, from bars that were complete by then.',
  source: 'Definition',
  also: ['timeframe', 'higher timeframe', 'weekly'],
  unknown: 'no bar of that length that has it was complete by then',
  opposite: INSIDE,
  takes: ['timeframe', 'either'],
  gives: 'input',
  moves: true,
  // What other timeframes need is not counted in bars of this one.
  needs: () => 1,
  means: {
    graph: ({ args: [span, of] }, site) => {
      const { count, unit } = span as { count: number; unit: DurationUnit }
      if (unit === 'bar') throw new Error('A timeframe is not counted in bars; check the rule first')
      const there = site.on({ count, unit })
      return there === site ? site.of(of) : site.across(there, there.of(of))
    },
  },
}
