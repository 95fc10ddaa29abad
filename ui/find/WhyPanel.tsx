'use client'
import { Button } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { barSource, checkRule, type Part } from '@/core/rules'
import { hitRows } from '@/core/scan/hits'
import { type ScanFrame, type Universe } from '@/store/db'
import { useBroker, useSecurities } from '../link/LinkProvider'
import { Followed } from '../look/Followed'
import { useBars } from '../look/useBars'
import { VerdictMark } from '../shell/VerdictMark'
import { useTicket } from '../ticket/ticketStore'
import css from './Find.module.css'
import { useFind } from './findStore'
import { explainOne } from './scanEngine'
import { useSource } from './useScan'
import { useUniverse } from './useUniverse'

/** Why the marked security meets the rule, and how it went the times before. */
export function WhyPanel({
  universe,
  frame,
  open,
}: {
  universe: Universe
  frame: ScanFrame
  open(symbol: string): void
}) {
  const { selected, result } = useFind()
  const security = useSecurities().data?.find((s) => s.symbol === selected)
  if (!selected || !result) {
    return (
      <>
        <h2>Why it is here</h2>
        <p className="soft" style={{ marginTop: 8 }}>
          Mark a row with the mouse or the arrow keys: each part of the rule stands here with its values.
          Enter opens it on a chart.
        </p>
      </>
    )
  }
  return (
    <>
      <h2>{security?.name ?? selected}</h2>
      <p className="soft">{security ? `${selected} · ${security.sector}` : 'my own data'}</p>
      <div className={css.actions}>
        <Button variant="default" onClick={() => open(selected)}>
          Look closer
        </Button>
        {universe.is !== 'own' && (
          <Button onClick={() => useTicket.getState().open(selected)}>Make it an order</Button>
        )}
      </div>
      <h3>Why it is here</h3>
      <Why symbol={selected} universe={universe} rule={result.rule} />
      <h3>When it happened before</h3>
      <Before symbol={selected} universe={universe} frame={frame} rule={result.rule} />
    </>
  )
}

function Why({ symbol, universe, rule }: { symbol: string; universe: Universe; rule: string }) {
  const broker = useBroker()
  const source = useSource(universe, useUniverse(universe).own)
  const frameKey = source ? JSON.stringify(source) : ''
  const { data, error } = useQuery({
    queryKey: ['why', symbol, rule, frameKey],
    enabled: source !== undefined,
    queryFn: async () => (await explainOne(broker, source!, rule, symbol)) ?? null,
    placeholderData: (before) => before,
  })
  if (error) return <p className="refusal">{error.message}</p>
  return data ? (
    <Parts parts={data.parts.length > 0 && data.text.includes(' and ') ? data.parts : [data]} />
  ) : (
    <p className="soft">asking …</p>
  )
}

function Parts({ parts }: { parts: readonly Part[] }) {
  return (
    <ul className={css.parts}>
      {parts.map((part) => (
        <li key={part.text}>
          <VerdictMark verdict={part.verdict} />
          <span>{part.sentence}</span>
          {part.parts.length > 0 && <Parts parts={part.parts} />}
        </li>
      ))}
    </ul>
  )
}

function Before({
  symbol,
  universe,
  frame,
  rule,
}: {
  symbol: string
  universe: Universe
  frame: ScanFrame
  rule: string
}) {
  const dataId = universe.is === 'own' ? universe.dataId : undefined
  const bars = useBars(symbol, frame.replace(' so far', ''), { dataId }).data
  const rows = useMemo(() => {
    const checked = bars && checkRule(rule, bars.every)
    return checked?.type ? hitRows(checked.tree, barSource(bars!)) : undefined
  }, [bars, rule])
  if (!bars || !rows) return <p className={`soft ${css.why}`}>asking …</p>
  return <Followed bars={bars} rows={rows} />
}
