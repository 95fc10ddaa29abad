'use client'
import { Button, Progress } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { DateTime } from 'luxon'
import { useMemo, useState } from 'react'
import { decimal } from '@/core/market/money'
import { sayEnd } from '@/core/market/moments'
import { type KeptFrame, keptFrames } from '@/store/barStore'
import { useServices, useSession, useVenues } from '../link/LinkProvider'
import { type Frame, timeframeOf } from '../market/frames'
import { useUpdates } from '../services/updates'
import { useMarket } from '../market/useMarket'
import { type Column, DataTable } from '../table/DataTable'
import { everyOf, useLastBars } from './useLastBars'

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

/** The last bar of one security that is kept here. */
interface LastBar {
  symbol: string
  end: number
  zone: string
  behind: boolean
}

interface Row extends KeptFrame {
  bars: LastBar[]
  newest: LastBar | undefined
  behind: number
}

/** Up to when bars of a frame go, in the zone of the security's venue. */
const upTo = (frame: string, end: number, zone: string) =>
  Number.isFinite(end) ? sayEnd(timeframeOf(everyOf(frame)), zone, end) : 'no bar'

const count = (n: number) => n.toLocaleString('en-US')

/** The frames that are kept, each security held against the last bar that the market has. */
function useRows(listed: ReadonlyMap<string, string>, zones: ReadonlyMap<string, string>): Row[] {
  const kept = useLiveQuery(keptFrames, [])
  const everys = useMemo(() => [...new Set((kept ?? []).map((k) => everyOf(k.frame)))].sort(), [kept])
  const last = useLastBars(everys)
  return useMemo(
    () =>
      (kept ?? []).map((frame): Row => {
        const newestOf = last?.[everyOf(frame.frame)]
        const bars = frame.last.map(({ symbol, end }) => {
          const venue = listed.get(symbol) ?? ''
          const due = newestOf?.[venue]
          return { symbol, end, zone: zones.get(venue) ?? 'UTC', behind: !(end >= (due ?? -Infinity)) }
        })
        const newest = bars.reduce<LastBar | undefined>(
          (most, bar) => (bar.end > (most?.end ?? -Infinity) ? bar : most),
          undefined,
        )
        return { ...frame, bars, newest, behind: bars.filter((bar) => bar.behind).length }
      }),
    [kept, last, listed, zones],
  )
}

