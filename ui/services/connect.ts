import { Access, type TokenSource } from '@/client'
import { type Environment } from '@/core/orders/access'
import { connectedTo, rememberAccount, rememberedAccount } from '../link/connection'
import { demoTokens } from './demoTokens'
import { type Services } from './services'

/**
 * Has the page talk with another key, environment or account, once the broker has taken it; plans that run go on in the accounts
 * that they were begun in. Throws BrokerProblem, and all stays as it was then.
 */
export async function connect(
  services: Services,
  to: { environment: Environment; source: TokenSource; account?: string },
): Promise<void> {
  const { broker, reports, quotes, holdings, plans } = services
  const { environment, source, account } = to
  const isDemo = source === demoTokens
  const same = broker.access.source === source && broker.access.world === environment
  const access = same ? broker.access : new Access(broker.access.brokerUrl, source, environment)
  await access.token()
  reports.end()
  quotes.end()
  holdings.forget()
  broker.access = access
  broker.account = account
  connectedTo(environment, account, isDemo)
  if (isDemo && environment === 'paper') rememberAccount(account)
  quotes.start()
  reports.start()
  await plans.connected()
}

/** Begins with the paper account that was last chosen in this browser. */
export function connectRemembered({ broker }: Services): void {
  const account = rememberedAccount()
  if (account === undefined) return
  broker.account = account
  connectedTo('paper', account, true)
}

/** Goes back to the key's first account, as the one that was remembered is not there. */
export function forgetAccount({ broker }: Services): void {
  rememberAccount(undefined)
  broker.account = undefined
  connectedTo('paper', undefined, true)
}
