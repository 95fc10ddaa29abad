import { needsOf } from '../book/needs'
import { toE4 } from '../market/money'
import { securityText } from '../options/words'
import { LEVELS } from '../orders/say'
import { directionOf } from '../orders/levels'
import { unreadable, unreadableText } from '../plans/carriedBars'
import { type Plan } from '../plans/document'
import { contractsOf, namedBy } from '../plans/drawn'
import { dealtAt } from '../orders/netPrice'
import { pricesOf, type Shared } from './shared'
import { legsOf } from './whole'

/** That a contract which a plan opens is not listed, and the mend. */
export const endedText = (symbol: string): string =>
  `The broker lists no ${securityText(symbol)}: it has ended, or never was. Choose another contract in Do.`

/** What keeps an account from trading what a plan would order, whatever the market does: in sentences, none where it may. */
export function obstacles(plan: Plan, shared: Shared): string[] {
  const { listed, book } = shared
  const missing = namedBy(plan).filter((symbol) => !listed[symbol]?.security.orderable)
  const ended = contractsOf(plan).filter((symbol) => !listed[symbol])
  const shorts = plan.sides.some(({ do: deed }) => 'open' in deed && (deed.open === 'Short' || deed.mate))
  return [
    ...(missing.length > 0
      ? [`These cannot be ordered: ${missing.join(', ')}. Take them out of Among.`]
      : []),
    ...unreadable(plan, (name) => listed[name] !== undefined).map(unreadableText),
    ...ended.map(endedText),
    ...(shorts && !book.rules.short
      ? ['The account may not sell short, and this plan does. Use one that may.']
      : []),
    ...(ended.length === 0 ? levelObstacles(plan, shared) : []),
  ]
}

/** Contracts that need another option level than the account has. */
function levelObstacles({ sides }: Plan, shared: Shared): string[] {
  const allowed = shared.book.rules.optionLevel
  const priceOf = pricesOf(shared)
  return sides.flatMap(({ do: deed, among }) => {
    if (!('legs' in deed) || !('list' in among)) return []
    const moves = legsOf(deed).map(({ symbol, legSide, legRatioQty }) => ({
      ...{ symbol, quantity: directionOf(legSide) * legRatioQty },
      priceE4: shared.quotes[symbol] ? dealtAt(legSide, priceOf(symbol)) : toE4(0),
    }))
    const { level } = needsOf(shared.book, among.list[0], moves, priceOf)
    if (level <= allowed) return []
    return [
      `What it opens needs option level ${level} (${LEVELS[level]}), and the account has ${allowed}. Use an account of that level, or open one under Paper, Accounts.`,
    ]
  })
}
