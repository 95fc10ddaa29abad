import { type Drawing } from '../../market/drawings'
import { type FunctionWord } from './types'

const drawn = (
  name: Drawing['kind'],
  doc: string,
  also: readonly string[],
  outputs?: readonly string[],
): FunctionWord => ({
  kind: 'function',
  name,
  usage: `${name}("name")`,
  doc,
  source: 'Drawn by hand',
  also,
  unknown: `no ${name} of that name is drawn on the security`,
  opposite: { goes: 'price', ...(outputs ? { outputs: [['upper', 'lower']] as const } : {}) },
  takes: ['drawn'],
  ...(outputs ? { outputs } : {}),
  gives: 'price',
  needs: () => 1,
  means: {
    graph: ({ args: [text], output }, site) =>
      site.source({ of: 'drawing', kind: name, name: (text as { value: string }).value, output }),
  },
})

export const DRAWN: readonly FunctionWord[] = [
  drawn('level', 'The price of a level that was drawn on the chart of this security under that name.', [
    'horizontal line',
    'price line',
  ]),
  drawn('line', 'Where a drawn trend line stands at this bar; it runs on to both sides.', [
    'trend line',
    'trendline',
  ]),
  drawn('zone', 'The edges of a drawn zone.', ['box', 'area'], ['upper', 'lower']),
]
