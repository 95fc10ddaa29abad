import { carriedBarsText } from './carriedBars'
import { type Plan } from './document'
import { looksBeyond, namedBy } from './drawn'

/** What a plan could do in one day at most, as its own limits bound it; undefined where nothing does. */
export interface Most {
  entries?: number
  exposure?: number
  loss?: number
  /** Securities that it names; undefined where they are found. */
  securities?: number
}

export function mostADay(plan: Plan): Most {
  const { never } = plan
  const found = looksBeyond(plan)
  const securities = found ? undefined : namedBy(plan).length
  const each = never.entriesPerSecurityAndDay
  const entries = Math.min(
    never.entriesInAll ?? Infinity,
    never.entriesPerDay ?? Infinity,
    each === undefined || securities === undefined ? Infinity : each * securities,
  )
  return {
    ...(Number.isFinite(entries) ? { entries } : {}),
    ...(never.exposure === undefined ? {} : { exposure: never.exposure }),
    ...(never.lossPerDay === undefined ? {} : { loss: never.lossPerDay }),
    ...(securities === undefined ? {} : { securities }),
  }
}

/** The same in sentences; `money` writes an amount of the account. */
export function mostText(plan: Plan, money: (amount: number) => string): string[] {
  const carried = carriedBarsText(plan)
  if (plan.sides.every(({ do: deed }) => 'tell' in deed))
    return ['It orders nothing: it tells you.', ...carried]
  if (plan.sides.every(({ do: deed }) => 'close' in deed))
    return ['It opens nothing: at most it closes what the account holds.', ...carried]
  const { entries, exposure, loss } = mostADay(plan)
  return [
    plan.never.entriesInAll !== undefined && plan.never.entriesInAll === entries
      ? `At most ${entries} ${entries === 1 ? 'entry' : 'entries'} in all.`
      : entries === undefined
        ? 'Nothing bounds how many entries it sends in a day.'
        : `At most ${entries} ${entries === 1 ? 'entry' : 'entries'} a day.`,
    exposure !== undefined
      ? `It holds at most ${money(exposure)} at once.`
      : plan.never.share !== undefined
        ? `It holds at most ${plan.never.share} % of the equity at once.`
        : 'Nothing but buying power bounds what it holds.',
    loss === undefined
      ? 'It goes on whatever it has lost in a day.'
      : `After ${plan.never.lossCounts === 'WithOpen' ? 'a loss' : 'a realised loss'} of ${money(loss)} in a day${plan.never.lossCounts === 'WithOpen' ? ', open losses counted,' : ''} it enters no more.`,
    ...carried,
  ]
}
