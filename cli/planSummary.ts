import { type Broker } from '@/client'
import { moneyText } from '@/core/market/money'
import { type Plan } from '@/core/plans/document'
import { namedBy } from '@/core/plans/drawn'
import { sentFor } from '@/core/plans/ids'
import { mostText } from '@/core/plans/most'

/** What arming a plan means, line by line: what it could do at most, whether key and account suffice, and what stands there already. */
export async function mostOf(broker: Broker, plan: Plan): Promise<string[]> {
  const [who, account, securities, working] = await Promise.all([
    broker.whoami(),
    broker.ownAccount(),
    broker.securities(),
    broker.orders('working'),
  ])
  const known = new Map(securities.map((one) => [one.symbol, one]))
  const named = namedBy(plan)
  const missing = named.filter((symbol) => !known.get(symbol)?.orderable)
  const shorts = plan.sides.some(({ do: deed }) => 'open' in deed && (deed.open === 'Short' || deed.mate))
  const own = working.filter(({ origin }) => sentFor(origin)?.planId === plan.id)
  return [
    ...mostText(plan, (amount) => moneyText(amount, account.currency)),
    who.scopes.includes('send-orders')
      ? `The key may send orders for account ${account.account}.`
      : 'The key may not send orders: nothing would be sent. Make one that may under Keys.',
    missing.length === 0
      ? `All ${named.length} securities that it names can be ordered.`
      : `These cannot be ordered: ${missing.join(', ')}.`,
    ...(shorts && !account.rules.short ? ['The account may not sell short, and this plan does.'] : []),
    ...(own.length > 0
      ? [
          `The broker has ${own.length} working orders of it already, sent by version ${own[0].origin?.version ?? '?'}.`,
        ]
      : []),
    'It waits for the next time that its condition begins; with --now what holds already counts.',
  ]
}
