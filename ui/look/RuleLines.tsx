'use client'
import { Button, Popover } from '@mantine/core'
import { AppLink } from '../shell/AppLink'
import { useState } from 'react'
import { type Bars } from '@/core/market/bars'
import { dateIn, sayBar } from '@/core/market/moments'
import { type Timeframe } from '@/core/market/timeframe'
import { type BarSource, checkRule, parse, print, sayIssue, type Verdict } from '@/core/rules'
import { otherSide } from '@/core/rules/otherSide'
import { useFind } from '../find/findStore'
import { RuleEditor } from '../find/RuleEditor'
import { VerdictMark } from '../shell/VerdictMark'
import { LiveVerdict } from './LiveVerdict'
import css from './Look.module.css'

const times = (n: number): string =>
  n === 0 ? 'never came true' : `came true ${n === 1 ? 'once' : `${n} times`}`

/** Where the security was found, and the rule's verdict there. */
export interface FoundHere {
  row: number
  verdict: Verdict
  /** It was a scan as of a past day. */
  asOf?: string
  leave(): void
}

/** The rule, and one for the other side of the market: each with its mark, its verdict now and how often it came true. */
export function RuleLines({
  symbol,
  bars,
  source,
  rule,
  against,
  hits,
  againstHits,
  found,
  live,
}: {
  symbol: string
  bars: Bars
  source: BarSource
  rule: string
  against: string
  hits: readonly number[]
  againstHits: readonly number[]
  found?: FoundHere
  live: boolean
}) {
  return (
    <div className={css.rules}>
      <p className={css.ruleRow}>
        <span className={css.chevron} aria-label="To buy" role="img">
          ⌃
        </span>
        <AppLink href="/find" className={css.rule} title={rule}>
          {rule}
        </AppLink>
        {found && (
          <span data-testid="found">
            <VerdictMark verdict={found.verdict} worded /> {found.verdict} on {sayBar(bars, found.row)}
            {found.asOf === dateIn(bars.time[found.row], bars.zone)
              ? ', as of that day'
              : ', where it was found'}{' '}
            ·{' '}
            <button type="button" className="blank" onClick={found.leave}>
              leave it
            </button>
          </span>
        )}
        {live && <LiveVerdict symbol={symbol} source={source} rule={rule} />}
        <span className="soft">{times(hits.length)}</span>
      </p>
      <p className={css.ruleRow}>
        <span className={css.chevron} aria-label="To sell" role="img">
          ⌄
        </span>
        <AgainstRule rule={rule} against={against} every={bars.every} />
        {against !== '' && (
          <>
            {live && <LiveVerdict symbol={symbol} source={source} rule={against} />}
            <span className="soft">{times(againstHits.length)}</span>
          </>
        )}
      </p>
    </div>
  )
}

/** The second rule, written here or made from the first as its other side. */
function AgainstRule({ rule, against, every }: { rule: string; against: string; every: Timeframe }) {
  const [open, setOpen] = useState(false)
  const [text, setText] = useState(against)
  const { issues } = checkRule(text, every)
  const { tree } = parse(rule)
  const other = tree && print(otherSide(tree).tree)
  const put = (next: string) => {
    useFind.setState({ against: next })
    setOpen(false)
  }
  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" trapFocus>
      <Popover.Target>
        <button
          type="button"
          className={against === '' ? 'blank' : `blank ${css.rule}`}
          title={against}
          onClick={() => {
            setText(against || (other ?? ''))
            setOpen(!open)
          }}
        >
          {against === '' ? 'a rule to sell' : against}
        </button>
      </Popover.Target>
      <Popover.Dropdown w={560}>
        <RuleEditor
          label="Rule to sell"
          hint="close crosses below sma(close, 33)"
          value={text}
          onChange={setText}
          onRun={() => issues.length === 0 && put(text)}
          check={(written) => checkRule(written, every)}
        />
        {text.trim() !== '' && issues.length > 0 && <p className="refusal">{sayIssue(issues[0])}</p>}
        <div className={css.row}>
          <Button disabled={issues.length > 0} onClick={() => put(text)}>
            Mark it on the chart
          </Button>
          {other && other !== rule && (
            <Button variant="default" onClick={() => setText(other)}>
              The other side of the first
            </Button>
          )}
          {against !== '' && (
            <Button variant="subtle" onClick={() => put('')}>
              None
            </Button>
          )}
        </div>
      </Popover.Dropdown>
    </Popover>
  )
}
