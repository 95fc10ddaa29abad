import { Access, type TokenSource } from '@/client'
import { type Environment } from '@/core/orders/access'
import { connectedTo } from '../link/connection'
import { demoTokens } from './demoTokens'
import { type Services } from './services'

/**
 * Has the page talk with another key, environment or account, once the broker has taken it. Throws BrokerProblem, and
 * all stays as it was else.
 */
export async function connect(
  services: Services,
  to: { environment: Environment; source: TokenSource; account?: string },
): Promise<void> {
  const { broker, reports, quotes, holdings, plans } = services
  const { environment, source, account } = to
  const same = broker.access.source === source && broker.access.world === environment
  const access = same ? broker.access : new Access(broker.access.brokerUrl, source, environment)
  await access.token()
  reports.end()
  quotes.end()
  // A plan trades in the account that it was begun with.
  await plans.stopAllHere()
  holdings.forget()
  broker.access = access
  broker.account = account
  connectedTo(environment, account, source === demoTokens)
  quotes.start()
  reports.start()
}
