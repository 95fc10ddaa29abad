import { type Plan } from '@/core/plans/document'
import { db } from '@/store/db'
import { BEGUN } from '@/store/plans'

/** A plan that is begun in some tab of this browser: what another needs to take it over. */
export interface BegunRow {
  plan: Plan
  acts: boolean
  /** Environment and account that it was begun in: a tab of another does not take it over. */
  of: string
}

export const noteBegun = (row: BegunRow): Promise<unknown> =>
  db.settings.put({ name: `${BEGUN}${row.plan.id}`, value: row })

export const forgetBegun = (id: string): Promise<unknown> => db.settings.delete(`${BEGUN}${id}`)

export const begunRow = async (id: string): Promise<BegunRow | undefined> =>
  (await db.settings.get(`${BEGUN}${id}`))?.value as BegunRow | undefined

/** All that are noted as begun, whether their tab is there or not. */
export const begunRows = async (): Promise<BegunRow[]> =>
  (await db.settings.where('name').startsWith(BEGUN).toArray()).map(({ value }) => value as BegunRow)
