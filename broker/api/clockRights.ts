import { type Context } from 'hono'
import { allWorking } from '@/core/book/working'
import { type World } from '../world'
import { type Env } from './access'
import { Problem } from './problems'

/** What an account of a world has in the market, in a few words; undefined where nothing. */
function atStakeIn({ accounts }: World): string | undefined {
  for (const { name, book } of accounts.values()) {
    if (Object.values(book.holdings).some(({ quantity }) => quantity !== 0)) return `${name} has positions`
    if (!allWorking(book.working).next().done) return `${name} has working orders`
  }
  return undefined
}

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
    atStakeIn(live) ??
    (streams.countOf(live) > 0 ? 'a program follows it, perhaps for an armed plan' : undefined)
  if (at === undefined) return
  throw new Problem(
    'live-at-stake',
    `Paper and live share one clock, and the live account is at stake: ${at}.`,
    'Use a key of live at /live/market-time, or begin a rehearsal, which has a clock of its own.',
  )
}
