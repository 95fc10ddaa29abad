'use client'
import { Button } from '@mantine/core'
import { useMemo, useState } from 'react'
import { type BarSource, checkRule, explain, print } from '@/core/rules'
import { ballotTree, type Vote, VOTE_MARKS, voteOf } from '@/core/scan/ballot'
import { useFind } from '../find/findStore'
import { tell } from '../shell/tell'
import { BallotEditor, useBallot } from './BallotEditor'
import css from './Look.module.css'

/** What several voices say of the security at a bar, the last where none is named, each with its reason, and their sum. */
export function BallotPanel({ source, row }: { source: BarSource | undefined; row?: number }) {
  const ballot = useBallot()
  const [editing, setEditing] = useState(false)
  const votes = useMemo(() => {
    if (!source) return []
    return ballot.voters.map((voter) => {
      const [pro, con] = [voter.for, voter.against].map((text) => {
        const checked = checkRule(text, source.base.every)
        return checked.type ? explain(checked.tree, source, row) : undefined
      })
      const vote = pro && con ? voteOf(pro.verdict, con.verdict) : ('unknown' as const)
      const why = vote === 'against' ? con : pro
      return { voter, vote, why: why?.sentence ?? 'its rule is not sound' }
    })
  }, [ballot, source, row])
  const count = (which: Vote) => votes.filter(({ vote }) => vote === which).length
  const sum = count('for') - count('against')
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
        <strong data-testid="ballot">{`${sum > 0 ? '+' : sum < 0 ? '−' : ''}${Math.abs(sum)}`}</strong> of{' '}
        {votes.length - count('unknown')} that know:{' '}
        <span className="soft">
          {count('for')} for, {count('against')} against, {count('abstains')} abstain
          {count('unknown') > 0 &&
            `; ${count('unknown')} ${count('unknown') === 1 ? 'is' : 'are'} unknown and counted as neither`}
        </span>
      </p>
      <ul className={css.votes}>
        {votes.map(({ voter, vote, why }, i) => (
          <li key={`${voter.name} ${i}`}>
            <span className={css.vote} data-vote={vote}>
              <span aria-hidden>{VOTE_MARKS[vote]}</span> {vote}
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
