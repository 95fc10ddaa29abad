import { type Broker, type TokenSource } from '@/client'
import { type Environment } from '@/core/orders/access'
import { type PlansWhere } from '@/workers/plans.protocol'
import { ofAccount, useConnection } from '../link/connection'
import { type BegunRow } from './begun'
import { demoTokens } from './demoTokens'

/** An account as plans trade in it, and the key that they do it with. */
export interface Place {
  environment: Environment
  account: string
  /** Environment and account as one word. */
  of: string
  /** Undefined for the key that the demo made. */
  keyId?: string
}

/** Knows the keys that this page has used, so that plans go on with theirs when the page uses another. */
export class Places {
  private readonly sources = new Map<string, TokenSource>()
  /** Key by environment and account, of those that plans were begun in. */
  private readonly keys = new Map<string, string | undefined>()

  constructor(private readonly broker: Broker) {}

  /** The account that the page looks at. Throws BrokerProblem if the broker is away, and Error for a key without an account. */
  async current(): Promise<Place> {
    const { environment, isDemo } = useConnection.getState()
    const { source } = this.broker.access
    const who = await this.broker.whoami()
    const account = this.broker.account ?? who.account
    if (account === undefined) throw new Error('The key in use speaks for no account. Use another key.')
    const place: Place = { environment, account, of: ofAccount(environment, account) }
    if (!isDemo) {
      place.keyId = who.key.keyId
      this.sources.set(place.keyId, source)
    }
    this.keys.set(place.of, place.keyId)
    return place
  }

  /** Market time where the page looks. Throws BrokerProblem if the broker is away. */
  now = async (): Promise<number> => Date.parse((await this.broker.clock()).now)

  /** Whether this page can trade with the key of a plan that was begun. */
  has = ({ keyId }: Pick<BegunRow, 'keyId'>): boolean => keyId === undefined || this.sources.has(keyId)

  /** The account of a plan that was begun. */
  of({ environment, account, of, keyId }: BegunRow): Place {
    this.keys.set(of, keyId)
    return { environment, account, of, ...(keyId === undefined ? {} : { keyId }) }
  }

  where = ({ environment, account }: Place): PlansWhere => ({
    ...{ brokerUrl: this.broker.access.brokerUrl, world: environment, account },
  })

  text = ({ environment, account }: Place): string =>
    `${environment === 'live' ? 'LIVE' : 'paper'} ${account}`

  /** Where tokens for an account come from: the key that its plans trade with. */
  sourceOf({ world, account }: PlansWhere): TokenSource {
    const keyId = this.keys.get(ofAccount(world as Environment, account))
    return keyId === undefined ? demoTokens : this.sources.get(keyId)!
  }
}
