import { boundOf } from '../orders/gateBound'
import { timeOfDay } from '../market/moments'
import { sayClause } from './say'
import { type ClauseFinding } from './verdicts'

/** Of all looks at which the condition held and nothing was ordered, the one that came closest. */
export interface Miss {
  symbol: string
  at: number
  /** What stopped it, the clause that was furthest from holding first. */
  findings: readonly ClauseFinding[]
  /** How far it was from an order: shares of the limits by which figures missed them, added up. */
  gap: number
}

/** A clause without a figure counts as a whole limit. */
const NO_FIGURE = 1

/** By which share of its limit a clause that fails was missed. */
function gapOf(finding: ClauseFinding): number {
  if (finding.clause === 'Provided' && finding.why === 'gate') {
    const bound = boundOf(finding.rule)
    return bound ? share(finding.figures[bound.name], bound.limit) : NO_FIGURE
  }
  if (finding.clause === 'Provided' && finding.why === 'score') return share(finding.sum, finding.least)
  return share(finding.value?.amount, finding.limit?.amount)
}

const share = (value: number | undefined, limit: number | undefined): number =>
  value === undefined || !limit ? NO_FIGURE : Math.min(NO_FIGURE, Math.abs(value - limit) / Math.abs(limit))

/** A look at which all held and nothing began, which is told where there is no other miss. */
const NOT_BEGUN = Number.MAX_VALUE

/** A look that came to nothing. `began`: whether its condition began then, or what had begun still stood. */
export type LookMissed = Omit<Miss, 'gap'> & { began: boolean }

/** The nearer of a miss and another look; what is not known, or a condition that does not hold, is no miss. */
export function nearer(
  before: Miss | undefined,
  { symbol, at, findings, began }: LookMissed,
): Miss | undefined {
  if (!findings.some(({ clause, verdict }) => clause === 'If' && verdict === 'holds')) return before
  const stops = findings.filter(({ verdict }) => verdict !== 'holds')
  if (stops.length === 0 && !began) return before ?? { symbol, at, findings: [], gap: NOT_BEGUN }
  if (stops.length === 0 || stops.some(({ verdict, why }) => verdict === 'unknown' && why !== 'no order'))
    return before
  const measured = stops
    .filter(({ why }) => why !== 'no order')
    .map((finding) => ({ finding, gap: gapOf(finding) }))
    .sort((a, b) => b.gap - a.gap)
  const gap = measured.reduce((sum, one) => sum + one.gap, 0)
  return before && before.gap <= gap
    ? before
    : { symbol, at, findings: measured.map((one) => one.finding), gap }
}

/** "Nearest miss: OSPRY at 10:45, widest spread: …" */
export const missSentence = ({ symbol, at, findings }: Miss, zone: string): string =>
  `Nearest miss: ${symbol} at ${timeOfDay(at, zone)}, ${
    findings.map(sayClause).join('; ') ||
    'everything held, and the condition had begun before; it acts on what begins'
  }.`

/** "Looked 412 times and sent nothing. Nearest miss: OSPRY at 10:45, widest spread: …" */
export function missText(looks: number, sent: number, miss: Miss | undefined, zone: string): string {
  const times = looks === 1 ? 'once' : `${looks.toLocaleString('en-US')} times`
  const did = sent === 0 ? 'sent nothing' : `sent ${sent} ${sent === 1 ? 'entry' : 'entries'}`
  if (looks === 0) return 'It has not looked yet.'
  const nearest = miss
    ? missSentence(miss, zone)
    : 'Its condition was met at none of them, or only with an order.'
  return `Looked ${times} and ${did}. ${nearest}`
}
