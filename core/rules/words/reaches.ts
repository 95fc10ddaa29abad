import { type Node } from '../tree'
import { betweenForm } from './between'
import { type FunctionWord } from './types'

const LOW: Node = { kind: 'name', name: 'low' }
const HIGH: Node = { kind: 'name', name: 'high' }

export const REACHES: FunctionWord = {
  kind: 'function',
  name: 'reaches',
  usage: 'reaches(level)',
  doc: 'The level lies within the range of this bar, from its low to its high.',
  source: 'Definition',
  also: ['touches', 'hits'],
  unknown: 'the level is not known, or the bar has no price',
  opposite: { goes: 'price' },
  takes: ['number'],
  gives: 'moment',
  needs: ([of], needs) => needs(of),
  explains: {
    reads: [LOW, HIGH],
    say: (holds, { args: [level] }, named) =>
      `${named(level)} is ${holds ? '' : 'not '}within the bar, ${named(LOW)} to ${named(HIGH)}`,
  },
  means: {
    graph: ({ args: [level] }, site) => {
      const sides = [level, LOW, HIGH]
      const { paper, ins } = site.paper(sides)
      const values = sides.map((side) => site.of(side))
      return site.form('between', 'verdicts', betweenForm(paper), [...values, ...ins])
    },
  },
}
