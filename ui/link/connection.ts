import { create } from 'zustand'
import { type Environment } from '@/core/orders/access'

/** With which environment and account the page talks. A page begins on paper, whatever it was before. */
interface Connection {
  environment: Environment
  /** The account that was chosen; the key's first where none was. */
  account: string | undefined
  /** Both as one word, for the keys of queries. */
  of: string
  /** Whether the key in use is the one that the demo made. */
  isDemo: boolean
}

const of = (environment: Environment, account: string | undefined): string =>
  `${environment} ${account ?? ''}`

export const useConnection = create<Connection>(() => ({
  environment: 'paper',
  account: undefined,
  of: of('paper', undefined),
  isDemo: true,
}))

export const connectedTo = (environment: Environment, account: string | undefined, isDemo: boolean): void =>
  useConnection.setState({ environment, account, of: of(environment, account), isDemo })

/** How the environment is named where something is sent: nobody may take one for the other. */
export const useWhere = (): string => useConnection((s) => (s.environment === 'live' ? 'LIVE' : 'paper'))
