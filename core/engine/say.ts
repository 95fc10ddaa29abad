import { decimal, fromE4, moneyText, priceText } from '../market/money'
import { CANDIDATE_NAMES, type Candidate, OF_PLANS } from '../market/candidate'
import { netText, securityText } from '../options/words'
import { gateSentence } from '../orders/gates'
import { sayFinding } from '../orders/say'
import { timeText } from '../plans/times'
import { type ByHand } from '../plans/document'
import { VIEW_TEXT } from '../plans/view'
import { type ExecutionReport } from '../orders/model'
import {
  type ClauseFinding,
  deciding,
  type Measured,
  type Note,
  togetherOf,
  type Trace,
  type Wanted,
} from './verdicts'

/** The words of what clauses came to: the only place where there are any. */

/** A figure of a clause: "$7,489.00", "2", "12 s". */
export function measuredText(measured: Measured): string {
  switch (measured.unit) {
    case 'money':
      return moneyText(measured.amount, measured.currency)
    case 'price':
      return priceText(measured.amount)
    case 'seconds':
      return `${decimal(measured.amount, 0)} s`
    case 'percent':
      return `${decimal(measured.amount, 2)} %`
    default:
      return decimal(measured.amount, 0)
  }
}

/** What one clause came to, in words. */
export function sayClause(finding: ClauseFinding): string {
  switch (finding.clause) {
    case 'When':
      return ofWhen(finding)
    case 'Among':
      if (finding.why === 'unknown') return `the broker lists no ${finding.symbol}`
      return finding.why === 'listed'
        ? `${finding.symbol} is on the list`
        : `${finding.symbol} is not on the list`
    case 'If':
      if (finding.why === 'distance')
        return `the price has gone from its last fill at ${priceText(finding.from)} to ${priceText(finding.last)}`
      if (finding.sentence !== undefined) return finding.sentence
      return finding.verdict === 'unknown' ? `not known yet: ${finding.rule}` : finding.rule
    case 'Provided':
      return ofProvided(finding)
    case 'Do':
      return ofDo(finding)
    case 'Then':
      return ofThen(finding)
    case 'Never':
      return ofNever(finding)
  }
}

type Of<Clause> = Extract<ClauseFinding, { clause: Clause }>

function ofProvided(finding: Of<'Provided'>): string {
  switch (finding.why) {
    case 'gate':
      return `${finding.name}: ${ofGate(finding)}`
    case 'no order':
      return `${finding.name}: there is no order to ask it of`
    case 'score': {
      const lines = finding.lines.map(
        ({ name, points, reason }) =>
          `${name} ${points === undefined ? 'not known' : points}${reason ? ` (${reason})` : ''}`,
      )
      return `score ${finding.sum}, at least ${finding.least}: ${lines.join(', ')}`
    }
    case 'view':
      return finding.view === undefined
        ? 'your view of the day: you have not said which way it goes'
        : `your view of the day: ${VIEW_TEXT[finding.view]}, ${VIEW_TEXT[finding.wanted]} is wanted`
    case 'seen before':
      return `it was ${finding.became.toLowerCase()} before`
  }
}

const ofGate = ({ rule, figures, currency }: Extract<Of<'Provided'>, { why: 'gate' }>): string => {
  const none = Object.fromEntries(
    [...CANDIDATE_NAMES, ...OF_PLANS].map((name) => [name, NaN]),
  ) as unknown as Candidate
  return gateSentence(rule, { ...none, 'minutes since same': Infinity, ...figures }, currency)
}

function ofWhen(finding: Of<'When'>): string {
  if (finding.why === 'closed') return 'the venue is closed'
  if (finding.why === 'next session') return 'it began with the close, and waits until it may enter'
  if (finding.why === 'weekday' || finding.why === 'month day')
    return `not on this day of the ${finding.why === 'weekday' ? 'week' : 'month'}`
  if (finding.why === 'open' || finding.why === 'before the open')
    return finding.why === 'open'
      ? 'the venue is open: an order for the opening auction is sent once it has closed'
      : 'before the open'
  if (finding.why === 'kept') return keptText(finding)
  const { from, until } = finding
  if (finding.why === 'too early') return `too early: it enters from ${timeText(from!)}`
  if (finding.why === 'too late') return `too late: it enters until ${timeText(until!)}`
  const bounds = [from && `from ${timeText(from)}`, until && `until ${timeText(until)}`].filter(Boolean)
  return `in the session${bounds.length > 0 ? `, ${bounds.join(' ')}` : ''}`
}

