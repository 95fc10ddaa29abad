import { decimal, moneyText, priceText } from '../market/money'
import { sayFinding } from '../orders/say'
import { timeText } from '../plans/times'
import { type ClauseFinding, deciding, type Measured, togetherOf, type Trace } from './verdicts'

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
      return finding.why === 'listed'
        ? `${finding.symbol} is on the list`
        : `${finding.symbol} is not on the list`
    case 'If':
      return finding.verdict === 'unknown' ? 'unknown: not enough bars yet' : finding.rule
    case 'Provided':
      return `${finding.name}: ${finding.sentence}`
    case 'Do':
      return ofDo(finding)
    case 'Then':
      return ofThen(finding)
    case 'Never':
      return ofNever(finding)
  }
}

type Of<Clause> = Extract<ClauseFinding, { clause: Clause }>

function ofWhen(finding: Of<'When'>): string {
  if (finding.why === 'closed') return 'the venue is closed'
  if (finding.why === 'weekday') return 'not on this day of the week'
  const { from, until } = finding
  if (finding.why === 'too early') return `too early: it enters from ${timeText(from!)}`
  if (finding.why === 'too late') return `too late: it enters until ${timeText(until!)}`
  const bounds = [from && `from ${timeText(from)}`, until && `until ${timeText(until)}`].filter(Boolean)
  return `in the session${bounds.length > 0 ? `, ${bounds.join(' ')}` : ''}`
}

function ofDo(finding: Of<'Do'>): string {
  switch (finding.why) {
    case 'order':
      return `${decimal(finding.quantity, 0)} at about ${priceText(finding.entry)}`
    case 'no order':
      return finding.sentence
    case 'held already':
      return `it holds ${decimal(finding.held, 0)} already`
    case 'works already':
      return 'an order of it works already'
    case 'refused':
      return sayFinding(finding.finding).sentence
  }
}

function ofThen(finding: Of<'Then'>): string {
  if (finding.why === 'none') return 'no exits at the broker'
  const { stop, target } = finding
  const levels = [
    target !== undefined && `target ${priceText(target)}`,
    stop !== undefined && `stop ${priceText(stop)}`,
  ]
  return `${levels.filter(Boolean).join(', ')}, at the broker, from the fill`
}

function ofNever({ why, value, limit }: Of<'Never'>): string {
  const least = why === 'buying power left'
  if (!value || !limit) return `${why} is not known`
  return `${why}: ${measuredText(value)}, ${least ? 'at least' : 'at most'} ${measuredText(limit)}`
}

/** What a trace came to, in a sentence: "No order: widest spread: the quoted spread is 0.25 %". */
export function sayTrace({ symbol, findings, clOrdId }: Trace): string {
  if (clOrdId) {
    const order = findings.find((one) => one.clause === 'Do')
    return `${symbol}: orders ${order ? sayClause(order) : ''}`
  }
  const decided = deciding(findings)
  if (!decided) return `${symbol}: everything holds, and the condition did not begin now`
  const verdict = togetherOf(findings) === 'unknown' ? 'cannot tell' : 'no order'
  return `${symbol}: ${verdict}. ${decided.clause}: ${decided.clause === 'If' && decided.verdict === 'fails' ? 'not met, ' : ''}${sayClause(decided)}`
}
