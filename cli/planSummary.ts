import { type Broker } from '@/client'
import { moneyText } from '@/core/market/money'
import { type Plan } from '@/core/plans/document'
import { namedBy } from '@/core/plans/drawn'
import { sentFor } from '@/core/plans/ids'
import { mostText } from '@/core/plans/most'
import { standsNow, standsText } from '@/runner/standsNow'

/**
 * What arming a plan means, line by line: what it could do at most, whether key and account suffice, and what stands there already.
 * `wrong`: what keeps it from being armed.
 */
export async function mostOf(
  broker: Broker,
  plan: Plan,
): Promise<{ lines: string[]; wrong: string[]; worldId: string }> {
  const [who, account, working, now] = await Promise.all([
    broker.whoami(),
    broker.ownAccount(),
    broker.orders('working'),
    standsNow(broker, plan),
  ])
  const { wrong } = now
  const own = working.filter(({ origin }) => sentFor(origin)?.planId === plan.id)
  const lines = [
    ...mostText(plan, (amount) => moneyText(amount, account.currency)),
    who.scopes.includes('send-orders')
      ? `The key may send orders for account ${account.account}.`
      : 'The key may not send orders: nothing would be sent. Make one that may under Keys.',
    ...(wrong.length === 0 ? namedText(namedBy(plan).length) : wrong),
    ...(own.length > 0
      ? [
          `The broker has ${own.length} working orders of it already, sent by version ${own[0].origin?.version ?? '?'}.`,
        ]
      : []),
    standsText(now),
    ...now.odd,
    ...(now.holds.length > 0 ? ['It waits for the next time; with --now what holds already counts.'] : []),
  ]
  return { lines, wrong, worldId: now.worldId }
}

/** That what a plan names can be ordered; nothing of one that names none. */
const namedText = (count: number): string[] =>
  count === 0
    ? []
    : [
        count === 1
          ? 'The security that it names can be ordered.'
          : `All ${count} securities that it names can be ordered.`,
      ]
