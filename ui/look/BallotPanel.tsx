'use client'
import { Button } from '@mantine/core'
import { useMemo, useState } from 'react'
import { type BarSource, checkRule, explain, print } from '@/core/rules'
import { ballotTree, type Vote, voteOf } from '@/core/scan/ballot'
import { useFind } from '../find/findStore'
import { tell } from '../shell/tell'
import { BallotEditor, useBallot } from './BallotEditor'
import css from './Look.module.css'

/** What several voices say of the security at its last bar, each with its reason, and their sum. */
export function BallotPanel({ source }: { source: BarSource | undefined }) {
  const ballot = useBallot()
  const [editing, setEditing] = useState(false)
  const votes = useMemo(() => {
    if (!source) return []
    return ballot.voters.map((voter) => {
      const [buy, sell] = [voter.buy, voter.sell].map((text) => {
        const checked = checkRule(text, source.base.every)
        return checked.type ? explain(checked.tree, source) : undefined
      })
      const vote = buy && sell ? voteOf(buy.verdict, sell.verdict) : ('unknown' as const)
      const why = vote === 'sell' ? sell : buy
      return { voter, vote, why: why?.sentence ?? 'its rule is not sound' }
    })
  }, [ballot, source])
  const count = (which: Vote) => votes.filter(({ vote }) => vote === which).length
  // As in the measure: where one voice is unknown, so is the sum.
  const sum = count('unknown') > 0 ? NaN : count('buy') - count('sell')
  const addColumn = () => {
    const tree = ballotTree(ballot.voters)
    if (!tree) return
    useFind.setState(({ measures }) => ({ measures: [...new Set([...measures, print(tree)])] }))
    tell('The sum of the ballot is a column of the scan from now on.')
  }
  return (
    <section aria-label="Ballot" className={css.drawn}>
      <h3>What the voices say</h3>
      <p>
        <strong data-testid="ballot">
          {Number.isNaN(sum) ? 'unknown' : `${sum > 0 ? '+' : sum < 0 ? '−' : ''}${Math.abs(sum)}`}
        </strong>{' '}
        of {votes.length}:{' '}
        <span className="soft">
          {count('buy')} buy, {count('sell')} sell
          {count('unknown') > 0 && `, ${count('unknown')} unknown`}
        </span>
      </p>
      <ul className={css.votes}>
        {votes.map(({ voter, vote, why }, i) => (
          <li key={`${voter.name} ${i}`}>
            <span className={css.vote} data-vote={vote}>
              {vote}
            </span>
            <span>
              {voter.name} <span className="soft">{why}</span>
            </span>
          </li>
        ))}
      </ul>
      <p>
        <Button size="xs" variant="subtle" onClick={addColumn}>
          as a column of the scan
        </Button>
        <Button size="xs" variant="subtle" aria-expanded={editing} onClick={() => setEditing(!editing)}>
          {editing ? 'done' : 'change the voices'}
        </Button>
      </p>
      {editing && <BallotEditor ballot={ballot} />}
    </section>
  )
}