/** Every frame of the market's bars that the browser keeps: how fresh it is; brought up to date with what is missing. */
export function KeptBars() {
  const market = useMarket()
  const session = useSession().data
  const updates = useUpdates((s) => s.updates)
  const listed = useMemo(() => new Map((market?.securities ?? []).map((s) => [s.symbol, s.venue])), [market])
  const venues = useVenues().data
  const zones = useMemo(() => new Map((venues ?? []).map((v) => [v.mic, v.zone])), [venues])
  const rows = useRows(listed, zones)
  const { bars } = useServices()
  const [abort, setAbort] = useState<AbortController>()
  const [chosen, setChosen] = useState<string>()
  const run = async () => {
    if (!market || !session) return
    const mine = new AbortController()
    setAbort(mine)
    const symbols = market.securities.map((s) => s.symbol)
    const names = rows.length > 0 ? rows.map((row) => row.frame) : ['1 day']
    for (const name of names) {
      const version = `${session.date} ${session.state} by hand ${Date.now()}`
      const ask = { frame: frameOf(name), symbols, version, signal: mine.signal }
      // Why one failed stands in its row.
      await bars.upToDate(ask).catch(() => undefined)
      if (mine.signal.aborted) break
    }
    setAbort(undefined)
  }
  const columns: Column<Row>[] = [
    { id: 'frame', header: 'Bars', value: (row) => row.frame.replaceAll(' | ', ', with ') },
    {
      id: 'securities',
      header: 'Securities',
      right: true,
      value: (row) => row.bars.length,
      cell: (row) =>
        row.bars.length < listed.size ? (
          <span className="warning">
            {count(row.bars.length)} of {count(listed.size)}
          </span>
        ) : (
          count(row.bars.length)
        ),
    },
    {
      id: 'newest',
      header: 'Newest bar',
      value: (row) => row.newest?.end,
      cell: (row) => (row.newest ? upTo(row.frame, row.newest.end, row.newest.zone) : 'no bar'),
    },
    {
      id: 'behind',
      header: 'Behind the market',
      right: true,
      value: (row) => row.behind,
      cell: (row) =>
        row.behind === 0 ? (
          <span className="soft">none</span>
        ) : (
          <span className="warning">{count(row.behind)}</span>
        ),
    },
    {
      id: 'bytes',
      header: 'MB',
      right: true,
      value: (row) => row.bytes,
      cell: (row) => decimal(row.bytes / 1e6, 1),
    },
    {
      id: 'last',
      header: 'Last update',
      value: (row) => row.keptAt,
      cell: (row) => {
        const update = updates[row.frame]
        if (update?.state === 'under way') return 'under way'
        if (update?.state === 'stopped') return <span className="warning">{update.problem}</span>
        if (update?.state === 'failed') return <span className="refusal">{update.problem}</span>
        if (!update) return `at ${DateTime.fromMillis(row.keptAt).toFormat('HH:mm:ss')} your time`
        const came = update.fetched === 0 ? 'nothing was missing' : `${count(update.fetched)} bars came`
        return update.problem ? `${came}; ${update.problem}` : came
      },
    },
    {
      id: 'forget',
      header: '',
      value: () => undefined,
      cell: (row) => (
        <Button
          size="xs"
          variant="subtle"
          aria-label={`Forget the bars of ${row.frame}`}
          onClick={() => bars.forget(row.frame)}
        >
          forget
        </Button>
      ),
    },
  ]
  const under = Object.values(updates).find((u) => u.state === 'under way')
  const shown = rows.find((row) => row.frame === chosen)
  return (
    <section aria-label="Bars of the market" style={{ marginBottom: 22 }}>
      <h2>Bars of the market, kept here</h2>
      <p className="soft" style={{ margin: '4px 0 8px' }}>
        Scans fetch what they need. An update fetches only what is missing; broken off, it goes on where it
        stopped. Choose a line to see the last bar of each security.
      </p>
      {rows.length === 0 ? (
        <p>None yet: they come with the first scan.</p>
      ) : (
        <div style={{ display: 'flex', maxHeight: 220 }}>
          <DataTable
            label="Bars kept here"
            rows={rows}
            columns={columns}
            idOf={(row) => row.frame}
            selected={chosen}
            onSelect={(row) => setChosen(row.frame === chosen ? undefined : row.frame)}
            wrap
          />
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
            {count(under.done)} of {count(under.of)} securities, {count(under.fetched)} bars came
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
      {shown && <LastBars row={shown} />}
    </section>
  )
}

/** The last bar of every security of a frame, those that are furthest behind first. */
function LastBars({ row }: { row: Row }) {
  const columns: Column<LastBar>[] = [
    { id: 'symbol', header: 'Symbol', value: (b) => b.symbol, cell: (b) => <strong>{b.symbol}</strong> },
    {
      id: 'end',
      header: 'Last bar ended',
      value: (b) => b.end,
      cell: (b) => upTo(row.frame, b.end, b.zone),
    },
    {
      id: 'behind',
      header: '',
      value: (b) => Number(b.behind),
      cell: (b) => (b.behind ? <span className="warning">behind the market</span> : null),
    },
  ]
  return (
    <div style={{ display: 'flex', height: 240, maxWidth: 560, marginTop: 8 }}>
      <DataTable
        key={row.frame}
        label={`Last bars of ${row.frame}`}
        rows={row.bars}
        columns={columns}
        idOf={(b) => b.symbol}
        initialSort={[{ id: 'end', desc: false }]}
      />
    </div>
  )
}
