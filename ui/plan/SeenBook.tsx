import { useLiveQuery } from 'dexie-react-hooks'
import { DateTime } from 'luxon'
import { useState } from 'react'
import { Became } from '@/core/plans/seen'
import { db, type SeenRow } from '@/store/db'
import { useServices, useSession, useWorldId } from '../link/LinkProvider'
import { dateText, clockText } from '../shell/marketTime'
import { InlineAction, InlineChoice, InlineText } from '../ticket/Inline'
import css from './Plan.module.css'

const SHOWN = 50

/** What a plan has seen: searched, corrected with a note, or begun afresh. What is corrected holds at once for a plan that runs here. */
export function SeenBook({ plan }: { plan: string }) {
  const rows = useLiveQuery(() => db.seen.where('plan').equals(plan).toArray(), [plan])
  const [search, setSearch] = useState('')
  const zone = useSession().data?.zone
  const { plans } = useServices()
  const worldId = useWorldId()
  if (!rows || rows.length === 0) return null
  const found = rows
    .filter((row) =>
      [row.key, row.symbol, row.text, row.note].some((one) =>
        one?.toLowerCase().includes(search.toLowerCase()),
      ),
    )
    .sort((a, b) => b.at - a.at)
  const put = (row: SeenRow, part: Partial<SeenRow>) => {
    // What the trader says of it is no more waiting.
    const { waits: _waits, ...known } = row
    const next = { ...known, ...part }
    void db.seen.put(next)
    if ((row.world ?? worldId) === worldId)
      plans.tellAll({ is: 'seen', key: row.key, became: next.became, note: next.note }, plan)
  }
  // What it has seen stays, under another name: it blocks nothing any more.
  const afresh = () =>
    db.transaction('rw', db.seen, async () => {
      const name = `${plan} until ${new Date().toISOString()}`
      await db.seen.bulkPut(rows.map((row) => ({ ...row, plan: name })))
      await db.seen.bulkDelete(rows.map((row): [string, string] => [row.plan, row.key]))
    })
  return (
    <details className={css.between}>
      <summary>{rows.length} in its seen book</summary>
      <p>
        <InlineText label="Search the seen book" among={[]} value={search} onChange={setSearch} />{' '}
        <InlineAction label="Begin the seen book afresh" onAct={() => void afresh()}>
          begin afresh, keeping this one
        </InlineAction>
      </p>
      <ul className={css.changes} aria-label="Seen book">
        {found.slice(0, SHOWN).map((row) => (
          <li key={row.key}>
            {dateText(DateTime.fromMillis(row.at, { zone: zone ?? 'utc' }).toISO()!)}{' '}
            {clockText(new Date(row.at).toISOString(), false, zone)} <b>{row.symbol}</b> {row.key}{' '}
            <InlineChoice
              label={`What became of ${row.key}`}
              value={row.became}
              options={Became.options.map((one) => [one, one.toLowerCase()] as const)}
              onChange={(became) => put(row, { became })}
            />{' '}
            {row.text}{' '}
            {worldId !== undefined && (row.world ?? worldId) !== worldId && (
              <span className="soft">in another world, where it counts </span>
            )}
            <InlineText
              label={`Note on ${row.key}`}
              among={[]}
              value={row.note ?? ''}
              onChange={(note) => put(row, { note })}
            />
          </li>
        ))}
      </ul>
      {found.length > SHOWN && <p className="soft">{found.length - SHOWN} more; search for them</p>}
    </details>
  )
}
