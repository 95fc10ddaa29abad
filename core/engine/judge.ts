import { candidateOf } from '../book/candidate'
import { type Candidate, type CandidateName, COMPANY_NAMES } from '../market/candidate'
import { daysToEarnings } from '../market/figures'
import { checkOrder, reckonedPrice } from '../orders/check'
import { refusal } from '../orders/findings'
import { gateVerdict, namesAsked } from '../orders/gates'
import { type NewOrder } from '../orders/model'
import { type OrderFacts } from '../orders/orderFacts'
import { type Side, type When } from '../plans/document'
import { type Then } from '../plans/exits'
import { scoreVerdict } from '../plans/score'
import { FAILS, HOLDS } from '../rules'
import { neverOf } from './never'
import { keptFromAdding } from './keptFromAdding'
import { type Asked } from './asked'
import { handOf } from './byHand'
import { clockOf, type WhenWhy } from './clock'
import { scoredOf } from './scored'
import { draft, type Draft } from './draft'
import { refusalOf } from './refusals'
import { orderFactsAt, type Shared, withReserved } from './shared'
import { type Prepared } from './prepare'
import { type PlanState } from './state'
import { type ClauseFinding, type Figures } from './verdicts'

/** What every clause came to, and the order that would be sent; all of them are judged, whatever the others say. */
export interface Judged {
  findings: ClauseFinding[]
  order?: NewOrder
  /** Of a pair: what is sent together with it. */
  mate?: NewOrder
}

/** Judges every clause of a side for a security, and makes the order that it would send. */
export function judge(prepared: Prepared, state: PlanState, shared: Shared, asked: Asked): Judged {
  const { side, members } = prepared.sides[asked.side]
  const made = draft(prepared, state, shared, asked)
  const order = 'order' in made ? made.order : undefined
  const mate = 'order' in made ? made.mate : undefined
  const facts = order && orderFactsAt(shared, order, asked.at)
  // The second leg is checked with the first reserved, as it will be.
  const mateFacts = order && mate && orderFactsAt(withReserved(shared, order), mate, asked.at)
  const among: ClauseFinding = members.has(asked.symbol)
    ? { clause: 'Among', why: 'listed', symbol: asked.symbol, verdict: 'holds' }
    : { clause: 'Among', why: 'not listed', symbol: asked.symbol, verdict: 'fails' }
  const findings = [
    whenOf(prepared, asked),
    among,
    asked.byDistance ? distanceFinding(state, shared, asked) : ifFinding(side, asked.condition),
  ]
  for (const one of providedOf(prepared, side, shared, asked, order, facts)) findings.push(one)
  for (const one of viewOf(state, shared, side, asked)) findings.push(one)
  for (const one of scoreOf(prepared, state, side, asked)) findings.push(one)
  for (const one of doOf(prepared, state, asked, made, facts, mateFacts)) findings.push(one)
  findings.push(thenOf(side, made))
  if (!('close' in side.do))
    for (const one of neverOf(prepared, state, shared, asked, { order, mate, facts })) findings.push(one)
  return { findings, order, mate }
}

function whenOf({ plan: { when }, sides, listed }: Prepared, { side, symbol, at }: Asked): ClauseFinding {
  const clock = clockOf(listed[symbol].venue)
  if (!forTheOpening(sides[side].side)) return whenFinding(when, clock.whenAt(when, at))
  const why = clock.beforeOpen(when, at)
  return why === 'in time'
    ? { clause: 'When', why: 'before the open', verdict: 'holds' }
    : { clause: 'When', why, verdict: 'fails' }
}

/** Whether a side orders for the opening auction. */
export const forTheOpening = ({ do: deed }: Side): boolean =>
  'open' in deed && deed.timeInForce === 'AtTheOpening'

export function whenFinding({ from, until }: When, why: WhenWhy): ClauseFinding {
  const verdict = why === 'in time' ? 'holds' : 'fails'
  return why === 'closed' || why === 'weekday' || why === 'month day'
    ? { clause: 'When', why, verdict }
    : { clause: 'When', why, from, until, verdict }
}

export const ifFinding = ({ if: { rule } }: Side, condition: number): ClauseFinding => ({
  clause: 'If',
  why: 'condition',
  rule,
  verdict: condition === HOLDS ? 'holds' : condition === FAILS ? 'fails' : 'unknown',
})

const distanceFinding = ({ held }: PlanState, { quotes }: Shared, { symbol }: Asked): ClauseFinding => ({
  ...{ clause: 'If', why: 'distance', verdict: 'holds' },
  ...{ last: quotes[symbol].last, from: held[symbol].lastPx! },
})

/** Figures that hang on the exits of an order. */
const OF_EXITS: ReadonlySet<CandidateName> = new Set<CandidateName>(['order loss', 'return on risk'])

const OF_COMPANY: ReadonlySet<CandidateName> = new Set<CandidateName>(COMPANY_NAMES)

const asks = ({ provided }: Side, names: ReadonlySet<CandidateName>): boolean =>
  provided.some(({ rule }) => namesAsked(rule).some((name) => names.has(name)))

/** Days to the next report of the company; figures of the trader's own come before the broker's. */
function reportIn({ plan }: Prepared, { listed }: Shared, symbol: string, at: number): number {
  const { venue, reports = [] } = listed[symbol]
  return daysToEarnings(plan.figures?.[symbol] ?? reports, at, clockOf(venue).at(at).date)
}

/** What a gate asks of an order, as far as it is known. */
function figuresOf(rule: string, candidate: Candidate): Figures {
  const figures: Figures = {}
  for (const name of namesAsked(rule)) if (Number.isFinite(candidate[name])) figures[name] = candidate[name]
  return figures
}

