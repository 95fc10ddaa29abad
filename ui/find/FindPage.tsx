'use client'
import { Button, Progress, SegmentedControl } from '@mantine/core'
import { useRouter, useSearchParams } from 'next/navigation'
import { lazy, Suspense, useEffect, useMemo, useState } from 'react'
import { decimal } from '@/core/market/money'
import { type Security } from '@/core/market/security'
import { timeframeText } from '@/core/market/timeframe'
import { checkRule, measuresIn, print } from '@/core/rules'
import { type Hit } from '@/core/scan/history'
import { type ScanRow } from '@/core/scan/scan'
import { type Asked, lookPath } from '../look/asked'
import { splitFrame, timeframeOf } from '../market/frames'
import { useSource } from '../market/useMarket'
import page from '../shell/Page.module.css'
import { useKeys } from '../shell/useKeys'
import { type Column, DataTable } from '../table/DataTable'
import { useTicket } from '../ticket/ticketStore'
import { columnsOf } from './columns'
import { ExtraColumns } from './ExtraColumns'
import css from './Find.module.css'
import { type Found, restoreDraft, useFind } from './findStore'
import { FrameChoice, OwnAsOfChoice } from './FrameChoice'
import { MarketToday } from './MarketToday'
import { PartCounts } from './PartCounts'
import { ResultBar } from './ResultBar'
import { RuleBox, RuleNotes } from './RuleBox'
import { SavedScans, SaveScan, useSavedScan } from './SavedScans'
import { Summary } from './Summary'
import { UniverseChoice } from './UniverseChoice'
import { useNames } from './useNames'
import { useScan } from './useScan'
import { useTally } from './useTally'
import { countryName, useUniverse, venueName } from './useUniverse'
import { WhyPanel } from './WhyPanel'

// What the first screen does not show comes when it is asked for.
const TicketPanel = lazy(() => import('../ticket/TicketPanel').then((m) => ({ default: m.TicketPanel })))
const BallotView = lazy(() => import('./BallotView').then((m) => ({ default: m.BallotView })))
const HistoryView = lazy(() => import('./HistoryView').then((m) => ({ default: m.HistoryView })))
const PairsView = lazy(() => import('./PairsView').then((m) => ({ default: m.PairsView })))

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

  useEffect(() => void restoreDraft(), [])
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
              <Summary problem={problem} asked={chosen.among?.length} source={source} />
              {result && result.rows.length > 0 ? (
                <Result
                  result={result}
                  columns={columns}
                  symbols={symbols}
                  among={chosen.among}
                  open={open}
                />
              ) : (
                <Empty
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
            <MarketToday source={source} />
          </>
        )}
      </aside>
    </div>
  )
}

