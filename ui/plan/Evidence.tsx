import dynamic from 'next/dynamic'
import { useMemo, useState } from 'react'
import { DateTime } from 'luxon'
import { sayClause, sayTried } from '@/core/engine/say'
import { type ClauseFinding } from '@/core/engine/verdicts'
import { barsBehind } from '@/core/engine/behind'
import { timeExitOf } from '@/core/engine/timeExit'
import { type Bars, completedBy } from '@/core/market/bars'
import { type Venue, venueOf, VENUES } from '@/core/market/venue'
import { summedUp } from '@/core/engine/lookBack'
import { wayOf } from '@/core/plans/entry'
import { type Plan } from '@/core/plans/document'
import { looksAtEvents } from '@/core/plans/looks'
import { putsOff } from '@/core/plans/putsOff'
import { type DatedEvent } from '@/core/plans/seen'
import { type FoundNow } from '@/core/plans/found'
import { useAccount, useSecurities, useSession } from '../link/LinkProvider'
import { VerdictMark } from '../shell/VerdictMark'
import { InlineChoice } from '../ticket/Inline'
import { Back } from './Back'
import { DayViewPart } from './DayViewPart'
import { GateDays } from './GateDays'
import css from './Plan.module.css'
import { type Leaves, type Levels } from './SignalChart'
import { type TriedAt, useEvidence, useFoundNow } from './useEvidence'

/** Fetched when it is drawn: the prose does not wait for it. */
const SignalChart = dynamic(() => import('./SignalChart').then((module) => module.SignalChart), {
  ssr: false,
})

/** Beside the prose: what each clause finds for one security, now or at a past moment. All are judged, whatever the others say. */
export function Evidence({ plan }: { plan: Plan }) {
  const [sideAt, setSide] = useState(0)
  const side = Math.min(sideAt, plan.sides.length - 1)
  const { data: found, error } = useFoundNow(plan, side)
  const list = useTried(plan, side, found)
  const [chosen, setChosen] = useState<string>()
  const [when, setWhen] = useState<TriedAt>('now')
  const [key, setKey] = useState<string>()
  const item = looksAtEvents(plan.when.look) ? plan.events?.find((one) => one.key === key) : undefined
  const symbol =
    item?.symbol ?? (chosen !== undefined && list.includes(chosen) ? chosen : (list[0] ?? 'OSPRY'))
  const security = useSecurities().data?.find((one) => one.symbol === symbol)
  const member = found?.symbols.includes(symbol)
  const { judged, why, began, bars, pasts } = useEvidence(plan, side, symbol, when, member, item?.key)
  const way = wayOf(plan.sides[side].do)
  const single = way !== 0 && !('legs' in plan.sides[side].do)
  const account = useAccount().data
  const now = useSession().data?.now
  const venue = venueOf(security?.venue ?? '') ?? VENUES[0]
  const leaves = useLeaves(plan, side, venue, when === 'now' ? now && Date.parse(now) : when, bars)
  const others = list.filter((one) => !found?.symbols.includes(one))
  return (
    <section aria-label="Evidence">
      <p className={css.tried}>
        <InlineChoice
          label="Tried on"
          value={symbol}
          options={[...new Set([symbol, ...(found?.symbols ?? []), ...others])].map(
            (one) => [one, one] as const,
          )}
          onChange={(next) => {
            setKey(undefined)
            setChosen(next)
          }}
        />{' '}
        {plan.sides.length > 1 && (
          <>
            <InlineChoice
              label="Side"
              value={String(side)}
              options={[
                ['0', 'first side'],
                ['1', 'other side'],
              ]}
              onChange={(next) => setSide(Number(next))}
            />{' '}
          </>
        )}
        <WhenBlank when={when} began={began} zone={venue.zone} onChange={setWhen} />
      </p>
      {looksAtEvents(plan.when.look) && (
        <ItemBlank events={plan.events ?? []} item={item} zone={venue.zone} onChange={setKey} />
      )}
      <p className={`soft ${css.tried}`}>
        {security?.name}
        {account && ` · cash, positions and limits of ${account.account}`} · nothing is sent
      </p>
      {plan.sides.some(({ view }) => view) && <DayViewPart />}
      {found && <FoundLine among={plan.sides[side].among} found={found} />}
      {error && (
        <p role="status" className="warning">
          {error.message}
        </p>
      )}
      {judged ? (
        <>
          <ul className={css.findings} aria-label="Clauses">
            {judged.findings.map((one, i) => (
              <Line key={i} finding={one} first={one.clause !== judged.findings[i - 1]?.clause} />
            ))}
          </ul>
          <p className={css.verdict}>{sayTried(symbol, judged.findings, judged.begins)}</p>
          {bars && bars.time.length > 0 && (
            <SignalChart
              bars={when === 'now' ? bars : completedBy(bars, when)}
              levels={levelsOf(judged.findings)}
              leaves={leaves}
              pasts={pasts}
            />
          )}
          <GateDays plan={plan} side={side} symbol={symbol} />
          {bars && single && (
            <Back
              back={summedUp(pasts, way as 1 | -1)}
              bars={bars.time.length}
              nextSession={putsOff(plan, plan.sides[side])}
            />
          )}
        </>
      ) : (
        <p role="status" className="warning">
          {why}
        </p>
      )}
    </section>
  )
}

/** Past items that are offered, newest first. */
const ITEMS = 200

