'use client'
import { NumberInput, Select } from '@mantine/core'
import { db, type SavedScan, type Schedule } from '@/store/db'
import css from './Find.module.css'

const KINDS = {
  never: 'only when asked',
  every: 'every so many minutes of a session',
  'after open': 'once a session, some minutes after the open',
  'after close': 'once a session, after the close',
} as const

/** When a saved scan runs by itself while the application is open. */
export function ScheduleChoice({ scan }: { scan: SavedScan }) {
  const { schedule } = scan
  const put = (next: Schedule | undefined) => void db.scans.update(scan.id, { schedule: next })
  const choose = (kind: string | null) => {
    if (kind === 'every') put({ is: 'every', minutes: 15 })
    else if (kind === 'after open') put({ is: 'after open', minutes: 25 })
    else if (kind === 'after close') put({ is: 'after close' })
    else put(undefined)
  }
  return (
    <div className={css.row}>
      <Select
        size="xs"
        label="Runs"
        allowDeselect={false}
        data={Object.entries(KINDS).map(([value, label]) => ({ value, label }))}
        value={schedule?.is ?? 'never'}
        onChange={choose}
        style={{ flex: 1 }}
      />
      {schedule && schedule.is !== 'after close' && (
        <NumberInput
          size="xs"
          label="Minutes"
          w={84}
          min={schedule.is === 'every' ? 1 : 0}
          max={390}
          allowDecimal={false}
          value={schedule.minutes}
          onChange={(minutes) => typeof minutes === 'number' && put({ ...schedule, minutes })}
        />
      )}
    </div>
  )
}
