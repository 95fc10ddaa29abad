import { type Environment } from '@/core/orders/access'
import { type Plan } from '@/core/plans/document'
import { db } from '@/store/db'
import { BEGUN } from '@/store/plans'

/** A plan that is begun in some tab of this browser: what another, or this one after a reload, needs to go on with it. */
export interface BegunRow {
  plan: Plan
  acts: boolean
  /** Environment and account that it was begun in, also as one word. */
  environment: Environment
  account: string
  of: string
  /** World of the broker that the account is in. */
  worldId: string
  /** Key that it trades with; undefined for the one that the demo made. */
  keyId?: string
  /** While it is being begun: what holds then counts as beginning then. */
  atOnce?: boolean
  /** When its tab was opened, and its last sign of life, by the wall clock. */
  tab: number
  alive: number
  /** Why it stands still, once it does. */
  idle?: string
}

export const noteBegun = (row: BegunRow): Promise<unknown> =>
  db.settings.put({ name: `${BEGUN}${row.plan.id}`, value: row })

/** Changes what is noted of a plan that is begun; one that was stopped meanwhile stays forgotten. */
export const changeBegun = (id: string, part: Partial<BegunRow>): Promise<unknown> =>
  db.settings
    .where('name')
    .equals(`${BEGUN}${id}`)
    .modify((row) => {
      row.value = { ...(row.value as BegunRow), ...part }
    })

export const forgetBegun = (id: string): Promise<unknown> => db.settings.delete(`${BEGUN}${id}`)

export const begunRow = async (id: string): Promise<BegunRow | undefined> =>
  (await db.settings.get(`${BEGUN}${id}`))?.value as BegunRow | undefined

/** All that are noted as begun, whether their tab is there or not; those of an earlier build say too little to go on with. */
export const begunRows = async (): Promise<BegunRow[]> =>
  (await db.settings.where('name').startsWith(BEGUN).toArray())
    .map(({ value }) => value as BegunRow)
    .filter((row) => row.account !== undefined)

/** A plan whose tab is gone goes on by itself for so long, milliseconds of the wall clock. */
export const GOES_ON_FOR = 15 * 60_000

/** What becomes of a plan whose tab is gone: it goes on by itself, or it waits, and why. */
export type Fate = 'goes on' | 'live' | 'late' | 'key'

/**
 * What becomes of a plan that was begun when no tab runs it. Live always asks; so does a plan that gave its last sign of life too
 * long ago; one whose key this page has not got waits for that. `hasKey`: whether the page can trade with its key.
 */
export function fateOf(
  { environment, alive }: Pick<BegunRow, 'environment' | 'alive'>,
  now: number,
  hasKey: boolean,
): Fate {
  if (environment === 'live') return 'live'
  if (now - alive > GOES_ON_FOR) return 'late'
  return hasKey ? 'goes on' : 'key'
}
