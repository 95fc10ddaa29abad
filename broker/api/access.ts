import { type Bearer, type Environment, type Scope, type Tokens } from '../keys'
import { type World } from '../world'
import { Problem } from './problems'

export type Env = { Variables: { bearer: Bearer } }

/** What every group of routes is made with. */
export interface Parts {
  world: World
  tokens: Tokens
}

/** Every scope, and what it lets a token do. */
export const SCOPE_FOR: Record<Scope, string> = {
  'see-market': 'see market data',
  'see-account': 'see the account',
  'send-orders': 'send orders',
  'manage-keys': 'make keys',
}

/** Who an Authorization header speaks for. Throws Problem that says what is wrong with it. */
export async function bearerOf(parts: Parts, header: string | undefined): Promise<Bearer> {
  const token = /^Bearer\s+(\S+)$/i.exec(header ?? '')?.[1]
  if (!token) {
    throw new Problem(
      'token-missing',
      'The request bears no access token.',
      'POST key and secret to /paper/token and send the token as "Authorization: Bearer …".',
    )
  }
  const bearer = await parts.tokens.read(token)
  if (bearer === 'expired') {
    throw new Problem(
      'expired-token',
      `The access token has expired; tokens last ${parts.tokens.lifetimeSeconds} seconds.`,
      'Ask /paper/token for a new one.',
    )
  }
  if (bearer === 'unknown') {
    throw new Problem(
      'unknown-token',
      'The access token was not issued by this broker.',
      'Ask /paper/token of this broker for a new one.',
    )
  }
  return bearer
}

/** Lets pass who has the scope in this environment. Throws Problem that says exactly what is wrong else. */
export function mayAsk(parts: Parts, bearer: Bearer, scope: Scope, environment?: Environment): void {
  if (environment && bearer.environment !== environment) {
    throw new Problem(
      'other-environment',
      `The token is for the ${bearer.environment} environment; this is ${environment}.`,
      `Use a key of the ${environment} environment here.`,
    )
  }
  if (!parts.world.keys.has(bearer.keyId)) {
    throw new Problem(
      'unknown-key',
      `The key ${bearer.keyId} that this token was issued for is not known any more.`,
      'Create a new key, or check that this is the right broker.',
    )
  }
  if (!bearer.scopes.includes(scope)) {
    throw new Problem(
      'missing-scope',
      `The key ${bearer.keyId} may not ${SCOPE_FOR[scope]}: its scopes are ${bearer.scopes.join(', ')}.`,
      `Use a key with the scope ${scope}.`,
    )
  }
}
