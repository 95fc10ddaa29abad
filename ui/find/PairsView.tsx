'use client'
import { Button, NumberInput, Progress } from '@mantine/core'
import { useEffect, useRef, useState } from 'react'
import { decimal } from '@/core/market/money'
import { type Pair, sharesBeside } from '@/core/scan/pairs'
import { useServices } from '../link/LinkProvider'
import { type Source } from '../services/market'
import { useMarket } from '../market/useMarket'
import { type Column, DataTable } from '../table/DataTable'
import { exportTable } from '../table/exportTable'
import css from './Find.module.css'
import { useFind } from './findStore'
import { sayProblem } from './useScan'

const number = (
  id: string,
  header: string,
  digits: number,
  value: (pair: Pair) => number,
  hint?: string,
): Column<Pair> => ({
  id,
  header,
  hint,
  right: true,
  value,
  cell: (pair) => (Number.isNaN(value(pair)) ? '–' : decimal(value(pair), digits)),
})

const COLUMNS: Column<Pair>[] = [
  { id: 'one', header: 'Of', value: (p) => p.one, cell: (p) => <strong>{p.one}</strong> },
  { id: 'other', header: 'against', value: (p) => p.other, cell: (p) => <strong>{p.other}</strong> },
  number('correlation', 'Correlation', 2, (p) => p.correlation, 'of their changes from bar to bar'),
  number('ratio', 'Shares against one', 3, (p) => p.ratio, 'hedge ratio by least squares'),
  number('zscore', 'From the mean, deviations', 1, (p) => p.zscore, 'where the spread stands now'),
  number('halflife', 'Half-life, bars', 0, (p) => p.halflife, 'in how many bars half of the spread is gone'),
]

/** How many shares of one stand with so many of the other, of a pair that was found. */
const SHARES = 100

function standing({ one, other, ratio }: Pair): string {
  const shares = sharesBeside(ratio, SHARES)
  if (!shares) return ''
  return `In this one ${SHARES} ${one} stand ${ratio > 0 ? 'against' : 'beside'} ${shares} ${other}.`
}

/** More pairs than this are asked about before they are worked out. */
const MANY = 400_000

/** All pairs of the universe that move together closely, with how far apart they stand now. */
export function PairsView({
  source,
  among,
}: {
  source: Source | undefined
  among: readonly string[] | undefined
}) {
  const market = useMarket()
  const { scans } = useServices()
  const [length, setLength] = useState(60)
  const [least, setLeast] = useState(0.7)
  const [found, setFound] = useState<Pair[]>()
  const [progress, setProgress] = useState<number>()
  const [problem, setProblem] = useState('')
  const [selected, setSelected] = useState<string>()
  const abort = useRef<AbortController>(undefined)
  useEffect(() => () => abort.current?.abort(), [])
  const chosen = found?.find((p) => `${p.one} ${p.other}` === selected) ?? found?.[0]
  const n = among?.length ?? 0
  const pairs = (n * (n - 1)) / 2
  const run = async () => {
    if (!market || !source || !among) return
    const mine = (abort.current = new AbortController())
    setProblem('')
    setProgress(1)
    try {
      const all = await scans.pairs(
        market,
        source,
        { among, length, least },
        (done, of) => setProgress((100 * done) / of),
        mine.signal,
      )
      setFound(all.sort((a, b) => Math.abs(b.zscore || 0) - Math.abs(a.zscore || 0)))
    } catch (error) {
      setProblem(sayProblem(error))
    } finally {
      setProgress(undefined)
    }
  }
  return (
    <div className={css.history}>
      <form
        className={css.resultBar}
        onSubmit={(e) => {
          e.preventDefault()
          void run()
        }}
      >
        <NumberInput
          size="xs"
          label="Over bars"
          value={length}
          min={10}
          max={500}
          w={90}
          onChange={(v) => typeof v === 'number' && setLength(v)}
        />
        <NumberInput
          size="xs"
          label="Correlation at least"
          value={least}
          min={0}
          max={1}
          step={0.05}
          decimalScale={2}
          w={130}
          onChange={(v) => typeof v === 'number' && setLeast(v)}
        />
        <span className="soft" style={{ alignSelf: 'end', paddingBottom: 6 }}>
          {among
            ? `${n.toLocaleString('en-US')} securities, ${pairs.toLocaleString('en-US')} pairs${pairs > MANY ? ': that takes minutes. Choose a sector, a list or a scan’s result above.' : ''}`
            : 'Choose a universe of the market above.'}
        </span>
        <span style={{ flex: 1 }} />
        {progress !== undefined ? (
          <Button variant="default" onClick={() => abort.current?.abort()}>
            Cancel
          </Button>
        ) : (
          <Button type="submit" disabled={n < 2 || !source}>
            Find pairs
          </Button>
        )}
        <Button
          size="sm"
          variant="default"
          disabled={!found?.length}
          onClick={() => exportTable('pairs', 'csv', found!, COLUMNS)}
        >
          Export CSV
        </Button>
      </form>
      {problem && (
        <p role="alert" className="refusal">
          {problem}
        </p>
      )}
      {progress !== undefined && <Progress value={progress} size={3} aria-label="Pairs under way" />}
      {!found && progress === undefined && !problem && (
        <p className="soft">
          Two securities that move together, and how far apart they stand now: what is long in one and short
          in the other gains when they come together again.
        </p>
      )}
      {found &&
        (found.length === 0 ? (
          <p className="soft">No two of them move together that closely. Ask for less correlation.</p>
        ) : (
          <>
            <p className="soft" data-testid="pairs">
              {found.length.toLocaleString('en-US')} pairs, those furthest apart first.{' '}
              {chosen && standing(chosen)}
            </p>
            <DataTable
              label="Pairs"
              rows={found}
              columns={COLUMNS}
              idOf={(p) => `${p.one} ${p.other}`}
              selected={selected}
              onSelect={(p) => {
                setSelected(`${p.one} ${p.other}`)
                useFind.setState({ selected: p.one })
              }}
            />
          </>
        ))}
    </div>
  )
}
