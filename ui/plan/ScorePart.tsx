import { type Score, type ScoreLine } from '@/core/plans/score'
import { View, VIEW_TEXT } from '@/core/plans/view'
import { InlineAction, InlineChoice, InlineText } from '../ticket/Inline'
import { NumberBlank, TextBlank } from './blanks'
import { type OfSide } from './DoPart'
import css from './Plan.module.css'

const FIRST: Score = {
  lines: [{ name: 'in an upward trend', points: 2, from: { rule: 'on(1 day, close > sma(close, 20))' } }],
  least: 2,
  waits: 0,
}

/** The score card of a side, line by line, and whether the trader is asked first. */
export function ScorePart({ of, side, put }: OfSide) {
  const { score, ask, view } = side
  const change = (part: Partial<Score>) => score && put({ score: { ...score, ...part } })
  const line = (i: number, next: ScoreLine | undefined) => {
    const lines = (score?.lines ?? []).flatMap((one, k) => (k === i ? (next ? [next] : []) : [one]))
    if (lines.length === 0) put({ score: undefined })
    else change({ lines })
  }
  return (
    <>
      {score && (
        <span style={{ display: 'block' }}>
          a score of at least{' '}
          <NumberBlank
            label={`Least score${of}`}
            needed
            signed
            value={score.least}
            onChange={(least) => change({ least: Math.round(least!) })}
          />
          , waiting{' '}
          <NumberBlank
            label={`Minutes that it waits${of}`}
            value={score.waits || undefined}
            onChange={(waits) => change({ waits: Math.min(390, Math.round(waits ?? 0)) })}
          />{' '}
          minutes for what is not known:
        </span>
      )}
      {score?.lines.map((one, i) => (
        <LinePart key={i} of={`${of}, line ${i + 1}`} line={one} change={(next) => line(i, next)} />
      ))}
      {view && (
        <span style={{ display: 'block' }}>
          you have said that the day goes{' '}
          <InlineChoice
            label={`View of the day${of}`}
            value={view}
            options={[
              ...View.options.map((one) => [one, VIEW_TEXT[one]] as const),
              ['none', 'any way (leave this out)'],
            ]}
            onChange={(next) => put({ view: next === 'none' ? undefined : next })}
          />
        </span>
      )}
      {ask && (
        <span style={{ display: 'block' }}>
          you are asked first, and have{' '}
          <NumberBlank
            label={`Minutes to answer${of}`}
            value={ask.minutes}
            onChange={(minutes) =>
              put({
                ask:
                  minutes === undefined
                    ? undefined
                    : { minutes: Math.min(390, Math.max(1, Math.round(minutes))) },
              })
            }
          />{' '}
          minutes to answer
        </span>
      )}
      <span className={css.more}>
        {!score && (
          <InlineAction label={`Score it${of}`} onAct={() => put({ score: FIRST })}>
            score it
          </InlineAction>
        )}
        {score && score.lines.length < 20 && (
          <InlineAction
            label={`Add a line${of}`}
            onAct={() =>
              change({ lines: [...score.lines, { name: 'my reading', points: 1, from: 'Trader' }] })
            }
          >
            add a line
          </InlineAction>
        )}
        {!view && (
          <InlineAction label={`Ask for my view of the day${of}`} onAct={() => put({ view: 'Up' })}>
            my view of the day
          </InlineAction>
        )}
        {!ask && (
          <InlineAction label={`Ask me first${of}`} onAct={() => put({ ask: { minutes: 10 } })}>
            ask me first
          </InlineAction>
        )}
      </span>
    </>
  )
}

function LinePart({
  of,
  line,
  change,
}: {
  of: string
  line: ScoreLine
  change(line: ScoreLine | undefined): void
}) {
  const { name, points, from } = line
  const kind = typeof from === 'object' ? 'rule' : from
  return (
    <span style={{ display: 'block' }}>
      <NumberBlank
        label={`Points${of}`}
        needed
        signed
        value={points}
        onChange={(next) => change({ ...line, points: Math.round(next!) })}
      />{' '}
      for{' '}
      <InlineText
        label={`Name${of}`}
        among={[]}
        value={name}
        onChange={(next) => next && change({ ...line, name: next })}
      />
      ,{' '}
      <InlineChoice
        label={`Told by${of}`}
        value={kind}
        options={[
          ['rule', 'where'],
          ['Trader', 'as you say'],
          ['Outside', 'as somebody outside says'],
        ]}
        onChange={(next) => change({ ...line, from: next === 'rule' ? { rule: 'close > vwap' } : next })}
      />{' '}
      {typeof from === 'object' && (
        <TextBlank
          label={`Rule${of}`}
          value={from.rule}
          onChange={(rule) => change({ ...line, from: { rule } })}
        />
      )}{' '}
      <InlineAction label={`Take the line away${of}`} onAct={() => change(undefined)}>
        take away
      </InlineAction>
    </span>
  )
}
