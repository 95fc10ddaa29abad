import { type Account } from '../account/account'
import { type Scope, SCOPE_FOR } from '@/core/orders/access'
import { covers, isFrom, type Key } from '../keys/keys'
import { type Bearer, type Tokens } from '../keys/tokens'
import { type World } from '../world'
import { type Worlds } from '../worlds'
import { type Follower, type OpenStreams } from './openStreams'
import { type Pace } from './pace'
import { Problem } from './problems'

/** What is known of a request once the front has let it pass. */
export type Env = {
  Bindings: { incoming?: { socket: { remoteAddress?: string } } }
  Variables: { bearer: Bearer; key: Key; world: World; streams: OpenStreams }
}

/** What every group of routes is made with. */
export interface Parts {
  worlds: Worlds
  tokens: Tokens
  /** How fast keys may ask; as fast as they can where left out. */
  pace?: Pace
}

/** Who an Authorization header speaks for. Throws Problem that says what is wrong with it. */
export async function bearerOf(parts: Parts, header: string | undefined): Promise<Bearer> {
  const token = /^Bearer\s+(\S+)$/i.exec(header ?? '')?.[1]
  if (!token) {
    throw new Problem(
      'token-missing',
      'The request bears no access token.',
      'POST key and secret to token under the same base path, and send the token as "Authorization: Bearer …".',
    )
  }
  const bearer = await parts.tokens.read(token)
  if (bearer === 'expired') {
    throw new Problem(
      'expired-token',
      `The access token has expired; tokens last ${parts.tokens.lifetimeSeconds} seconds.`,
      'Ask for a new one with key and secret, as for this one.',
    )
  }
  if (bearer === 'unknown') {
    throw new Problem(
      'unknown-token',
      'The access token was not issued by this broker.',
      'Ask this broker for one with key and secret.',
    )
  }
  return bearer
}

/** Address that a request came from; undefined within the process. */
export const remoteOf = ({ env }: { env?: Env['Bindings'] }): string | undefined =>
  env?.incoming?.socket.remoteAddress

/** Refuses a key that has run out, or that is not taken from an address. Throws Problem. */
export function mayUse(key: Key, remote: string | undefined, now: number): void {
  if (key.expires !== undefined && Date.parse(key.expires) <= now)
    throw new Problem(
      'expired-key',
      `The key ${key.keyId} (${key.label}) has run out: it was good until ${key.expires}.`,
      'Make a new key, or let somebody with manage-keys make one.',
    )
  if (!isFrom(key.addresses, remote))
    throw new Problem(
      'blocked-address',
      `The key ${key.keyId} is not taken from ${remote}; it is from ${key.addresses!.join(', ')}.`,
      'Ask from there, or make a key for this address.',
    )
}

/** Lets pass who has the scope in this world; gives the key. Throws Problem that says exactly what is wrong else. */
export function mayAsk(world: World, bearer: Bearer, scope: Scope | undefined, remote?: string): Key {
  const { environment, keyring } = world
  if (bearer.environment !== environment) {
    throw new Problem(
      'other-environment',
      `The token is for the ${bearer.environment} environment; this is ${environment}.`,
      `Use a key of the ${environment} environment here.`,
    )
  }
  const key = keyring.keys.get(bearer.keyId)
  if (!key) {
    throw new Problem(
      'unknown-key',
      `The key ${bearer.keyId} that this token was issued for is not known any more.`,
      'It was withdrawn, or this is another broker. Create a new key.',
    )
  }
  if (key.renewals !== bearer.renewals)
    throw new Problem(
      'unknown-token',
      `The secret of the key ${key.keyId} was renewed after this token was issued.`,
      'Ask for a token with the new secret.',
    )
  mayUse(key, remote, keyring.wallNow())
  if (!owns(world, key))
    throw new Problem(
      'not-your-rehearsal',
      `The rehearsal ${world.name} belongs to another key, and ${key.keyId} does not speak for all of its accounts.`,
      'Begin one of your own with POST /rehearsals.',
    )
  if (scope && !bearer.scopes.includes(scope)) {
    throw new Problem(
      'missing-scope',
      `The key ${bearer.keyId} may not ${SCOPE_FOR[scope]}: its scopes are ${bearer.scopes.join(', ')}.`,
      `Use a key with the scope ${scope}.`,
    )
  }
  return key
}

/**
 * Whether a key may use a world. A rehearsal may be used by the key that made it, and by keys that speak for at least the same
 * accounts. A rehearsal of an earlier build has no owner: keys for all accounts may use it.
 */
export function owns({ isRehearsal, owner }: World, key: Key): boolean {
  if (!isRehearsal || owner?.keyId === key.keyId || key.accounts === 'all') return true
  const accounts = owner?.accounts ?? 'all'
  return accounts !== 'all' && accounts.every((one) => covers(key.accounts, one))
}

/** Accounts of a world that a key speaks for, the first being the one that is meant where none is named. */
export const accountsOf = (world: World, key: Key): Account[] =>
  [...world.accounts.values()].filter(({ name }) => world.isRehearsal || covers(key.accounts, name))

/** The account that is named, or the key's first. Throws Problem where there is none such, or the key may not see it. */
export function accountFor(world: World, key: Key, name: string | undefined): Account {
  const own = accountsOf(world, key)
  const found = name === undefined ? own[0] : own.find((one) => one.name === name)
  if (found) return found
  const names = own.map((one) => one.name).join(', ')
  throw new Problem(
    'unknown-account',
    name === undefined
      ? `The key ${key.keyId} speaks for no account that stands.`
      : `The key ${key.keyId} speaks for no account ${name.slice(0, 40)} in ${world.name}.`,
    names ? `It speaks for ${names}.` : 'Use a key that speaks for an account.',
  )
}

/** Why a stream must end: its world is gone, or its key is no longer valid. Undefined if it may go on. */
export function overFor({ world, bearer, remote }: Follower): string | undefined {
  if (world.isClosed) return `${world.name} is there no more.`
  try {
    mayAsk(world, bearer, undefined, remote)
    return undefined
  } catch (error) {
    if (error instanceof Problem) return error.detail
    throw error
  }
}
