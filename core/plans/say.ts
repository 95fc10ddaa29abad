import { type ByHand, type Among, type Plan, type Side } from './document'
import { type Found } from './found'
import { pairScanText } from './pairScan'
import { type Score } from './score'
import { bound } from './inputs'
import { doText, number } from './sayDo'
import { thenText } from './sayThen'
import { putsOff } from './putsOff'
import { timeText } from './times'
import { VIEW_TEXT } from './view'

/** A plan as prose: each clause a sentence, as it stands on the page and in the summary before it is armed. */
export interface Prose {
  clause: 'When' | 'Among' | 'If' | 'Provided' | 'Do' | 'Then' | 'Never'
  /** From 0; undefined for clauses of both sides. */
  side?: number
  text: string
}

const DAYS = ['', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const listed = new Intl.ListFormat('en', { style: 'long', type: 'conjunction' })
const either = new Intl.ListFormat('en', { style: 'long', type: 'disjunction' })

export function planProse(given: Plan): Prose[] {
  const plan = bound(given)
  return [
    { clause: 'When', text: whenText(plan) },
    ...plan.sides.flatMap((side, at) => sideProse(side).map((one) => ({ ...one, side: at }))),
    ...sharedThen(plan),
    { clause: 'Never', text: neverText(plan) },
  ]
}

/** What both sides do on the signal of the other, and where a hand was at it. */
function sharedThen({ sides, opposite, byHand }: Plan): Prose[] {
  const parts = [sides.length > 1 && OPPOSITE[opposite], byHand && BY_HAND[byHand]].filter(Boolean)
  return parts.length > 0 ? [{ clause: 'Then', text: parts.join('; ') }] : []
}

const BY_HAND: Record<ByHand, string> = {
  LetGo:
    'if you change its position or an order by hand, the plan gives that security up and withdraws its own stop and target',
  TakeOver: 'if you change its position or an order by hand, the plan takes your change over',
  StandStill:
    'if you change its position or an order by hand, the plan leaves that security alone until you hand it back',
}

const OPPOSITE: Record<Plan['opposite'], string> = {
  Ignore: 'where the other condition begins meanwhile, nothing changes',
  Close: 'where the other condition begins meanwhile, close',
  Turn: 'where the other condition begins meanwhile, close, and open the other way once that is filled',
}

function whenText({ when, sides }: Plan): string {
  const bars = [...new Set(sides.map((side) => side.if.every))].join(' and ')
  const from = when.from && `from ${timeText(when.from)}`
  const looks = lookText(when.look, bars)
  const off = sides.some((side) => putsOff({ when }, side))
  const parts = [
    when.weekdays && `on ${listed.format(when.weekdays.map((day) => DAYS[day]))}`,
    when.monthDays && `on day ${either.format(when.monthDays.map(String))} of the month, or the next session`,
    ...(off ? [looks, 'entering in the session after it', from] : [from, looks]),
    when.until && `until ${timeText(when.until)}`,
  ]
  return parts.filter(Boolean).join(', ')
}

function lookText(look: Plan['when']['look'], bars: string): string {
  if (look === 'Bar') return `at the end of every ${bars} bar`
  if (look === 'Tick') return 'at every quote'
  if (look === 'Event') return 'when an event comes'
  if ('events' in look)
    return `each trading day at ${timeText(look.events)}, at every event since the last look, oldest first`
  if ('calendar' in look) return `at ${timeText(look.calendar)}`
  return look.minutes === 1 ? 'every minute' : `every ${look.minutes} minutes`
}

function amongText(among: Among): string {
  if ('list' in among) return listed.format(among.list)
  if ('pairs' in among) {
    const pairs = `the pairs ${listed.format(among.pairs.map((pair) => pair.join(' and ')))}`
    return among.scan?.at ? `${pairs}: ${pairScanText(among.scan)}` : pairs
  }
  if ('index' in among) return `the members of ${among.index}`
  if ('any' in among) return 'any security that can be ordered'
  return 'positions' in among ? positionsText(among.positions) : foundText(among.found)
}

function positionsText(positions: Extract<Among, { positions: unknown }>['positions']): string {
  if (positions === 'Account') return 'what the account holds'
  return positions === 'Plan' ? 'what this plan holds' : `what the plan ${positions.plan} holds`
}

function scoreText({ lines, least, waits }: Score): string {
  const each = lines.map(({ name, points, from }) => {
    const whence = typeof from === 'object' ? from.rule : from === 'Trader' ? 'by you' : 'from outside'
    return `${name} (${whence}) ${points > 0 ? '+' : ''}${points}`
  })
  const waiting = waits > 0 ? `, waiting ${waits} minutes for what is not known` : ''
  return `a score of at least ${least} out of ${listed.format(each)}${waiting}`
}

function foundText({
  name,
  rule,
  every,
  in: where,
  by,
  lowest,
  first,
  again,
  soFar,
  asOf,
  signal,
}: Found): string {
  const of =
    where === 'All'
      ? 'everything'
      : 'index' in where
        ? `the members of ${where.index}`
        : listed.format(where.list)
  const much = first === undefined ? '' : `the first ${first} `
  const order = by === undefined ? '' : `, ${lowest ? 'lowest' : 'highest'} ${by} first`
  const when = again === 'Session' ? 'each session' : `every ${again.minutes} minutes`
  const stands = asOf === undefined ? `looked up ${when}` : `as of ${asOf}`
  const newly = signal ? ', each as soon as it is found' : ''
  return `${much}of ${name}: ${rule} on ${every} bars${soFar ? ' so far' : ''}, among ${of}${order}, ${stands}${newly}`
}

const PRICE_TEXT = {
  AsTraded: ' as traded',
  OverSplits: '',
  OverSplitsAndDividends: ' adjusted for dividends too',
}

function ifText({ if: { rule, every, bars, lasts, prices = 'OverSplits' } }: Side): string {
  const growing = bars === 'SoFar' ? ', the one that grows as far as it has come' : ''
  const spans = [
    lasts?.bars !== undefined && `${lasts.bars} ${lasts.bars === 1 ? 'bar' : 'bars'}`,
    lasts?.percent !== undefined && `${number(lasts.percent)} % of movement`,
  ].filter((one): one is string => Boolean(one))
  const stands = spans.length > 0 ? `; what began stands for ${either.format(spans)}` : ''
  return `${rule}, on ${every} bars${PRICE_TEXT[prices]}${growing}${stands}`
}

function sideProse(side: Side): Prose[] {
  const gates = [
    ...side.provided.map(({ name, rule }) => `${name}: ${rule}`),
    ...(side.view ? [`you have said that the day goes ${VIEW_TEXT[side.view]}`] : []),
    ...(side.score ? [scoreText(side.score)] : []),
    ...(side.ask ? [`you are asked first, and have ${side.ask.minutes} minutes`] : []),
  ]
  return [
    { clause: 'Among', text: amongText(side.among) },
    { clause: 'If', text: ifText(side) },
    { clause: 'Provided', text: gates.length > 0 ? gates.join('; ') : 'nothing more' },
    { clause: 'Do', text: doText(side.do) },
    { clause: 'Then', text: thenText(side) },
  ]
}

function neverText({ never, seen }: Plan): string {
  const money = (x: number | undefined) => x !== undefined && number(x)
  const limits = [
    never.entriesPerSecurityAndDay && `${entries(never.entriesPerSecurityAndDay)} a day in one security`,
    never.entriesPerDay && `${entries(never.entriesPerDay)} a day`,
    never.entriesInAll && `${entries(never.entriesInAll)} in all`,
    money(never.exposurePerSecurity) && `${money(never.exposurePerSecurity)} in one security`,
    money(never.exposure) && `${money(never.exposure)} in all`,
    never.share && `${number(never.share)} % of the equity, its share`,
    money(never.lossPerDay) &&
      `${money(never.lossPerDay)} lost in a day, ${never.lossCounts === 'WithOpen' ? 'open losses counted' : 'realised'}`,
    money(never.largestOrder) && `${money(never.largestOrder)} in one order`,
    never.collar && `${number(never.collar)} % away from the last price`,
  ].filter(Boolean) as string[]
  const again =
    seen &&
    `on ${seen.by === 'Key' ? 'an event' : 'a security'} that it has ${either.format(seen.blocks.map((one) => one.toLowerCase()))} before${seen.days === undefined ? '' : `, for ${seen.days} days`}`
  const more = limits.length > 0 ? [`more than ${either.format(limits)}`] : []
  const left =
    never.freeBuyingPower === undefined ? [] : [`below ${number(never.freeBuyingPower)} of buying power`]
  const { from, until } = never.hours ?? {}
  const hours = [from && `before ${timeText(from)}`, until && `from ${timeText(until)} on`].filter(Boolean)
  const missing =
    never.barsBehind === undefined ? '' : ` or where more than ${never.barsBehind} bars are missing`
  return [
    ...more,
    ...left,
    ...hours,
    ...(again ? [again] : []),
    `on quotes older than ${never.quoteAge} seconds${missing}`,
  ].join(', or ')
}

const entries = (count: number): string => `${count} ${count === 1 ? 'entry' : 'entries'}`
