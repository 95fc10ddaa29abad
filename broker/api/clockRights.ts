import { type Context } from 'hono'
import { type Env } from './access'
import { Problem } from './problems'

/**
 * Lets pass who may change what is common to all accounts of a world: its clock, holds of it, halts. A rehearsal belongs to
 * whoever may use it. Paper and live share one clock, so there it takes manage-keys and a key that speaks for all accounts;
 * and, while the live account has something at stake, a key of live. Throws Problem else.
 */
export function mayChangeForAll(c: Context<Env>, what: 'clock' | 'halt'): void {
  const { world, key, bearer, streams } = c.var
  if (world.isRehearsal) return
  if (!bearer.scopes.includes('manage-keys'))
    throw new Problem(
      'missing-scope',
      `The key ${key.keyId} may not do this for everybody in ${world.name}: its scopes are ${bearer.scopes.join(', ')}.`,
      'Use a key with the scope manage-keys, or begin a rehearsal, which has a clock and halts of its own.',
    )
  if (key.accounts !== 'all')
    throw new Problem(
      'beyond-own-rights',
      `This concerns all accounts of ${world.name}, and the key ${key.keyId} speaks for ${key.accounts.join(', ')} only.`,
      'Use a key that speaks for all accounts, or begin a rehearsal.',
    )
  const live = world.neighbour
  if (what !== 'clock' || world.environment === 'live' || !live) return
  const at =
    live.atStake ??
    (streams.countOf(live) > 0 ? 'a program follows it, perhaps for an armed plan' : undefined)
  if (at === undefined) return
  throw new Problem(
    'live-at-stake',
    `Paper and live share one clock, and the live account is at stake: ${at}.`,
    'Use a key of live at /live/market-time, or begin a rehearsal, which has a clock of its own.',
  )
}
