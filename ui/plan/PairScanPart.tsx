import { useEffect, useRef, useState } from 'react'
import { type Among } from '@/core/plans/document'
import { chosenPairs, type PairScan } from '@/core/plans/pairScan'
import { useServices, useSession } from '../link/LinkProvider'
import { useLink } from '../link/useLink'
import { useMarket, useSource } from '../market/useMarket'
import { type Market, type Source } from '../services/market'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { NumberBlank } from './blanks'
import { WhereBlank } from './FoundPart'
import { EVERY } from './WhenPart'

type Pairs = Extract<Among, { pairs: unknown }>

const FIRST: PairScan = { in: 'All', every: '1 day', length: 60, least: 0.7, first: 10 }
const EVERYTHING = { is: 'everything' } as const

/** Pairs that are taken from a search for such as move together: where and how closely, and when they were. */
export function PairScanPart({
  of,
  among,
  change,
}: {
  of: string
  among: Pairs
  change(among: Pairs): void
}) {
  const { scan } = among
  if (!scan)
    return (
      <>
        {' '}
        <InlineAction label={`Take pairs from a search${of}`} onAct={() => change({ ...among, scan: FIRST })}>
          from a search
        </InlineAction>
      </>
    )
  // What was found by other terms was found by these no more.
  const put = (part: Partial<PairScan>) => change({ ...among, scan: { ...scan, at: undefined, ...part } })
  return (
    <span style={{ display: 'block' }}>
      taken from the{' '}
      <NumberBlank
        label={`At most so many pairs${of}`}
        needed
        value={scan.first}
        onChange={(first) => put({ first: Math.min(250, Math.max(1, Math.round(first!))) })}
      />{' '}
      closest among{' '}
      <WhereBlank of={`${of} for pairs`} where={scan.in} change={(where) => put({ in: where })} />, correlated
      at least{' '}
      <NumberBlank
        label={`Correlation at least${of}`}
        needed
        value={scan.least}
        onChange={(least) => put({ least: Math.min(1, least!) })}
      />{' '}
      over{' '}
      <NumberBlank
        label={`Bars that are compared${of}`}
        needed
        value={scan.length}
        onChange={(length) => put({ length: Math.min(500, Math.max(10, Math.round(length!))) })}
      />{' '}
      bars of{' '}
      <InlineChoice
        label={`Length of bars that are compared${of}`}
        value={scan.every}
        options={[...new Set([...EVERY, scan.every])].map((one) => [one, one] as const)}
        onChange={(every) => put({ every })}
      />
      ; <Search of={of} scan={scan} found={(pairs, at) => change({ pairs, scan: { ...scan, at } })} />{' '}
      <InlineAction
        label={`Take the search for pairs away${of}`}
        onAct={() => change({ pairs: among.pairs })}
      >
        take away
      </InlineAction>
    </span>
  )
}

/** Looks for pairs away from the page; what is found takes the place of those that stand there. */
function Search({
  of,
  scan,
  found,
}: {
  of: string
  scan: PairScan
  found(pairs: Pairs['pairs'], at: string): void
}) {
  const market = useMarket()
  const { scans } = useServices()
  const source = useSource(EVERYTHING, [], scan.every)
  const session = useSession().data
  const now = useLink((s) => s.clock?.now) ?? session?.now
  const [progress, setProgress] = useState<number>()
  const [said, setSaid] = useState<string>()
  const abort = useRef<AbortController>(undefined)
  useEffect(() => () => abort.current?.abort(), [])
  const look = async (market: Market, source: Source, now: string) => {
    const mine = (abort.current = new AbortController())
    setSaid(undefined)
    setProgress(0)
    const { in: where, length, least, first } = scan
    const among = market.securities.flatMap(({ symbol, orderable, indices }) => {
      const isThere =
        where === 'All' || ('index' in where ? indices.includes(where.index) : where.list.includes(symbol))
      return orderable && isThere ? [symbol] : []
    })
    try {
      const tell = (done: number, all: number) => setProgress(Math.floor((100 * done) / all))
      const all = await scans.pairs(market, source, { among, length, least }, tell, mine.signal)
      // What one costs in dollars and the other in euros is in no ratio.
      const currencyOf = new Map(market.securities.map(({ symbol, currency }) => [symbol, currency]))
      const pairs = chosenPairs(
        all.filter(({ one, other }) => currencyOf.get(one) === currencyOf.get(other)),
        first,
      )
      if (pairs.length > 0) found(pairs, now)
      else setSaid('No two of them move together that closely: ask for less correlation.')
    } catch (error) {
      if ((error as Error).name !== 'AbortError') setSaid((error as Error).message)
    } finally {
      setProgress(undefined)
    }
  }
  if (!market || !source || !now) return <>asking the market …</>
  if (progress !== undefined)
    return (
      <>
        looking, {progress} %{' '}
        <InlineAction label={`Look for pairs no more${of}`} onAct={() => abort.current?.abort()}>
          leave it
        </InlineAction>
      </>
    )
  return (
    <>
      {scan.at === undefined ? 'not looked for yet' : `as of ${scan.at.slice(0, 16).replace('T', ' ')}`}{' '}
      <InlineAction label={`Look for pairs${of}`} onAct={() => void look(market, source, now)}>
        {scan.at === undefined ? 'look for them' : 'look again'}
      </InlineAction>
      {said && (
        <span role="alert" className="refusal">
          {' '}
          {said}
        </span>
      )}
    </>
  )
}
