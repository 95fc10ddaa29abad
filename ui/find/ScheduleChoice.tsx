'use client'
import { NumberInput, Select } from '@mantine/core'
import { db, type SavedScan, type Schedule } from '@/store/db'
import { useVenues } from '../link/LinkProvider'
import css from './Find.module.css'
import { venueName } from './useUniverse'

const KINDS = {
  never: 'only when asked',
  every: 'every so many minutes of a session',
  'before open': 'before the open, once a session',
  'after open': 'after the open, once a session',
  'after close': 'after the close, once a session',
} as const

/** When a saved scan runs by itself while the application is open. */
export function ScheduleChoice({ scan }: { scan: SavedScan }) {
  const { schedule } = scan
  const venues = useVenues().data ?? []
  const put = (next: Schedule | undefined) => void db.scans.update(scan.id, { schedule: next })
  const choose = (kind: string | null) => {
    const venue = schedule?.venue
    if (kind === 'every') put({ is: 'every', minutes: 15, venue })
    else if (kind === 'before open') put({ is: 'before open', minutes: 40, venue })
    else if (kind === 'after open') put({ is: 'after open', minutes: 25, venue })
    else if (kind === 'after close') put({ is: 'after close', venue })
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
          w={76}
          min={schedule.is === 'after open' ? 0 : 1}
          max={schedule.is === 'before open' ? 600 : 390}
          allowDecimal={false}
          value={schedule.minutes}
          onChange={(minutes) => typeof minutes === 'number' && put({ ...schedule, minutes })}
        />
      )}
      {schedule && venues.length > 1 && (
        <Select
          size="xs"
          label="Session of"
          w={112}
          allowDeselect={false}
          data={venues.map(({ mic }) => ({ value: mic, label: venueName(mic) }))}
          value={schedule.venue ?? venues[0].mic}
          onChange={(venue) => venue && put({ ...schedule, venue })}
        />
      )}
    </div>
  )
}
