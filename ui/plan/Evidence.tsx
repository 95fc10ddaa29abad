import { useState } from 'react'
import { sayClause, sayTrace } from '@/core/engine/say'
import { type ClauseFinding } from '@/core/engine/verdicts'
import { type Plan } from '@/core/plans/document'
import { useSecurities } from '../link/LinkProvider'
import { VerdictMark } from '../shell/VerdictMark'
import { InlineChoice } from '../ticket/Inline'
import css from './Plan.module.css'
import { useEvidence } from './useEvidence'

/** Beside the prose: what each clause finds for one security now. Every clause is judged, whatever the others say. */
export function Evidence({ plan }: { plan: Plan }) {
  const [sideAt, setSide] = useState(0)
  const side = Math.min(sideAt, plan.sides.length - 1)
  const { list } = plan.sides[side].among
  const [chosen, setChosen] = useState(list[0])
  const symbol = list.includes(chosen) ? chosen : list[0]
  const name = useSecurities().data?.find((one) => one.symbol === symbol)?.name
  const found = useEvidence(plan, side, symbol)
  return (
    <section aria-label="Evidence">
      <p className={css.tried}>
        <InlineChoice
          label="Tried on"
          value={symbol}
          options={list.map((one) => [one, one] as const)}
          onChange={setChosen}
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
        <span className="soft">{name} · now · nothing is sent</span>
      </p>
      {'why' in found ? (
        <p role="status" className="warning">
          {found.why}
        </p>
      ) : (
        <>
          <ul className={css.findings} aria-label="Clauses">
            {found.findings.map((one, i) => (
              <Line key={i} finding={one} first={one.clause !== found.findings[i - 1]?.clause} />
            ))}
          </ul>
          <p className={css.verdict}>
            {sayTrace({
              at: 0,
              planId: plan.id,
              version: plan.version,
              side,
              symbol,
              findings: found.findings,
            })}
          </p>
        </>
      )}
    </section>
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
