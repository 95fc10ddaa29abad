import { checkTree, type BarSource, measuresIn, type Node, parse, print, unitOf } from '@/core/rules'
import { nodesOf } from '@/core/rules/walk'
import { measureColumn } from '@/core/scan/hits'
import { type LookPanel } from '@/store/db'
import { type Line } from './chartOption'

const STROKES = [
  { dash: 'solid', color: 'accent' },
  { dash: 'dashed', color: 'ink' },
  { dash: 'dotted', color: 'value' },
  { dash: 'solid', color: 'amber' },
  { dash: 'dashed', color: 'accent' },
  { dash: 'dotted', color: 'ink' },
] as const

/**
 * The numbers that the rules look at and the extra columns, then the measures of the trader's panels, as lines; bare
 * prices and volume are drawn already.
 */
export function linesOf(
  source: BarSource,
  rules: readonly string[],
  extra: readonly string[],
  panels: readonly LookPanel[],
): Line[] {
  const wanted = new Map<string, { tree: Node; panel?: string }>()
  const add = (node: Node, panel?: string) => {
    const text = print(node)
    if (!wanted.has(text)) wanted.set(text, { tree: node, panel })
  }
  for (const panel of panels)
    for (const text of panel.measures) {
      const parsed = parse(text).tree
      if (parsed) add(parsed, panel.id)
    }
  for (const rule of rules) {
    const { tree } = parse(rule)
    for (const node of tree ? measuresIn(tree) : []) add(node)
  }
  for (const text of extra) {
    const parsed = parse(text).tree
    if (parsed) add(parsed)
  }
  const { every } = source.base
  return [...wanted]
    .filter(
      ([, { tree: t, panel }]) =>
        (panel || t.kind !== 'name' || !BARE.has(t.name)) && checkTree(t, every, 'number').type,
    )
    .map(([text, { tree: t, panel }], i) => ({
      text,
      unit: unitOf(t, every),
      values: measureColumn(t, source),
      panel,
      steps: [...nodesOf(t)].some((node) => 'name' in node && SESSION_LONG.has(node.name)),
      ...STROKES[i % STROKES.length],
    }))
}

/** Values that stand for a whole session, window or longer bar. */
const SESSION_LONG = new Set(['opening', 'prior', 'pivots', 'gap', 'session', 'on'])

/** What the candles and the volume show already. */
const BARE = new Set(['open', 'high', 'low', 'close', 'volume', 'last', 'bid', 'ask', 'time'])
