'use client'
import { lazy, type ReactNode, Suspense, useMemo, useState } from 'react'
import { decimal } from '@/core/market/money'
import { percentOf } from '@/core/market/change'
import { type Timeframe } from '@/core/market/timeframe'
import { type Checked, checkRule, type Names, parse, print, sayIssue } from '@/core/rules'
import { fanForm } from '@/core/rules/fanForms'
import { hintsOf, sayHint } from '@/core/rules/hints'
import { otherSide } from '@/core/rules/otherSide'
import { type ScanResult } from '@/core/scan/scan'
import { type Source } from '../services/market'
import { tell } from '../shell/tell'
import { RuleWorld } from './builder/useValueCheck'
import css from './Find.module.css'
import { useFind } from './findStore'
import { RuleEditor } from './RuleEditor'
import { TwoForms } from './TwoForms'

const Builder = lazy(() => import('./builder/Builder').then((m) => ({ default: m.Builder })))

/** The rule, as text or as rows: two views of the same, either may be edited. */
export function RuleBox({
  rule,
  checked,
  every,
  names,
  onRun,
  notes,
}: {
  rule: string
  checked: Checked
  every: Timeframe
  names: Names
  onRun(): void
  /** What there is to say of it, beneath. */
  notes: ReactNode
}) {
  const [rows, setRows] = useState(false)
  const world = useMemo(() => ({ every, names }), [every, names])
  const put = (text: string) => useFind.setState({ rule: text })
  const turn = () => {
    if (!checked.tree) return
    const { tree, changed } = otherSide(checked.tree)
    if (changed.length === 0) return tell('Nothing in this rule has another side.')
    put(print(tree))
    tell(`The other side: ${changed.map(({ from, to }) => `“${from}” is now “${to}”`).join('; ')}.`)
  }
  return (
    <div>
      {rows ? (
        <RuleWorld value={world}>
          <Suspense fallback={<p className="soft">…</p>}>
            <Builder value={rule} onChange={put} />
          </Suspense>
        </RuleWorld>
      ) : (
        <RuleEditor
          value={rule}
          onChange={put}
          onRun={onRun}
          check={(text) => checkRule(text, every, names)}
          label="Rule"
          hint="for example: close crosses above sma(close, 50)"
        />
      )}
      <div className={css.ruleTools}>
        {notes}
        <button type="button" className="blank" aria-pressed={!rows} onClick={() => setRows(false)}>
          text
        </button>
        <button type="button" className="blank" aria-pressed={rows} onClick={() => setRows(true)}>
          builder
        </button>
        <button
          type="button"
          className="blank"
          disabled={checked.issues.length > 0}
          onClick={turn}
          title="Makes the opposite rule, for the other direction of the market"
        >
          other side
        </button>
      </div>
    </div>
  )
}

/** Share of bars above which a state is asked about. */
const OFTEN = 10

/** What is wrong with the rule; what is worth saying of it: hints, and on how many bars of the data it held. */
export function RuleNotes({
  checked,
  found,
  source,
  among,
}: {
  checked: Checked
  found: ScanResult | undefined
  source: Source | undefined
  among: readonly string[] | undefined
}) {
  const hints = useMemo(() => (checked.type ? hintsOf(checked.tree).map(sayHint) : []), [checked])
  if (checked.issues.length > 0)
    return (
      <p className={css.issue} role="status">
        <span className="refusal">{sayIssue(checked.issues[0])}</span>
      </p>
    )
  if (hints.length > 0)
    return (
      <p className={css.issue} role="status">
        <span className="warning">{hints[0]}</span>
      </p>
    )
  const form = checked.type ? fanForm(checked.tree) : undefined
  if (form) return <TwoForms form={form} source={source} among={among} />
  const state = checked.type?.is === 'yes/no' && checked.type.nature === 'state'
  if (!state)
    return (
      <p className={css.issue} role="status">
        <span className="soft">This is a moment: it holds on the bar on which it happens.</span>
      </p>
    )
  const share = found && found.barsKnown > 0 ? percentOf(found.barsTrue, found.barsKnown) : undefined
  const never = share === 0
  const always = share === 100
  return (
    <p className={css.issue} role="status">
      <span className={share !== undefined && (share > OFTEN || never) ? 'warning' : 'soft'}>
        {never
          ? 'This is a state; on all of these bars it never held.'
          : always
            ? 'This is a state that held on every bar: it shuts nothing out.'
            : share === undefined
              ? 'This is a state: it can hold for many bars in a row.'
              : `This is a state: it held on ${decimal(share, share < 2 ? 1 : 0)} % of bars.`}
      </span>{' '}
      {!never && checked.type && (
        <button type="button" className="blank" onClick={() => begin(checked)}>
          Did you mean the moment it began?
        </button>
      )}
    </p>
  )
}

function begin(checked: Checked): void {
  const { tree } = parse(useFind.getState().rule)
  if (!tree || !checked.type) return
  useFind.setState({ rule: print({ kind: 'call', name: 'begins', args: [tree] }) })
}
