import { DayView } from '@/core/plans/view'
import { db } from './db'

const NAME = 'dayView'

/** What the trader has said of a session day last; undefined where nothing was said, or of another day. */
export async function dayView(date: string): Promise<DayView | undefined> {
  const read = DayView.safeParse((await db.settings.get(NAME))?.value)
  return read.success && read.data.date === date ? read.data : undefined
}

export const keepDayView = (view: DayView): Promise<unknown> => db.settings.put({ name: NAME, value: view })
