import { INDICATORS } from '../indicators'
import { resolveCall } from './resolve'
import { childrenOf, type Node } from './tree'
import { FUNCTIONS, relation } from './words'

/** Bars that a rule may look back; ten years of days and some. */
export const LOOK_BACK_LIMIT = 5000

/** Bars before a tree can have a known value on its own timeframe; what other timeframes need is not counted. */
export function barsNeeded(node: Node): number {
  switch (node.kind) {
    case 'name':
      return INDICATORS.get(node.name) ? barsNeeded({ kind: 'call', name: node.name, args: [] }) : 1
    case 'call': {
      const word = FUNCTIONS.get(node.name)
      if (word) return word.needs(node.args, barsNeeded)
      const indicator = INDICATORS.get(node.name)
      const call = indicator && resolveCall(node, indicator)
      if (!indicator || !call || 'code' in call) return 1
      return indicator.warmUp(call.params) + Math.max(1, ...call.series.map(barsNeeded)) - 1
    }
    case 'relate':
      return relation(node.how).back + Math.max(barsNeeded(node.left), barsNeeded(node.right))
    default:
      return Math.max(1, ...childrenOf(node).map(barsNeeded))
  }
}
