import { type Context } from 'hono'
import { allWorking } from '@/core/book/working'
import { type World } from '../world'
import { type Env } from './access'
import { Problem } from './problems'

/** Why a world has money at stake, in a few words; undefined if it has none. */
function atStakeIn({ accounts }: World): string | undefined {
  for (const { name, book } of accounts.values()) {
    if (Object.values(book.holdings).some(({ quantity }) => quantity !== 0)) return `${name} has positions`
    if (!allWorking(book.working).next().done) return `${name} has working orders`
  }
  return undefined
}

/**
 * Checks that a key may change what all accounts of a world share: its clock, holds and halts. In a rehearsal any key that may
 * use it may. Paper and live need manage-keys and a key for all accounts. They share one clock, so while the live
 * account has something at stake the clock needs a live key. Throws Problem if the key may not.
 */
export function mayChangeForAll(c: Context<Env>, what: 'clock' | 'halt'): void {
  const { world, key, bearer, streams } = c.var
  if (world.isRehearsal) return
  if (!bearer.scopes.includes('manage-keys'))
    throw new Problem(
      'missing-scope',
      `This affects every account of ${world.name}, and the key ${key.keyId} has only the scopes ${bearer.scopes.join(', ')}.`,
      'Use a key with the scope manage-keys, or begin a rehearsal, which has a clock and halts of its own.',
    )
  if (key.accounts !== 'all')
    throw new Problem(
      'beyond-own-rights',
      `This affects every account of ${world.name}, and the key ${key.keyId} speaks only for ${key.accounts.join(', ')}.`,
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
    'Use a live key at /live/market-time, or begin a rehearsal, which has a clock of its own.',
  )
}