/** Why an event is kept for later. */
function keptText({ because, at }: Extract<Of<'When'>, { why: 'kept' }>): string {
  const why = {
    closed: 'the venue is closed',
    open: 'the venue is open, and the order is for the opening auction',
    weekday: 'not on this day of the week',
    'month day': 'not on this day of the month',
    'too early': 'too early',
    'too late': 'too late',
    'not quoted': 'not quoted yet in this session',
    'its time': `events wait for ${at ? timeText(at) : 'their time'}`,
  }[because]
  return `${why}; it is kept, and judged as soon as the plan may enter`
}

function ofDo(finding: Of<'Do'>): string {
  switch (finding.why) {
    case 'order':
      return `${decimal(finding.quantity, 0)}${ofWanted(finding.wanted)} at about ${priceText(finding.entry)}${finding.mate ? `, ${finding.mate.side} ${decimal(finding.mate.quantity, 0)} ${finding.mate.symbol}` : ''}`
    case 'whole':
      return `${decimal(finding.quantity, 0)} ${finding.quantity === 1 ? 'unit' : 'units'}${ofWanted(finding.wanted)}, each ${netText(finding.net)}`
    case 'no contract':
      return `the broker lists no ${securityText(finding.contract)}: it has ended, or never was; choose another`
    case 'no quote':
      return `no quote has come for ${securityText(finding.contract)}`
    case 'too much kept':
      return `one unit keeps ${decimal(finding.each, 2)}, more than the ${decimal(finding.most, 2)} that it may`
    case 'no order':
      return finding.sentence
    case 'tell':
      return 'you are told; nothing is ordered'
    case 'held already':
      return `it holds ${decimal(finding.held, 0)} already`
    case 'added just now':
      return `it ordered more less than ${finding.minutes === 1 ? 'a minute' : `${finding.minutes} minutes`} ago`
    case 'enough added':
      return `it has ordered more of it ${finding.most === 1 ? 'once' : `${finding.most} times`} already`
    case 'by hand':
      return `${finding.text ?? 'you changed it by hand'}: it enters no more until you hand it back`
    case 'works already':
      return 'an order of it works already'
    case 'enough at a time':
      return `it holds, or has orders for, ${finding.most} already`
    case 'nothing held':
      return 'the account holds none of it'
    case 'price unknown':
      return `not known: ${finding.measure}`
    case 'no mate':
      return `in a ratio of ${decimal(finding.ratio, 2)} there is less than one lot of ${finding.mate}`
    case 'refused today':
      return `refused today: ${ofMate(finding)}${finding.text}. The pair is tried again in the next session`
    case 'refused':
      return ofMate(finding) + sayFinding(finding.finding).sentence
  }
}

/** Names the leg that is meant where it is not the one that the line is about. */
const ofMate = ({ mate }: { mate?: string }): string =>
  mate === undefined ? '' : `of ${mate}, the other leg: `

function ofThen(finding: Of<'Then'>): string {
  if (finding.why === 'none') return 'no exits at the broker'
  if (finding.why === 'net') {
    const { gain, loss } = finding
    const ways = [
      gain !== undefined && `a gain once closing it ${netText(gain)}`,
      loss !== undefined && `a loss once it ${netText(loss)}`,
    ]
    return `${ways.filter(Boolean).join(', ')}, watched here`
  }
  if (finding.why === 'level')
    return `the ${finding.role} ${finding.wrong === 'unknown' ? 'is not known' : 'lies on the wrong side of the price'}: ${finding.measure}`
  const { stop, target } = finding
  const levels = [
    target !== undefined && `target ${priceText(target)}`,
    stop !== undefined && `stop ${priceText(stop)}`,
  ]
  return `${levels.filter(Boolean).join(', ')}, at the broker, from the fill`
}

/** How much was wanted where there was room for less. */
const ofWanted = (wanted: Wanted | undefined): string =>
  wanted ? ` (${decimal(wanted.quantity, 0)} wanted, capped by ${wanted.by})` : ''

function ofNever(finding: Of<'Never'>): string {
  if (finding.why === 'hours') return ofHours(finding)
  const { why, value, limit } = finding
  const least = why === 'buying power left'
  if (!value || !limit) return `${why} is not known`
  return `${why}: ${measuredText(value)}, ${least ? 'at least' : 'at most'} ${measuredText(limit)}`
}

function ofHours({ from, until, verdict }: Extract<Of<'Never'>, { why: 'hours' }>): string {
  const hours = [from && `from ${timeText(from)}`, until && `until ${timeText(until)}`].filter(Boolean)
  return `${verdict === 'holds' ? 'within' : 'outside'} its hours, ${hours.join(' ')}`
}

