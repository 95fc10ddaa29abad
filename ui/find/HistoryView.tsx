'use client'
import { Button, Progress } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { type Checked } from '@/core/rules'
import { decimal, priceText } from '@/core/market/money'
import { sayStart, stampOf } from '@/core/market/moments'
import { followed, type Followed } from '@/core/scan/followed'
import { type Hit } from '@/core/scan/history'
import { digitsOf, INTERVAL, sayFollowed } from '@/core/scan/sayFollowed'
import { noPast } from '../market/frames'
import { useServices } from '../link/LinkProvider'
import { type Source } from '../services/market'
import { useMarket } from '../market/useMarket'
import { Change } from '../shell/Change'
import { type Column, DataTable } from '../table/DataTable'
import { exportTable } from '../table/exportTable'
import css from './Find.module.css'
import { FollowedChart } from './FollowedChart'
import { useFind } from './findStore'
import { sayProblem } from './useScan'

const AHEAD = [1, 5, 20]

/** When the rule was true before, of everything in the universe, and what came after, against all other bars. */
export function HistoryView({
  source,
  among,
  checked,
  open,
}: {
  source: Source | undefined
  among: readonly string[] | undefined
  checked: Checked
  /** To the chart, at that moment. */
  open(hit: Hit): void
}) {
  const market = useMarket()
  const { scans } = useServices()
  const rule = useFind((s) => s.rule)
  const [progress, setProgress] = useState(0)
  const [which, setWhich] = useState(1)
  const [selected, setSelected] = useState<string>()
  const { data, error, isFetching } = useQuery({
    queryKey: ['history', rule, JSON.stringify(source), among],
    enabled:
      market !== undefined && source !== undefined && checked.type !== undefined && noPast(rule) === '',
    staleTime: Infinity,
    queryFn: async ({ signal }) => {
      const progress = (done: number, of: number) => setProgress((100 * done) / of)
      const counts = await scans.history(
        market!,
        source!,
        { rule: checked.tree!, ahead: AHEAD, among },
        progress,
        signal,
      )
      if (!counts) return null
      const summaries: Followed[] = []
      for (const k of AHEAD.keys()) {
        // One at a time, so that the page stays alive over tens of thousands of hits.
        await new Promise((resolve) => setTimeout(resolve))
        summaries.push(followed(counts, k))
      }
      return { every: counts.every, summaries, hits: [...counts.hits].sort((a, b) => b.time - a.time) }
    },
  })
  const columns: Column<Hit>[] = [
    {
      id: 'symbol',
      header: 'Symbol',
      value: (hit) => hit.symbol,
      cell: (hit) => <strong>{hit.symbol}</strong>,
    },
    {
      id: 'when',
      header: 'When',
      value: (hit) => stampOf(data!.every, hit.zone, hit.time),
      cell: (hit) => sayStart(data!.every, hit.zone, hit.time),
    },
    {
      id: 'close',
      header: 'Close',
      right: true,
      value: (hit) => hit.close,
      cell: (hit) => priceText(hit.close),
    },
    ...AHEAD.map((n, k): Column<Hit> => ({
      id: `after ${n}`,
      header: `${n} bar${n === 1 ? '' : 's'} later %`,
      right: true,
      value: (hit) => hit.changes[k],
      cell: (hit) =>
        Number.isNaN(hit.changes[k]) ? (
          <span className="soft">not yet</span>
        ) : (
          <Change value={hit.changes[k]} decimals={2} />
        ),
    })),
  ]
  if (!checked.type) return <p className="soft">Write a sound rule to see when it was true before.</p>
  if (noPast(rule)) return <p className="soft">{noPast(rule)}</p>
  if (error) return <p className="refusal">{sayProblem(error)}</p>
  if (!data && isFetching)
    return (
      <div>
        <p className="soft">Looking through the past …</p>
        <Progress value={progress} size={3} aria-label="Looking through the past" />
      </div>
    )
  if (!data || data.hits.length === 0)
    return <p className="soft">{data === undefined ? '' : 'The rule never came true on these bars.'}</p>
  const { summaries, hits } = data
  const chosen = summaries[which]
  return (
    <div className={css.history}>
      <p className={css.lean}>{sayFollowed(hits.length, chosen)}</p>
      <div className={css.historyTop}>
        <SummaryTable all={summaries} which={which} setWhich={setWhich} />
        <FollowedChart followed={chosen} />
      </div>
      <div className={css.resultBar}>
        <strong>{hits.length.toLocaleString('en-US')} times</strong>
        <span style={{ flex: 1 }} />
        <Button size="xs" variant="default" onClick={() => exportTable('history', 'csv', hits, columns)}>
          Export CSV
        </Button>
        <Button size="xs" variant="default" onClick={() => exportTable('history', 'xlsx', hits, columns)}>
          Export XLSX
        </Button>
      </div>
      <DataTable
        label="When the rule came true"
        rows={hits}
        columns={columns}
        idOf={(hit) => `${hit.symbol} ${hit.time}`}
        selected={selected}
        onSelect={(hit) => {
          setSelected(`${hit.symbol} ${hit.time}`)
          useFind.setState({ selected: hit.symbol })
        }}
        onOpen={open}
      />
    </div>
  )
}

function SummaryTable({
  all,
  which,
  setWhich,
}: {
  all: readonly Followed[]
  which: number
  setWhich(k: number): void
}) {
  const percent = (x: number) => (Number.isNaN(x) ? '–' : `${decimal(x, 0)} %`)
  const digits = Math.max(...all.map(digitsOf))
  return (
    <table className={css.summary} aria-label="What followed">
      <thead>
        <tr>
          <th scope="col">After</th>
          <th scope="col">Hits</th>
          <th scope="col">On their own</th>
          <th scope="col">Middle %</th>
          <th scope="col">{INTERVAL}, %</th>
          <th scope="col">Rose</th>
          <th scope="col">Other bars: middle %</th>
          <th scope="col">Rose</th>
        </tr>
      </thead>
      <tbody>
        {all.map((f, k) => (
          <tr key={f.ahead} data-chosen={k === which || undefined}>
            <th scope="row">
              <button type="button" className="blank" aria-pressed={k === which} onClick={() => setWhich(k)}>
                {f.ahead} bar{f.ahead === 1 ? '' : 's'}
              </button>
            </th>
            <td>{f.cases.toLocaleString('en-US')}</td>
            <td>{f.independent.toLocaleString('en-US')}</td>
            <td>
              <Change value={f.median} decimals={digits} />
            </td>
            <td>{Number.isNaN(f.low) ? '–' : `${decimal(f.low, digits)} … ${decimal(f.high, digits)}`}</td>
            <td>{percent(f.rose)}</td>
            <td>
              <Change value={f.others.median} decimals={digits} />
            </td>
            <td>{percent(f.others.rose)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
