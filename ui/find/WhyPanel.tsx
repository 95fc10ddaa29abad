'use client'
import { Button, TextInput } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { completedOn, stampOf } from '@/core/market/moments'
import { seedBound } from '@/core/plans/seed'
import { checkRule, parse, type Part } from '@/core/rules'
import { hitRows } from '@/core/scan/hits'
import { type Universe } from '@/store/db'
import { useSecurities, useServices } from '../link/LinkProvider'
import { Followed } from '../look/Followed'
import { useBars } from '../look/useBars'
import { asFound } from '../look/found'
import { type Seed } from '@/core/plans/seed'
import { StartPlan, StartSentence } from '../plan/StartPlan'
import { countedIn, noPast, splitFrame, timeframeOf } from '../market/frames'
import { VerdictMark } from '../shell/VerdictMark'
import { InlineChoice } from '../ticket/Inline'
import { useTicket } from '../ticket/ticketStore'
import css from './Find.module.css'
import { type Found, useFind } from './findStore'
import { sayFailure } from '@/workers/say'
import { type Source } from '../services/market'
import { useBarSource } from '../market/useBesides'
import { useMarket } from '../market/useMarket'
import { venueName } from './useUniverse'

/** Why the marked security meets the rule, and how it went the times before. */
export function WhyPanel({ source, open }: { source: Source | undefined; open(symbol: string): void }) {
  const { selected, result, universe } = useFind()
  const [asked, setAsked] = useState('')
  const security = useSecurities().data?.find((s) => s.symbol === selected)
  const met = result?.rows.some((row) => row.symbol === selected)
  const ask = (
    <form
      className={css.ask}
      onSubmit={(e) => {
        e.preventDefault()
        if (asked.trim() === '') return
        useFind.setState({ selected: asked.trim().toUpperCase() })
        setAsked('')
      }}
    >
      <TextInput
        size="xs"
        aria-label="Why not this one: symbol"
        placeholder="Why not …? A symbol"
        value={asked}
        onChange={(e) => setAsked(e.currentTarget.value)}
      />
    </form>
  )
  if (!selected || !result) {
    return (
      <>
        <h2>Why it is here</h2>
        <p className="soft" style={{ marginTop: 8 }}>
          Mark a row with the mouse or the arrow keys: each part of the rule stands here with its values.
          Enter opens it on a chart.
        </p>
        {result && ask}
      </>
    )
  }
  return (
    <>
      <h2>{security?.name ?? selected}</h2>
      <p className="soft">
        {security
          ? `${selected} · ${security.sector} · ${venueName(security.venue)}`
          : universe.is === 'own'
            ? 'my own data'
            : 'not listed'}
      </p>
      <div className={css.actions}>
        <Button variant="default" onClick={() => open(selected)}>
          Look closer
        </Button>
        {universe.is !== 'own' && security?.orderable && (
          <Button onClick={() => useTicket.getState().open(selected)}>Make it an order</Button>
        )}
      </div>
      {universe.is !== 'own' && security?.orderable && <PlanOn symbol={selected} found={result} />}
      <h3>{met ? 'Why it is here' : 'Why it is not here'}</h3>
      {source && <Why symbol={selected} source={source} rule={result.rule} />}
      {ask}
      <h3>When it happened before</h3>
      <Before symbol={selected} universe={universe} found={result} />
    </>
  )
}

/** Begins a plan on the marked security: by the rule that was scanned for, or by a column through a bound. */
function PlanOn({ symbol, found: { rule, frame, measureTexts, rows } }: { symbol: string; found: Found }) {
  const every = timeframeOf(splitFrame(frame).every)
  const row = rows.find((one) => one.symbol === symbol)
  const bounds = measureTexts.flatMap((text, i) => {
    const seed = row && seedBound(text, row.values[i], { symbols: [symbol], every })
    return seed ? [{ text, seed }] : []
  })
  const [begun, setBegun] = useState<{ text: string; seed: Seed }>()
  return (
    <p className={css.planOn}>
      Begin a plan{' '}
      <StartPlan
        what="the rule"
        label={`Plan on ${symbol} by the rule`}
        seed={() => ({ name: `${symbol} by a scan`, symbols: [symbol], rule, every })}
      >
        by the rule
      </StartPlan>
      {bounds.length > 0 && (
        <InlineChoice
          label={`Plan on ${symbol} at a bound`}
          value=""
          options={[
            ['', 'or where a column passes a bound'],
            ...bounds.map(({ text }) => [text, text] as const),
          ]}
          onChange={(text) => {
            setBegun(bounds.find((one) => one.text === text))
          }}
        />
      )}
      <StartSentence
        seed={begun?.seed}
        what={begun ? `${begun.seed.inputs?.[0].value} in ${begun.text}` : ''}
        onClose={() => setBegun(undefined)}
      />
    </p>
  )
}

function Why({ symbol, source, rule }: { symbol: string; source: Source; rule: string }) {
  const market = useMarket()
  const { scans } = useServices()
  const { data, error } = useQuery({
    queryKey: ['why', symbol, rule, JSON.stringify(source)],
    enabled: market !== undefined,
    queryFn: async () => {
      const { tree } = parse(rule)
      return (tree && (await scans.explain(market!, source, { rule: tree, symbol }))) ?? null
    },
    placeholderData: (before, query) => (query?.queryKey[1] === symbol ? before : undefined),
  })
  if (error) return <p className="refusal">{sayFailure(error)}</p>
  if (data === null)
    return <p className="soft">There are no bars of {symbol} here. Look it up with / (search).</p>
  return data ? (
    <Parts parts={data.parts.length > 0 ? data.parts : [data]} />
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
  found: { frame, rule, by, rows: found },
}: {
  symbol: string
  universe: Universe
  found: Found
}) {
  const dataId = universe.is === 'own' ? universe.dataId : undefined
  const row = found.find((one) => one.symbol === symbol && Number.isFinite(one.first))
  const { data } = useBars(symbol, splitFrame(frame).every, { dataId, to: by, extras: countedIn([rule]) })
  // The bars that the scan looked at, so that both count the same.
  const first = row && stampOf(timeframeOf(splitFrame(frame).every), row.zone, row.first)
  const bars = useMemo(() => (data ? completedOn(asFound(data, first), by) : undefined), [data, first, by])
  const source = useBarSource(symbol, bars, [rule], { own: dataId !== undefined, first })
  const rows = useMemo(() => {
    if (!source) return undefined
    const checked = checkRule(rule, source.base.every)
    return checked.type ? hitRows(checked.tree, source) : undefined
  }, [source, rule])
  if (noPast(rule)) return <p className={`soft ${css.why}`}>{noPast(rule)}</p>
  if (!bars || !rows) return <p className={`soft ${css.why}`}>asking …</p>
  return <Followed bars={bars} rows={rows} />
}
