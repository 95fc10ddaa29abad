'use client'
import { Button, Progress, SegmentedControl } from '@mantine/core'
import { useRouter, useSearchParams } from 'next/navigation'
import { lazy, Suspense, useMemo, useState } from 'react'
import { timeframeText } from '@/core/market/timeframe'
import { readAhead } from '@/store/barStore'
import { checkRule, measuresIn, print } from '@/core/rules'
import { type Hit } from '@/core/scan/history'
import { type Asked, lookPath } from '../look/asked'
import { splitFrame, timeframeOf } from '../market/frames'
import { useSource } from '../market/useMarket'
import page from '../shell/Page.module.css'
import { useKeys } from '../shell/useKeys'
import { useTicket } from '../ticket/ticketStore'
import { columnsOf } from './columns'
import { ExtraColumns } from './ExtraColumns'
import css from './Find.module.css'
import { restoreDraft, useFind } from './findStore'
import { FrameChoice, OwnAsOfChoice } from './FrameChoice'
import { MarketToday } from './MarketToday'
import { PartCounts } from './PartCounts'
import { NoResult } from './NoResult'
import { ResultTable } from './ResultTable'
import { RuleBox, RuleNotes } from './RuleBox'
import { SavedScans, SaveScan, useSavedScan } from './SavedScans'
import { Summary } from './Summary'
import { UniverseChoice } from './UniverseChoice'
import { useNames } from './useNames'
import { useScan } from './useScan'
import { useTally } from './useTally'
import { useUniverse } from './useUniverse'
import { WhyPanel } from './WhyPanel'

// What the first screen does not show comes when it is asked for.
const TicketPanel = lazy(() => import('../ticket/TicketPanel').then((m) => ({ default: m.TicketPanel })))
const BallotView = lazy(() => import('./BallotView').then((m) => ({ default: m.BallotView })))
const HistoryView = lazy(() => import('./HistoryView').then((m) => ({ default: m.HistoryView })))
const PairsView = lazy(() => import('./PairsView').then((m) => ({ default: m.PairsView })))

// What was being written, and the bars it stands on, are read while the page is drawn.
if (typeof window !== 'undefined')
  void restoreDraft().then(() => {
    const { universe, frame } = useFind.getState()
    if (universe.is !== 'own') readAhead(splitFrame(frame).every)
  })

export function FindPage() {
  return (
    <Suspense>
      <Find />
    </Suspense>
  )
}

type View = 'now' | 'before' | 'ballot' | 'pairs'

const VIEWS = [
  { value: 'now', label: 'Who meets it' },
  { value: 'before', label: 'When it was true before' },
  { value: 'ballot', label: 'Ballot' },
  { value: 'pairs', label: 'Pairs' },
]

