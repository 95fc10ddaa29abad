'use client'
import { Button, Textarea, TextInput } from '@mantine/core'
import { useLiveQuery } from 'dexie-react-hooks'
import { checkRule, sayIssue } from '@/core/rules'
import { type Ballot, USUAL_VOTERS, type Voter } from '@/core/scan/ballot'
import { db } from '@/store/db'
import css from './Look.module.css'

const USUAL: Ballot = { id: 'usual', name: 'the usual voices', voters: [...USUAL_VOTERS] }

/** The voices that are asked: the trader's own, or the usual ones while none are kept. */
export const useBallot = (): Ballot =>
  useLiveQuery(async () => (await db.ballots.get(USUAL.id)) ?? USUAL, []) ?? USUAL

/** The voices one by one: named, with a rule for a security and one against it. */
export function BallotEditor({ ballot }: { ballot: Ballot }) {
  const put = (voters: Voter[]) => void db.ballots.put({ ...ballot, voters })
  return (
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
            { name: 'A new voice', for: 'close > sma(close, 70)', against: 'close < sma(close, 70)' },
          ])
        }
      >
        + voice
      </Button>
      <Button size="xs" variant="default" onClick={() => put([...USUAL_VOTERS])}>
        back to the usual ones
      </Button>
    </div>
  )
}

function VoterFields({ voter, put, remove }: { voter: Voter; put(voter: Voter): void; remove(): void }) {
  const rule = (which: 'for' | 'against') => {
    const { issues } = checkRule(voter[which])
    return (
      <Textarea
        size="xs"
        label={which === 'for' ? '● is for it where' : '○ is against it where'}
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
      {rule('for')}
      {rule('against')}
    </fieldset>
  )
}