/** An item of the plan's list, also from before it was armed, tried as if it had just come. */
function ItemBlank({
  events,
  item,
  zone,
  onChange,
}: {
  events: readonly DatedEvent[]
  item: DatedEvent | undefined
  zone: string
  onChange(key: string | undefined): void
}) {
  const day = ({ at }: DatedEvent) => DateTime.fromISO(at, { zone }).toFormat('d LLL HH:mm')
  const newest = events.toSorted((a, b) => Date.parse(b.at) - Date.parse(a.at)).slice(0, ITEMS)
  if (events.length === 0)
    return <p className={`soft ${css.tried}`}>There is no item in its list yet to try.</p>
  return (
    <p className={css.tried}>
      As if it had just come:{' '}
      <InlineChoice
        label="Item that is tried"
        value={item?.key ?? ''}
        options={[
          ['', 'no item'],
          ...newest.map((one) => [one.key, `${one.symbol}, ${day(one)}, ${one.key}`] as const),
        ]}
        onChange={(key) => onChange(key === '' ? undefined : key)}
      />
      {item?.text && <span className="soft"> {item.text}</span>}
    </p>
  )
}

/** Where the order would be entered and left. */
function levelsOf(findings: readonly ClauseFinding[]): Levels {
  const out: Levels = {}
  for (const one of findings) {
    if (one.clause === 'Do' && one.why === 'order') out.entry = one.entry
    if (one.clause === 'Then' && one.why === 'exits')
      Object.assign(out, { stop: one.stop, target: one.target })
  }
  return out
}

/** When what were entered at a moment would be left by the time, and how many bars later. */
function useLeaves(
  plan: Plan,
  side: number,
  venue: Venue,
  at: number | '' | undefined,
  bars: Bars | undefined,
): Leaves | undefined {
  const { then } = plan.sides[side]
  const out = at ? timeExitOf(then, venue, at) : undefined
  const last = bars && at ? completedBy(bars, at).end.at(-1) : undefined
  const ahead = out !== undefined && last !== undefined ? barsBehind(venue, bars!.every, last, out) : NaN
  const text =
    out === undefined
      ? ''
      : `out ${DateTime.fromMillis(out, { zone: venue.zone }).toFormat((then.sessions ?? 1) > 1 ? 'ccc d LLL HH:mm' : 'HH:mm')}`
  return useMemo(() => (ahead >= 0 ? { bars: ahead, text } : undefined), [ahead, text])
}

/** Securities that a side can be tried on: those that it names or finds, or all where nothing is found. */
function useTried(plan: Plan, side: number, found: FoundNow | undefined): readonly string[] {
  const { among } = plan.sides[side]
  const { data: securities = [] } = useSecurities()
  if ('list' in among) return among.list
  if ('pairs' in among) return among.pairs.map(([first]) => first)
  if (found && found.symbols.length > 0) return found.symbols
  return securities.filter(({ orderable, option }) => orderable && !option).map(({ symbol }) => symbol)
}

/** Securities that are named at once; the others are told when asked for. */
const SHOWN = 12

/** How many a search finds now, and whom a limit leaves out. */
function FoundLine({ among, found }: { among: Plan['sides'][number]['among']; found: FoundNow }) {
  if ('list' in among || 'pairs' in among) return null
  const { symbols, left, unknown, looked } = found
  const [some, more] = [symbols.slice(0, SHOWN).join(', ') || 'nothing', symbols.slice(SHOWN)]
  return (
    <p className={css.tried} role="status">
      {'positions' in among
        ? 'Held now: '
        : 'index' in among
          ? 'Its members now: '
          : `Found now, of ${looked}: `}
      {some}
      {more.length > 0 && (
        <details style={{ display: 'inline' }}>
          <summary style={{ display: 'inline', cursor: 'pointer' }}> and {more.length} more</summary>{' '}
          {more.join(', ')}
        </details>
      )}
      {left.length > 0 && (
        <span className="soft" title={left.join(', ')}>
          {' '}
          · {left.length} more left out, {left.slice(0, 3).join(', ')} first
        </span>
      )}
      {unknown > 0 && <span className="soft"> · of {unknown} it cannot be told</span>}
    </p>
  )
}

/** Now, when the condition last began, or any moment of the venue's clock. */
function WhenBlank({
  when,
  began,
  zone,
  onChange,
}: {
  when: TriedAt
  began: readonly number[]
  /** Of the venue of the security that is tried. */
  zone: string
  onChange(when: TriedAt): void
}) {
  const session = useSession().data
  const text = (at: number) => DateTime.fromMillis(at, { zone }).toFormat('ccc d LLL HH:mm')
  const known = when === 'now' || began.includes(when)
  const now = session ? Date.parse(session.now) : 0
  return (
    <>
      <InlineChoice
        label="Tried at"
        value={when === 'now' ? 'now' : known ? String(when) : 'moment'}
        options={[
          ['now', 'now'],
          ...began.map(
            (at, i) => [String(at), `${i === 0 ? 'last began' : 'began'} ${text(at)}`] as [string, string],
          ),
          ['moment', 'a moment:'],
        ]}
        onChange={(next) =>
          onChange(
            next === 'now' ? 'now' : next === 'moment' ? Math.floor(now / 60_000 - 5) * 60_000 : Number(next),
          )
        }
      />
      {!known && (
        <input
          type="datetime-local"
          className="blank"
          aria-label="Moment at which it is tried"
          value={DateTime.fromMillis(when, { zone }).toFormat("yyyy-MM-dd'T'HH:mm")}
          max={DateTime.fromMillis(now, { zone }).toFormat("yyyy-MM-dd'T'HH:mm")}
          onChange={(e) => {
            const at = DateTime.fromISO(e.currentTarget.value, { zone }).toMillis()
            if (at > 0 && at <= now) onChange(at)
          }}
        />
      )}
    </>
  )
}

function Line({ finding, first }: { finding: ClauseFinding; first: boolean }) {
  return (
    <li>
      <span className={css.ofClause}>{first ? finding.clause : ''}</span>
      <VerdictMark verdict={finding.verdict} />
      <span>{sayClause(finding)}</span>
    </li>
  )
}