function Find() {
  const router = useRouter()
  const asked = useSearchParams().get('scan')
  const { rule, measures, frame, universe, result, selected, asOfDate, live } = useFind()
  const [view, setView] = useState<View>('now')
  const chosen = useUniverse(universe)
  const every = useMemo(() => {
    const own = universe.is === 'own' ? chosen.own.find((d) => d.id === universe.dataId) : undefined
    return timeframeOf(own?.every ?? splitFrame(frame).every)
  }, [universe, chosen.own, frame])
  const names = useNames()
  const checked = useMemo(() => checkRule(rule, every, names), [rule, every, names])
  const source = useSource(universe, chosen.own, frame, live, asOfDate)
  const { run, running, progress, problem, cancel } = useScan(chosen, source, checked)
  const edited = result !== undefined && result.rule !== rule
  const tally = useTally(rule, checked, edited ? source : undefined, chosen.among)
  const ticket = useTicket((s) => s.ticket)

  useSavedScan(asked)

  const symbols = useMemo(
    () => new Map((chosen.securities ?? []).map((s) => [s.symbol, s])),
    [chosen.securities],
  )
  const columns = useMemo(() => columnsOf(result, symbols, every), [result, symbols, every])
  const carried: Asked =
    universe.is === 'own'
      ? { dataId: universe.dataId, asOf: asOfDate }
      : { prices: 'over-splits', asOf: asOfDate }
  /** To the chart; a row of the result takes along what it was found with. */
  const open = (symbol: string) => {
    const row = result?.rows.find((one) => one.symbol === symbol)
    const found =
      row && Number.isFinite(row.bar) ? { ...row, every: splitFrame(result!.frame).every } : undefined
    router.push(
      lookPath(symbol, { ...carried, rule: result?.rule ?? rule, every: timeframeText(every) }, found),
    )
  }
  const openHit = (hit: Hit) =>
    router.push(
      lookPath(hit.symbol, { ...carried, rule }, { ...hit, bar: hit.time, every: timeframeText(every) }),
    )
  useKeys([['o', () => selected && universe.is !== 'own' && useTicket.getState().open(selected)]])

  return (
    <div className={page.page}>
      <section className={page.main} aria-label="Scan">
        <div className={css.lead}>
          <span>
            Among <UniverseChoice chosen={chosen} />
            {universe.is === 'own' ? ', its bars ' : ', '}
            {universe.is === 'own' ? <OwnAsOfChoice /> : <FrameChoice />}, find where
          </span>
          <SavedScans />
        </div>
        <RuleBox
          rule={rule}
          checked={checked}
          every={every}
          names={names}
          onRun={run}
          notes={
            <RuleNotes
              checked={checked}
              found={edited ? tally?.counted : result}
              source={source}
              among={chosen.among}
            />
          }
        />
        <PartCounts
          found={edited ? (tally?.counted ?? { parts: [], looked: 0 }) : (result ?? { parts: [], looked: 0 })}
          total={edited ? tally?.counted.rows.length : undefined}
        />
        <div className={page.bar}>
          <SegmentedControl
            size="xs"
            aria-label="What to look at"
            data={VIEWS}
            value={view}
            onChange={(next) => setView(next as View)}
          />
          <ExtraColumns measures={measures} every={every} />
          <SaveScan disabled={!result || checked.issues.length > 0} />
          {running ? (
            <Button variant="default" onClick={cancel}>
              Cancel
            </Button>
          ) : (
            <Button onClick={run} disabled={checked.issues.length > 0}>
              Scan
            </Button>
          )}
        </div>
        {running && <Progress value={progress} aria-label="Scan under way" size={3} />}
        <Suspense fallback={<p className="soft">…</p>}>
          {view === 'before' ? (
            <HistoryView source={source} among={chosen.among} checked={checked} open={openHit} />
          ) : view === 'ballot' ? (
            <BallotView source={source} among={chosen.among} symbols={symbols} open={open} />
          ) : view === 'pairs' ? (
            <PairsView source={source} among={chosen.among} />
          ) : (
            <>
              <Summary problem={problem} asked={chosen.among?.length} source={source} running={running} />
              {result && result.rows.length > 0 ? (
                <ResultTable
                  result={result}
                  columns={columns}
                  symbols={symbols}
                  among={chosen.among}
                  open={open}
                />
              ) : (
                <NoResult
                  scanned={result !== undefined}
                  running={running}
                  run={run}
                  disabled={checked.issues.length > 0}
                  before={() => setView('before')}
                  loosen={
                    result && result.looked > 0
                      ? measuresIn(checked.tree ?? { kind: 'name', name: 'close' }).map(print)
                      : []
                  }
                />
              )}
            </>
          )}
        </Suspense>
      </section>
      <aside className={page.aside} aria-label="The security in view">
        {ticket ? (
          <Suspense>
            <TicketPanel />
          </Suspense>
        ) : (
          <>
            <WhyPanel source={source} open={open} />
            {/* It takes the workers' time, which the first rows need. */}
            <MarketToday
              source={source}
              wait={running || (!result && problem === '' && checked.type !== undefined)}
            />
          </>
        )}
      </aside>
    </div>
  )
}
