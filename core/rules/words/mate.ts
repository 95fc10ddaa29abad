import { MATE } from '../exec/mate'
import { INSIDE } from './shared'
import { type FunctionWord } from './types'

export const MATE_WORD: FunctionWord = {
  kind: 'function',
  name: 'mate',
  usage: 'mate(x)',
  doc: 'The value, or the condition, of the other security of a pair at its last bar complete by then; in a plan that looks at pairs.',
  source: 'Definition',
  also: ['partner', 'pair', 'other leg'],
  unknown: 'it is not looked at as one of a pair, or the other has no bar that has it by then',
  opposite: INSIDE,
  takes: ['either'],
  gives: 'input',
  moves: true,
  needs: ([of], needs) => needs(of),
  means: {
    graph: ({ args: [of] }, site) => {
      const there = site.besides(MATE)
      return there === site ? site.of(of) : site.across(there, there.of(of))
    },
  },
}
