'use client'
import { Button, Progress } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { DateTime } from 'luxon'
import { useState } from 'react'
import { keptFrames } from '@/store/barStore'
import { useSession } from '../link/LinkProvider'
import { type Frame } from '../market/frames'
import { forget, upToDate, useUpdates } from '../market/marketData'
import { useMarket } from '../market/useMarket'
import { type Column, DataTable } from '../table/DataTable'

/** "1 day | optionvolume" back as the frame that it names. */
function frameOf(name: string): Frame {
  const parts = name.split(' | ')
  return {
    every: parts[0],
    soFar: parts.includes('so far'),
    extras: parts
      .filter((p) => p !== parts[0] && p !== 'so far')
      .flatMap((p) => p.split('+')) as Frame['extras'],
  }
}

interface Row {
  frame: string
  securities: number
  bytes: number
  keptAt: number
  newest: number
  oldest: number
  behind: number
}

const ZONE = 'America/Halifax'
const when = (moment: number) =>
  DateTime.fromMillis(moment, { zone: ZONE }).setLocale('en').toFormat('ccc d LLL yyyy, HH:mm')

/** Every frame of the market's bars that the browser keeps: how fresh it is; brought up to date with what is missing. */
export function KeptBars() {
  const market = useMarket()
  const session = useSession().data
  const updates = useUpdates((s) => s.updates)
  const kept = useLiveQuery(keptFrames, [], [])
  const [abort, setAbort] = useState<AbortController>()
  const rows = kept.map((frame): Row => {
    const ends = frame.ends.filter(Number.isFinite)
    const newest = Math.max(...ends)
    return {
      ...frame,
      newest,
      oldest: Math.min(...ends),
      behind: ends.filter((end) => newest - end >= 12 * 3_600_000).length + frame.ends.length - ends.length,
    }
  })
  const run = async () => {
    if (!market || !session) return
    const mine = new AbortController()
    setAbort(mine)
    const symbols = market.securities.map((s) => s.symbol)
    const names = kept.length > 0 ? kept.map((k) => k.frame) : ['1 day']
    for (const name of names) {
      const version = `${session.date} ${session.state} by hand ${Date.now()}`
      await upToDate({
        broker: market.broker,
        frame: frameOf(name),
        symbols,
        version,
        signal: mine.signal,
      }).catch(() => undefined)
      if (mine.signal.aborted) break
    }
    setAbort(undefined)
  }
  const columns: Column<Row>[] = [
    { id: 'frame', header: 'Bars', value: (row) => row.frame.replaceAll(' | ', ', with ') },
    { id: 'securities', header: 'Securities', right: true, value: (row) => row.securities },
    { id: 'newest', header: 'Newest bar', value: (row) => row.newest, cell: (row) => when(row.newest) },
    {
      id: 'behind',
      header: 'Behind it',
      right: true,
      value: (row) => row.behind,
      cell: (row) =>
        row.behind === 0 ? (
          <span className="soft">none</span>
        ) : (
          <span className="warning" title={`the oldest ends ${when(row.oldest)}`}>
            {row.behind}
          </span>
        ),
    },
    {
      id: 'bytes',
      header: 'MB',
      right: true,
      value: (row) => row.bytes,
      cell: (row) => (row.bytes / 1e6).toFixed(1),
    },
    {
      id: 'last',
      header: 'Last update',
      value: (row) => row.keptAt,
      cell: (row) => {
        const update = updates[row.frame]
        if (update?.state === 'under way') return 'under way'
        if (update?.state === 'failed') return <span className="refusal">{update.problem}</span>
        return update
          ? `${update.fetched.toLocaleString('en-US')} bars came${update.problem ? `; ${update.problem}` : ''}`
          : DateTime.fromMillis(row.keptAt).toFormat('HH:mm:ss')
      },
    },
    {
      id: 'forget',
      header: '',
      value: () => undefined,
      cell: (row) => (
        <Button size="xs" variant="subtle" onClick={() => forget(row.frame)}>
          forget
        </Button>
      ),
    },
  ]
  const under = Object.values(updates).find((u) => u.state === 'under way')
  return (
    <section aria-label="Bars of the market" style={{ marginBottom: 22 }}>
      <h2>Bars of the market, kept here</h2>
      <p className="soft" style={{ margin: '4px 0 8px' }}>
        Scans fetch what they need. An update fetches only what is missing; broken off, it goes on where it
        stopped.
      </p>
      {rows.length === 0 ? (
        <p>None yet: they come with the first scan.</p>
      ) : (
        <div style={{ display: 'flex', maxHeight: 220 }}>
          <DataTable label="Bars kept here" rows={rows} columns={columns} idOf={(row) => row.frame} wrap />
        </div>
      )}
      {under && (
        <>
          <Progress
            value={(100 * under.done) / Math.max(1, under.of)}
            size={3}
            mt={8}
            aria-label="Update under way"
          />
          <p className="soft">
            {under.done.toLocaleString('en-US')} of {under.of.toLocaleString('en-US')} securities,{' '}
            {under.fetched.toLocaleString('en-US')} bars came
          </p>
        </>
      )}
      <p style={{ marginTop: 8 }}>
        {abort ? (
          <Button variant="default" onClick={() => abort.abort()}>
            Stop
          </Button>
        ) : (
          <Button onClick={run} disabled={!market || !session}>
            Bring up to date
          </Button>
        )}
      </p>
    </section>
  )
}
