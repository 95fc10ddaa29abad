import { create } from 'zustand'
import { type Environment } from '@/core/orders/access'

/** With which environment and account the page talks. A page begins on paper, with the account that was last chosen there. */
interface Connection {
  environment: Environment
  /** The account that was chosen; the key's first where none was. */
  account: string | undefined
  /** Its name as the broker tells it, once that is known. */
  name: string | undefined
  /** Environment and chosen account as one word, for the keys of queries. */
  of: string
  /** Whether the key in use is the one that the demo made. */
  isDemo: boolean
}

export const ofAccount = (environment: Environment, account: string | undefined): string =>
  `${environment} ${account ?? ''}`

export const useConnection = create<Connection>(() => ({
  environment: 'paper',
  account: undefined,
  name: undefined,
  of: ofAccount('paper', undefined),
  isDemo: true,
}))

export const connectedTo = (environment: Environment, account: string | undefined, isDemo: boolean): void =>
  useConnection.setState({
    ...{ environment, account, name: account, of: ofAccount(environment, account), isDemo },
  })

/** How environment and account are named where something is sent: nobody may take one for another. */
export const useWhere = (): string =>
  useConnection(({ environment, name }) =>
    `${environment === 'live' ? 'LIVE' : 'paper'} ${name ?? ''}`.trim(),
  )

/** The account that the page looks at, as one word that names it whether it was chosen or not. */
export const useAccountOf = (): string =>
  useConnection(({ environment, name }) => ofAccount(environment, name))

const REMEMBERED = 'heron-paper-account'

/** The paper account that was last chosen in this browser with the demo's key; undefined where none was. */
export function rememberedAccount(): string | undefined {
  try {
    return localStorage.getItem(REMEMBERED) ?? undefined
  } catch {
    return undefined
  }
}

/** Remembers a choice for the next visit. Live is never remembered. */
export function rememberAccount(account: string | undefined): void {
  try {
    if (account === undefined) localStorage.removeItem(REMEMBERED)
    else localStorage.setItem(REMEMBERED, account)
  } catch {
    // A browser that keeps nothing begins with the first account.
  }
}
