import { INSIDE } from './shared'
import { type FunctionWord } from './types'

export const BESIDE: FunctionWord = {
  kind: 'function',
  name: 'beside',
  usage: 'beside("SYMBOL", x)',
  doc: 'The value, or the condition, of another security at its last bar complete by then; beside("index", x) is the index of the venue.',
  source: 'Definition',
  also: ['other symbol', 'index', 'benchmark'],
  unknown: 'the other security has no bar that has it by then',
  opposite: INSIDE,
  takes: ['symbol', 'either'],
  gives: 'input',
  moves: true,
  needs: ([, of], needs) => needs(of),
  means: {
    graph: ({ args: [name, of] }, site) => {
      const { value } = name as { value: string }
      const there = site.besides(value === 'index' ? value : value.toUpperCase())
      return there === site ? site.of(of) : site.across(there, there.of(of))
    },
  },
}
