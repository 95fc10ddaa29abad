import { SCOPE_FOR, SCOPES, type Scope } from '@/core/orders/access'

const joined = new Intl.ListFormat('en', { style: 'long', type: 'conjunction' })

/** What scopes let a key do, in words. */
export const mayText = (scopes: readonly Scope[]): string =>
  scopes.length === SCOPES.length ? 'do everything' : joined.format(scopes.map((scope) => SCOPE_FOR[scope]))

/** Accounts or venues of a key, in words. */
export const allOr = (these: 'all' | readonly string[], none: string): string =>
  these === 'all' ? 'all' : these.join(', ') || none
