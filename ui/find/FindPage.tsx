'use client'
import { Button, Menu, Progress } from '@mantine/core'
import { useHotkeys } from '@mantine/hooks'
import { useRouter, useSearchParams } from 'next/navigation'
import { Suspense, useEffect, useMemo } from 'react'
import { checkRule, measuresIn, print, sayIssue } from '@/core/rules'
import { parseTimeframe } from '@/core/market/timeframe'
import page from '../shell/Page.module.css'
import { asOfText } from '../shell/marketTime'
import { DataTable } from '../table/DataTable'
import { exportTable } from '../table/exportTable'
import { TicketPanel } from '../ticket/TicketPanel'
import { useTicket } from '../ticket/ticketStore'
import { columnsOf } from './columns'
import { ExtraColumns } from './ExtraColumns'
import css from './Find.module.css'
import { restoreDraft, useFind } from './findStore'
import { RuleEditor } from './RuleEditor'
import { SavedScans, SaveScan, useSavedScan } from './SavedScans'
import { MarketToday } from './MarketToday'
import { UniverseChoice } from './UniverseChoice'
import { useScan, useSource } from './useScan'
import { useUniverse } from './useUniverse'
import { WhyPanel } from './WhyPanel'

export function FindPage() {
  return (
    <Suspense>
      <Find />
    </Suspense>
  )
}

function Find() {
  const router = useRouter()
  const asked = useSearchParams().get('scan')
  const { rule, measures, frame, universe, result, selected } = useFind()
  const chosen = useUniverse(universe)
  const every = useMemo(() => {
    const own = universe.is === 'own' ? chosen.own.find((d) => d.id === universe.dataId) : undefined
    return parseTimeframe(own?.every ?? frame.replace(' so far', '')) ?? { count: 1, unit: 'day' as const }
  }, [universe, chosen.own, frame])
  const checked = useMemo(() => checkRule(rule, every), [rule, every])
  const { run, running, progress, problem, cancel } = useScan(chosen, checked)
  const ticket = useTicket((s) => s.ticket)
  const source = useSource(universe, chosen.own)

  useEffect(() => void restoreDraft(), [])
  useSavedScan(asked)

  const symbols = useMemo(
    () => new Map((chosen.securities ?? []).map((s) => [s.symbol, s])),
    [chosen.securities],
  )
  const columns = useMemo(() => columnsOf(result, symbols, every), [result, symbols, every])
  const open = (symbol: string) =>
    router.push(universe.is === 'own' ? `/look/${symbol}?data=${universe.dataId}` : `/look/${symbol}`)
  useHotkeys([['b', () => selected && universe.is !== 'own' && useTicket.getState().open(selected)]])

  return (
    <div className={page.page}>
      <section className={page.main} aria-label="Scan">
        <div className={css.lead}>
          <span>
            Among <UniverseChoice chosen={chosen} />, find where
          </span>
          <SavedScans />
        </div>
        <RuleEditor
          value={rule}
          onChange={(text) => useFind.setState({ rule: text })}
          onRun={run}
          check={(text) => checkRule(text, every)}
          label="Rule"
          hint="for example: close crosses above sma(close, 50)"
        />
        <p className={css.issue} role="status">
          {checked.issues.length > 0 ? (
            <span className="refusal">{sayIssue(checked.issues[0])}</span>
          ) : checked.type?.is === 'yes/no' && checked.type.nature === 'state' ? (
            <span className="soft">
              This is a state: it can hold for many bars in a row. For the bar on which it comes true, write
              begins( … ).
            </span>
          ) : (
            <span className="soft">This is a moment: it holds on the bar on which it happens.</span>
          )}
        </p>
        <div className={page.bar}>
          <Summary problem={problem} asked={chosen.among?.length} />
          <ExtraColumns measures={measures} every={every} />
          <SaveScan disabled={!result || checked.issues.length > 0} />
          <Menu position="bottom-end">
            <Menu.Target>
              <Button variant="default" disabled={!result || result.rows.length === 0}>
                Export
              </Button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Item onClick={() => exportTable('scan', 'csv', result!.rows, columns)}>CSV</Menu.Item>
              <Menu.Item onClick={() => exportTable('scan', 'xlsx', result!.rows, columns)}>XLSX</Menu.Item>
            </Menu.Dropdown>
          </Menu>
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
        {result && result.rows.length > 0 ? (
          <DataTable
            label="Securities that meet the rule"
            rows={result.rows}
            columns={columns}
            idOf={(row) => row.symbol}
            selected={selected}
            onSelect={(row) => useFind.setState({ selected: row.symbol })}
            onOpen={(row) => open(row.symbol)}
          />
        ) : (
          <Empty
            scanned={result !== undefined}
            running={running}
            run={run}
            disabled={checked.issues.length > 0}
            loosen={
              result && result.looked > 0
                ? measuresIn(checked.tree ?? { kind: 'name', name: 'close' }).map(print)
                : []
            }
          />
        )}
      </section>
      <aside className={page.aside} aria-label="The security in view">
        {ticket ? (
          <TicketPanel />
        ) : (
          <>
            <WhyPanel universe={universe} frame={frame} open={open} />
            <MarketToday source={source} />
          </>
        )}
      </aside>
    </div>
  )
}

/** "38 of 412 meet it · 3 unknown · as of Friday's close, all up to date". */
function Summary({ problem, asked }: { problem: string; asked: number | undefined }) {
  const { result, universe, rule } = useFind()
  if (problem) {
    return (
      <span role="alert" className="refusal">
        {problem}
      </span>
    )
  }
  if (!result)
    return (
      <span className="soft">{asked === undefined ? 'ready' : `${asked} securities to look through`}</span>
    )
  const { rows, looked, unknown, asOf, stale } = result
  const edited = result.rule !== rule
  const zone = universe.is === 'own' ? 'UTC' : 'America/Halifax'
  return (
    <span data-testid="summary">
      {edited ? (
        <>
          <span className="warning">The rule was changed since:</span> <strong>{rows.length}</strong> of{' '}
          {looked} met it before
        </>
      ) : (
        <>
          <strong>{rows.length}</strong> of {looked} meet it
        </>
      )}
      {unknown.length > 0 && (
        <span title={unknown.slice(0, 30).join(', ')}>
          {' '}
          · <strong>{unknown.length}</strong> unknown, too few bars
        </span>
      )}
      {Number.isFinite(asOf) && (
        <span className="soft">
          {' '}
          · as of{' '}
          {universe.is === 'own' ? asOfText(asOf - 1, zone).replace(', 23:59', '') : asOfText(asOf, zone)}
        </span>
      )}
      {stale.length > 0 ? (
        <span className="warning" title={stale.slice(0, 30).join(', ')}>
          , {stale.length} older
        </span>
      ) : (
        looked > 0 && <span className="soft">, all up to date</span>
      )}
    </span>
  )
}

function Empty({
  scanned,
  running,
  run,
  disabled,
  loosen,
}: {
  scanned: boolean
  running: boolean
  run(): void
  disabled: boolean
  loosen: string[]
}) {
  const name = useFind((s) => s.name)
  if (running) return <div className={page.empty}>Looking …</div>
  if (scanned) {
    return (
      <div className={page.empty}>
        <span>
          Nothing meets the rule at its last bar.
          {loosen.length > 0 && ` It looks at ${loosen.slice(0, 4).join(', ')}: loosen one of them.`}
        </span>
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