function providedOf(
  prepared: Prepared,
  side: Side,
  shared: Shared,
  { symbol, at }: Asked,
  order: NewOrder | undefined,
  facts: OrderFacts | undefined,
): ClauseFinding[] {
  if (!order || !facts)
    return side.provided.map(({ name }) => ({
      clause: 'Provided',
      why: 'no order',
      name,
      verdict: 'unknown',
    }))
  if (side.provided.length === 0) return []
  const { venue } = shared.listed[symbol]
  const candidate = candidateOf(shared.book, order, facts, {
    at,
    date: clockOf(venue).at(at).date,
    known: false,
    market: shared.market[venue.mic],
    exits: asks(side, OF_EXITS),
    daysToReport: asks(side, OF_COMPANY) ? reportIn(prepared, shared, symbol, at) : undefined,
  })
  const { currency } = facts
  return side.provided.map(({ name, rule }) => ({
    clause: 'Provided',
    why: 'gate',
    name,
    rule,
    figures: figuresOf(rule, candidate),
    currency,
    verdict: gateVerdict(rule, candidate, currency),
  }))
}

/** The trader's own view: of this day, or not known. */
function viewOf(state: PlanState, shared: Shared, { view: wanted }: Side, { at }: Asked): ClauseFinding[] {
  if (!wanted) return []
  const { date } = clockOf(shared.home).at(at)
  const said = state.view?.date === date ? state.view.view : undefined
  const verdict = said === undefined ? 'unknown' : said === wanted ? 'holds' : 'fails'
  return [{ clause: 'Provided', why: 'view', wanted, ...(said === undefined ? {} : { view: said }), verdict }]
}

function scoreOf(prepared: Prepared, state: PlanState, { score }: Side, asked: Asked): ClauseFinding[] {
  if (!score) return []
  const { side, symbol, at, event = symbol } = asked
  const lines = scoredOf({ prepared, state, at }, side, symbol, event)
  const { sum, verdict } = scoreVerdict(score, lines)
  return [{ clause: 'Provided', why: 'score', sum, least: score.least, lines, verdict }]
}

function doOf(
  prepared: Prepared,
  state: PlanState,
  asked: Asked,
  made: Draft,
  facts: OrderFacts | undefined,
  mateFacts: OrderFacts | undefined,
): ClauseFinding[] {
  const { side, symbol, at } = asked
  const { do: deed } = prepared.sides[side].side
  if (!('order' in made)) return made.finding.clause === 'Do' ? [made.finding] : []
  const hand = handOf(state, symbol) ?? (made.mate && handOf(state, made.mate.symbol))
  if (hand) return [{ clause: 'Do', why: 'by hand', at: hand.at, text: hand.text, verdict: 'fails' }]
  const kept = keptFromAdding(prepared, state, asked)
  if (kept) return [kept]
  if (state.working[symbol]) return [{ clause: 'Do', why: 'works already', verdict: 'fails' }]
  const more = (state.held[symbol]?.quantity ?? 0) !== 0
  if (!more && 'most' in deed && deed.most !== undefined && takenUp(state) >= deed.most)
    return [{ clause: 'Do', why: 'enough at a time', most: deed.most, verdict: 'fails' }]
  const { mate, net, wanted } = made
  if (mate)
    for (const one of [undefined, mate.symbol]) {
      const text = refusalOf(prepared, state, one ?? symbol, at)
      if (text !== undefined)
        return [{ clause: 'Do', why: 'refused today', text, mate: one, verdict: 'fails' }]
    }
  const refused = refusal(checkOrder(made.order, facts!))
  if (refused) return [{ clause: 'Do', why: 'refused', finding: refused, verdict: 'fails' }]
  const mateRefused = mate && refusal(checkOrder(mate, mateFacts!))
  if (mateRefused)
    return [{ clause: 'Do', why: 'refused', finding: mateRefused, mate: mate.symbol, verdict: 'fails' }]
  if (net !== undefined) {
    const { orderQty: quantity, legs = [] } = made.order
    return [{ clause: 'Do', why: 'whole', verdict: 'holds', quantity, net, legs, wanted }]
  }
  const entry = made.drafted?.entry ?? reckonedPrice(made.order, facts!) ?? 0
  const other = mate && { symbol: mate.symbol, side: mate.side, quantity: mate.orderQty! }
  return [
    {
      clause: 'Do',
      why: 'order',
      verdict: 'holds',
      quantity: made.order.orderQty!,
      entry,
      mate: other,
      wanted,
    },
  ]
}

/** Securities that the plan holds, or has orders for. */
const takenUp = ({ held, working }: PlanState): number =>
  new Set([...Object.keys(working), ...Object.keys(held).filter((symbol) => held[symbol].quantity !== 0)])
    .size

function thenOf(side: Side, made: Draft): ClauseFinding {
  if (!('order' in made) && made.finding.clause === 'Then') return made.finding
  if ('order' in made && made.net !== undefined && side.then.net)
    return { clause: 'Then', why: 'net', verdict: 'holds', ...netExits(side.then.net, made.net) }
  const first = 'order' in made ? made.drafted?.parts[0] : undefined
  if (!side.then.exits || !first) return { clause: 'Then', why: 'none', verdict: 'holds' }
  return {
    clause: 'Then',
    why: 'exits',
    verdict: 'holds',
    stop: first.stop?.price,
    target: first.target?.price,
  }
}

/** Net prices of the closing legs at which so many percent are gained or lost. */
function netExits({ gain, loss }: NonNullable<Then['net']>, net: number): { gain?: number; loss?: number } {
  const at = (percent: number) => -(net + (Math.abs(net) * percent) / 100)
  return {
    ...(gain === undefined ? {} : { gain: at(gain) }),
    ...(loss === undefined ? {} : { loss: at(-loss) }),
  }
}