/** The result as a table: filtered, grouped, with the columns that were chosen. */
function Result({
  result,
  columns,
  symbols,
  among,
  open,
}: {
  result: Found
  columns: readonly Column<ScanRow>[]
  symbols: ReadonlyMap<string, Security>
  /** Everyone who was looked at; all of a set of own data where left out. */
  among: readonly string[] | undefined
  open(symbol: string): void
}) {
  const { selected, grouping, hidden, entered, left, live, order } = useFind()
  const sort = useMemo(() => (order ? [{ id: order.by, desc: order.down }] : []), [order])
  const [filter, setFilter] = useState('')
  const [picked, setPicked] = useState<ReadonlySet<string>>(NONE_PICKED)
  const rows = useMemo(() => {
    const going = live ? goingRows(left, result) : []
    const wanted = filter.trim().toLowerCase()
    const all = [...result.rows, ...going]
    if (wanted === '') return all
    return all.filter((row) => {
      const security = symbols.get(row.symbol)
      const about = [row.symbol, security?.name, security?.sector, countryName(security?.country ?? '')]
      return about.some((text) => text?.toLowerCase().includes(wanted))
    })
  }, [result, filter, symbols, live, left])
  const shown = useMemo(
    () =>
      columns.filter(
        (c) => c.id !== grouping && !hidden.includes(c.id) && (!c.optional || hidden.includes(`+${c.id}`)),
      ),
    [columns, hidden, grouping],
  )
  const headingOf = useMemo(() => {
    if (grouping === 'none') return undefined
    return (symbol: string): string => {
      const security = symbols.get(symbol)
      if (!security) return 'not listed'
      if (grouping === 'country') return countryName(security.country)
      return grouping === 'venue' ? venueName(security.venue) : security[grouping]
    }
  }, [grouping, symbols])
  const groupOf = useMemo(() => headingOf && ((row: ScanRow) => headingOf(row.symbol)), [headingOf])
  const groupNote = useMemo(
    () => headingOf && shareNote(headingOf, rows.length, among ?? []),
    [headingOf, rows.length, among],
  )
  const marked = useMemo(() => rows.filter((row) => picked.has(row.symbol)), [rows, picked])
  return (
    <>
      <ResultBar
        rows={rows}
        marked={marked}
        unmark={() => setPicked(NONE_PICKED)}
        columns={columns}
        filter={filter}
        setFilter={setFilter}
      />
      <DataTable
        label="Securities that meet the rule"
        rows={rows}
        columns={shown}
        idOf={(row) => row.symbol}
        selected={selected}
        sort={sort}
        onSort={([first]) => useFind.setState({ order: first && { by: first.id, down: first.desc } })}
        groupOf={groupOf}
        groupNote={groupNote}
        picked={picked}
        onPick={setPicked}
        mark={({ symbol }) => (left[symbol] ? 'going' : entered[symbol] ? 'came' : undefined)}
        onSelect={(row) => useFind.setState({ selected: row.symbol })}
        onOpen={(row) => open(row.symbol)}
      />
    </>
  )
}

const NONE_PICKED: ReadonlySet<string> = new Set()

const share = (part: number, whole: number): string =>
  whole === 0 ? '–' : `${decimal((100 * part) / whole, part / whole < 0.1 ? 1 : 0)} %`

/** Of a heading, its share of the hits beside that of everyone who was looked at. */
function shareNote(headingOf: (symbol: string) => string, hits: number, among: readonly string[]) {
  const all = new Map<string, number>()
  for (const symbol of among) all.set(headingOf(symbol), (all.get(headingOf(symbol)) ?? 0) + 1)
  return (heading: string, count: number): string =>
    among.length === 0
      ? ''
      : `· ${share(count, hits)} of the hits, ${share(all.get(heading) ?? 0, among.length)} of the universe`
}

/** Rows of those that met the rule a moment ago and do not any more. */
function goingRows(left: Record<string, number>, result: Found): ScanRow[] {
  const there = new Set(result.rows.map((row) => row.symbol))
  return Object.keys(left)
    .filter((symbol) => !there.has(symbol))
    .map((symbol) => ({
      symbol,
      values: result.measureTexts.map(() => NaN),
      close: NaN,
      change: NaN,
      hits: NaN,
      asOf: NaN,
      zone: 'UTC',
      bar: NaN,
      first: NaN,
      recent: [],
    }))
}

function Empty({
  scanned,
  running,
  run,
  disabled,
  loosen,
  before,
}: {
  scanned: boolean
  running: boolean
  run(): void
  disabled: boolean
  loosen: string[]
  /** Goes to when it was true before. */
  before(): void
}) {
  const name = useFind((s) => s.name)
  if (running) return <div className={page.empty}>Looking …</div>
  if (scanned) {
    return (
      <div className={page.empty}>
        <span>
          Nothing meets the rule at its last bar.
          {loosen.length > 0 &&
            ` It looks at ${loosen.slice(0, 4).join(', ')}: loosen ${loosen.length === 1 ? 'it' : 'one of them'}.`}
        </span>
        <Button variant="default" onClick={before}>
          See when it was true before
        </Button>
      </div>
    )
  }
  return (
    <div className={page.empty}>
      <span>
        {name
          ? `“${name}” has not been run today.`
          : 'Scan to see which securities meet the rule now, and why.'}
      </span>
      <Button onClick={run} disabled={disabled}>
        Scan now
      </Button>
    </div>
  )
}