/** What a trace came to, in a sentence: "No order: widest spread: the quoted spread is 0.25 %". */
export function sayTrace({
  symbol,
  findings,
  clOrdId,
}: Pick<Trace, 'symbol' | 'findings' | 'clOrdId'>): string {
  if (clOrdId) {
    const order = findings.find((one) => one.clause === 'Do')
    return `${symbol}: orders ${order ? sayClause(order) : ''}`
  }
  const decided = deciding(findings)
  if (!decided) return `${symbol}: everything holds, and the condition did not begin now`
  const verdict = togetherOf(findings) === 'unknown' ? 'cannot tell' : 'no order'
  return `${symbol}: ${verdict}. ${decided.clause}: ${decided.clause === 'If' && decided.verdict === 'fails' ? 'not met, ' : ''}${sayClause(decided)}`
}

/** What a try comes to in one sentence: nothing is sent for it. */
export function sayTried(
  symbol: string,
  findings: readonly ClauseFinding[],
  begins?: 'now' | 'in this bar' | 'as it comes',
): string {
  const decided = deciding(findings)
  const order = findings.find((one) => one.clause === 'Do')
  if (decided || !begins || !order) return sayTrace({ symbol, findings })
  if (begins === 'as it comes') return `${symbol}: everything holds, and it would order ${sayClause(order)}`
  return begins === 'now'
    ? `${symbol}: its condition begins there, and it orders ${sayClause(order)}`
    : `${symbol}: everything holds, in the bar in which its condition began`
}

/** What a plan has to say besides its verdicts. */
export function sayNote(note: Note): string {
  const { symbol } = note
  if (note.why === 'told') return `${symbol}: its condition began, the last price is ${priceText(note.last)}`
  if (note.why === 'points refused') return `${symbol}: points were not taken. ${note.text}`
  if (note.why === 'by hand') {
    const { withoutStop } = note
    const bare =
      withoutStop === undefined || note.does === 'LetGo'
        ? ''
        : `. ${decimal(withoutStop, 0)} ${withoutStop === 1 ? 'share has' : 'shares have'} no stop`
    return `${symbol}: ${HAND[note.did]} by hand; ${doesText(note.does)}${bare}`
  }
  if (note.why !== 'let go') return `${symbol}: ${ANSWERS[note.why]}`
  const { before, left, by, does } = note
  const whose = by ? `the plan ${by}` : 'not by this plan'
  const [had, has, gone] = [before, left, before - left].map((x) => decimal(Math.abs(x), 0))
  const closed = `${left === 0 ? `its ${had}` : `${gone} of its ${had}`} ${gone === '1' ? 'was' : 'were'} closed (${whose})`
  const rest = left === 0 ? '' : `, ${has} ${has === '1' ? 'is' : 'are'} left`
  return `${symbol}: ${closed}${rest}${does ? `. ${sentence(doesText(does))}` : ''}`
}

const HAND = {
  'less held': 'some was closed',
  'more held': 'more was bought, or sold short,',
  'order moved': 'an order of it was moved',
  'order canceled': 'an order of it was canceled',
}

const sentence = (text: string): string => `${text[0].toUpperCase()}${text.slice(1)}`

/** What a plan does after a hand, in words. */
const doesText = (does: ByHand): string =>
  ({
    LetGo: 'the plan gives it up, and withdraws its own stop and target',
    TakeOver: 'the plan takes your change over; it enters there no more until you hand it back',
    StandStill: 'the plan leaves it alone until you hand it back',
  })[does]

const ANSWERS = {
  approved: 'approved by hand',
  declined: 'declined by hand',
  'not answered': 'nobody answered in time, nothing was sent',
}

/** What a plan has come to: "holds 416 OSPRY; its trades of the day have taken 12.30". */
export function resultText({
  held,
  takenE4,
  withoutStop = {},
}: {
  held: Readonly<Record<string, number>>
  takenE4: number
  withoutStop?: Readonly<Record<string, number>>
}): string {
  const own = Object.entries(held).map(([symbol, quantity]) => {
    const bare = withoutStop[symbol]
    return `${decimal(quantity, 0)} ${symbol}${bare ? ` (${bare === Math.abs(quantity) ? 'without a stop' : `${decimal(bare, 0)} of them without a stop`})` : ''}`
  })
  return `holds ${own.length > 0 ? own.join(', ') : 'nothing'}; its trades of the day have taken ${decimal(fromE4(takenE4), 2)}, commission counted`
}

/** A fill in words: "Buy 100 OSPRY at 12.34"; of several legs "6 × BUOYS filled, each receives 2.13". */
export function sayFill({ side, lastQty = 0, symbol, lastPx = 0, legs }: ExecutionReport): string {
  const much = decimal(lastQty, 0)
  return legs
    ? `${much} × ${symbol} filled, each ${netText(lastPx)}`
    : `${side} ${much} ${symbol} at ${priceText(lastPx)}`
}
