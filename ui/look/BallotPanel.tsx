'use client'
import { Button, Textarea, TextInput } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { useMemo, useState } from 'react'
import { type BarSource, checkRule, explain, print, sayIssue } from '@/core/rules'
import { type Ballot, ballotTree, USUAL_VOTERS, type Vote, type Voter, voteOf } from '@/core/scan/ballot'
import { db } from '@/store/db'
import { useFind } from '../find/findStore'
import { tell } from '../shell/tell'
import css from './Look.module.css'

const USUAL: Ballot = { id: 'usual', name: 'the usual voices', voters: [...USUAL_VOTERS] }

const WORDS: Record<Vote, string> = { buy: 'buy', sell: 'sell', neither: 'neither', unknown: 'unknown' }

/** What several voices say of the security at its last bar, each with its reason, and their sum. */
export function BallotPanel({ source }: { source: BarSource | undefined }) {
  const kept = useLiveQuery(async () => (await db.ballots.get(USUAL.id)) ?? USUAL, [])
  const ballot = kept ?? USUAL
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
  const sum = votes.reduce((s, { vote }) => s + (vote === 'buy' ? 1 : vote === 'sell' ? -1 : 0), 0)
  const put = (voters: Voter[]) => void db.ballots.put({ ...ballot, voters })
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
          {sum > 0 ? '+' : sum < 0 ? '−' : ''}
          {Math.abs(sum)}
        </strong>{' '}
        of {votes.length}:{' '}
        <span className="soft">
          {votes.filter((v) => v.vote === 'buy').length} buy, {votes.filter((v) => v.vote === 'sell').length}{' '}
          sell
        </span>
      </p>
      <ul className={css.votes}>
        {votes.map(({ voter, vote, why }, i) => (
          <li key={`${voter.name} ${i}`}>
            <span className={css.vote} data-vote={vote}>
              {WORDS[vote]}
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
      {editing && (
        <div className={css.voters}>
          {ballot.voters.map((voter, i) => (
            <VoterFields
              key={i}
              voter={voter}
              put={(next) => put(ballot.voters.with(i, next))}
              remove={() => put(ballot.voters.filter((_, k) => k !== i))}
            />
          ))}
          <Button
            size="xs"
            variant="default"
            onClick={() =>
              put([
                ...ballot.voters,
                { name: 'A new voice', buy: 'close > sma(close, 50)', sell: 'close < sma(close, 50)' },
              ])
            }
          >
            + voice
          </Button>
          <Button size="xs" variant="default" onClick={() => put([...USUAL_VOTERS])}>
            back to the usual ones
          </Button>
        </div>
      )}
    </section>
  )
}

function VoterFields({ voter, put, remove }: { voter: Voter; put(voter: Voter): void; remove(): void }) {
  const rule = (which: 'buy' | 'sell') => {
    const { issues } = checkRule(voter[which])
    return (
      <Textarea
        size="xs"
        label={which === 'buy' ? 'says buy where' : 'says sell where'}
        autosize
        minRows={1}
        value={voter[which]}
        onChange={(e) => put({ ...voter, [which]: e.currentTarget.value })}
        error={issues.length > 0 ? sayIssue(issues[0]) : undefined}
        styles={{ input: { fontFamily: 'var(--mono)' } }}
      />
    )
  }
  return (
    <fieldset className={css.voter}>
      <div className={css.row}>
        <TextInput
          size="xs"
          label="Voice"
          value={voter.name}
          maxLength={60}
          onChange={(e) => put({ ...voter, name: e.currentTarget.value })}
          style={{ flex: 1 }}
        />
        <Button size="xs" variant="subtle" aria-label={`Remove ${voter.name}`} onClick={remove}>
          ×
        </Button>
      </div>
      {rule('buy')}
      {rule('sell')}
    </fieldset>
  )
}
