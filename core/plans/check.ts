import { parseTimeframe, roughMinutes, type Timeframe, timeframeText } from '../market/timeframe'
import { partsOf } from '../orders/exits'
import { wrongPlanGate } from '../orders/gates'
import { type Node, nodesOf, readsOf } from '../rules'
import { contradictions } from './contradictions'
import { Plan, type Side } from './document'
import { missingDrawings } from './drawn'
import { type Adds, type Open, type OpenLegs } from './entry'
import { isOption, underlyingOf } from '../options/osi'
import { wrongLegs } from '../orders/legs'
import { bound, wrongInputs } from './inputs'
import { looksAtEvents } from './looks'
import { type PlanLevel } from './exits'
import { type Found, wrongFound } from './found'
import { type PlanIssue } from './issue'
import {
  checkText,
  measureOfPrice,
  type PlanText,
  pricesOf,
  type Reading,
  readingsOf,
  wrongText,
} from './texts'

/** Everything that a plan's own text tells of it, before any market is asked. */
export function planIssues(given: Plan): PlanIssue[] {
  const unfit = unfitInputs(given)
  if (unfit.length > 0) return unfit
  const plan = bound(given)
  const missing = missingDrawings(plan)
  return [
    ...plan.sides.flatMap((_side, at) => sideIssues(plan, at)),
    ...plan.sides.flatMap((side, at): PlanIssue[] =>
      leavesInVain(side, plan.opposite)
        ? [
            {
              ...{ clause: 'Then', side: at, is: 'warning' },
              text: 'it is left by stop and target alone, which the broker holds: the limit for leaving is of no use',
            },
          ]
        : [],
    ),
    ...(missing === undefined ? [] : [{ clause: 'If', side: 0, is: 'error', text: missing } as const]),
    ...pricesIssues(plan),
    ...wrongInputs(given).map((text) => ({ clause: 'If', side: 0, is: 'error', text }) as const),
    ...neverIssues(plan),
    ...contradictions(plan),
  ]
}

/** Values of inputs with which a plan is none: a length of nought, a share of 120 %. */
function unfitInputs(plan: Plan): PlanIssue[] {
  if (!plan.inputs) return []
  // What it carries is of no input, and may be long.
  const { events: _events, figures: _figures, drawings: _drawings, bars: _bars, ...rest } = bound(plan)
  const { error } = Plan.safeParse(rest)
  return (error?.issues ?? []).slice(0, 3).map(({ path, message }) => ({
    ...{ clause: 'If', side: 0, is: 'error' },
    text: `with the values of its inputs, ${path.join('.')}: ${message}`,
  }))
}

function sideIssues(plan: Plan, at: number): PlanIssue[] {
  const side = plan.sides[at]
  const out: PlanIssue[] = []
  const say: Say = (clause, text, is = 'error') => out.push({ clause, side: at, is, text })
  for (const reading of readingsOf(side)) textIssues(reading, 'pairs' in side.among, plan.bars, say)
  const lost =
    'found' in side.among
      ? (wrongFound(side.among.found) ?? unfitSearch(side.among.found, plan.bars))
      : undefined
  if (lost) say('Among', lost)
  if ('pairs' in side.among) pairIssues(side, side.among.pairs, say)
  for (const gate of side.provided) {
    const wrong = wrongPlanGate(gate)
    if (wrong) say('Provided', `${gate.name}: ${wrong}`)
  }
  if ('open' in side.do) openIssues(side, side.do, plan.never.share !== undefined, say)
  if ('close' in side.do && side.do.unfilled && side.do.price === 'market')
    say('Do', 'what goes at the market does not wait: give a limit, or take away what follows it')
  if ('legs' in side.do) legsIssues(side, side.do, say)
  else if ((side.then.net && !('pairs' in side.among)) || side.then.daysLeft !== undefined)
    say('Then', 'a net price and days that are left are of several legs, and this opens none')
  const events = looksAtEvents(plan.when.look)
  if ('any' in side.among && !events)
    say('Among', 'any security is looked at only when an event tells of it: have it look when an event comes')
  if ('open' in side.do && side.do.timeInForce === 'AtTheOpening') {
    if (!events)
      say(
        'Do',
        'an order for the opening auction is of an event: have it look when an event comes, or let it be good for the day',
      )
    if (side.do.rests) say('Do', 'an order for the opening auction does not rest: take one of the two away')
  }
  return out
}

function textIssues({ every, texts }: Reading, pairs: boolean, own: Plan['bars'], say: Say): void {
  const known = new Set<string>()
  for (const one of texts) {
    if (known.has(one.text)) continue
    known.add(one.text)
    const wrong = wrongText(one, every) ?? strangeTo(one, every, pairs) ?? unfitBars(one, every, own)
    if (wrong) say(one.clause, wrong)
    else if (one.is === 'rule' && neverKnown(checkText(one, every).tree!))
      say(
        one.clause,
        'an opening range is not known in its first minutes, and first(…) is unknown from there on; write first(certainly(…))',
      )
  }
}

/** What a text reads that a plan cannot follow. */
function strangeTo(one: PlanText, every: Timeframe, pairs: boolean): string | undefined {
  const { sources, finer, mate } = readsOf([checkText(one, every).tree!], every)
  const strange = [...sources].find((source) => !FOLLOWED.has(source))
  if (strange) return `“${one.text}” asks about ${strange}, which a plan cannot follow yet`
  if (mate && !pairs) return `“${one.text}” asks about the other of a pair, and this looks at no pairs`
  return finer.length > 0
    ? `“${one.text}” asks about finer bars than its own; name those of ${one.clause === 'Then' ? 'Then' : 'If'}`
    : undefined
}

/** What a text reads of bars that the plan carries and that are longer than it asks for. */
function unfitBars(
  one: Pick<PlanText, 'text' | 'is'>,
  every: Timeframe,
  own: Plan['bars'] = {},
): string | undefined {
  const { finestOf } = readsOf([checkText(one, every).tree!], every)
  for (const [name, asked] of finestOf) {
    const { every: is } = own[name] ?? {}
    if (is === undefined || roughMinutes(parseTimeframe(is)!) <= roughMinutes(asked)) continue
    return `“${one.text}” asks for bars of ${timeframeText(asked)} of ${name}, and your own are of ${is}: write beside("${name}", on(${is}, …)), or bring finer ones`
  }
  return undefined
}

/** The same of the rule text of a search. */
function unfitSearch({ rule, by, every }: Found, own: Plan['bars']): string | undefined {
  const frame = parseTimeframe(every)!
  const measure = by === undefined ? undefined : unfitBars({ text: by, is: 'price' }, frame, own)
  return unfitBars({ text: rule, is: 'rule' }, frame, own) ?? measure
}

/** Whether a first time is asked for of what cannot be known on the first bars of a session. */
const neverKnown = (tree: Node): boolean =>
  [...nodesOf(tree)].some(
    (node) =>
      isCall(node, 'first') &&
      node.args.some(
        (arg) => !isCall(arg, 'certainly') && [...nodesOf(arg)].some((one) => isCall(one, 'opening')),
      ),
  )
const isCall = (node: Node, name: string): node is Extract<Node, { kind: 'call' }> =>
  node.kind === 'call' && node.name === name

const FOLLOWED: ReadonlySet<string> = new Set([
  'bars',
  'increment',
  'currency',
  'position',
  'drawing',
  'figures',
])

function pairIssues({ do: deed, then }: Side, pairs: readonly (readonly [string, string])[], say: Say): void {
  const all = pairs.flat()
  const twice = all.find((symbol, i) => all.indexOf(symbol) !== i)
  if (twice)
    say('Among', `${twice} stands in more than one pair, and what is held of it could not be told apart`)
  if (!('open' in deed) || !deed.mate) say('Do', 'of a pair both are traded: say in which ratio')
  if (then.exits || then.moves)
    say('Then', 'a pair is left by a rule or by the time: a stop at the broker knows one of the two alone')
}

type Say = (clause: PlanIssue['clause'], text: string, is?: PlanIssue['is']) => void

/** What is wrong with contracts that are opened together. */
function legsIssues({ among, then }: Side, { legs }: OpenLegs, say: Say): void {
  if (!('list' in among) || among.list.length !== 1)
    return say('Among', 'contracts are of one security: name that one in a list')
  const [symbol] = among.list
  const strange = legs.find(({ contract }) => !isOption(contract) || underlyingOf(contract) !== symbol)
  if (strange) return say('Do', `${strange.contract} is no contract of ${symbol}`)
  const wrong = wrongLegs(
    legs.map(({ contract, side, ratio }) => ({ symbol: contract, legSide: side, legRatioQty: ratio })),
  )
  if (wrong) say('Do', wrong)
  if (then.leave) say('Then', 'several legs are left at the market: take the limit away')
  if (then.exits || then.moves)
    say('Then', 'several legs have no stop at the broker: leave by net price, days left, a rule or the time')
  const { net, daysLeft, leaveIf, outAt } = then
  const leaves = net?.gain !== undefined || net?.loss !== undefined
  if (!leaves && daysLeft === undefined && !leaveIf && !outAt)
    say('Then', 'there is no way out at all: the contracts stay until they end', 'warning')
  else if (net?.loss === undefined)
    say('Then', 'nothing bounds the loss before the contracts end: give a loss of the net price', 'warning')
}

function openIssues(side: Side, deed: Open, shared: boolean, say: Say): void {
  const { exits, outAt, leaveIf, moves = [], sessions, stopWaits } = side.then
  const parts = exits ? partsOf<PlanLevel>(exits) : []
  if (deed.mate && !('pairs' in side.among)) say('Do', 'a ratio is of pairs, and this looks at none')
  const stopped = parts.length > 0 && parts.every(({ stop }) => stop)
  if ('risk' in deed.size && deed.size.over === undefined && !stopped)
    say(
      'Do',
      'it is sized by what is lost at the stop, and Then has none for all of it; give a stop, a distance or another size',
    )
  if ('of' in deed.size && deed.size.of === 'Share' && !shared)
    say(
      'Do',
      'it is sized by the share of the plan, and Never says of no share; give one, such as 25 % of equity',
    )
  if (deed.adds) addIssues(deed.adds, 'pairs' in side.among, stopped, parts, say)
  if (deed.rests && measureOfPrice(deed.price) === undefined)
    say('Do', 'what rests until its price comes needs a price by a measure, as a limit or a stop')
  if (moves.some(({ of }) => of === 'Stop') && !stopped)
    say('Then', 'a stop is moved, and there is none for all of it')
  if (moves.some(({ of }) => of === 'Target') && !parts.every(({ target }) => target))
    say('Then', 'a target is moved, and there is none for all of it')
  if (stopWaits !== undefined && !exits?.stopLimit)
    say('Then', 'a stop waits at its limit, and has none: give the limit, or take the minutes away')
  if (exits?.timeInForce === 'Day' && stopped && (!outAt || (sessions ?? 1) > 1))
    say(
      'Then',
      'the stop ends with the session, and what is held may not: nothing protects it then',
      'warning',
    )
  if (exits?.stopLimit && stopWaits === undefined)
    say(
      'Then',
      'a stop that becomes a limit may stay unfilled while the price runs away: say when the rest goes at the market',
      'warning',
    )
  if (sessions !== undefined && outAt === undefined)
    say('Then', 'it is held for so many sessions: say at which time of the last it is closed')
  const isShort = 'open' in side.do && side.do.open === 'Short'
  const stays = isShort
    ? 'what is sold short stays until a hand buys it back'
    : 'what is bought stays until a hand sells it'
  if (parts.length === 0 && !outAt && !leaveIf && !side.then.net)
    say('Then', `there is no way out at all: ${stays}`, 'warning')
  else if (!stopped && !('pairs' in side.among))
    say('Then', 'nothing bounds the loss between entry and exit: there is no stop', 'warning')
}

/** What is wrong with ordering more of what is held. */
function addIssues(
  { after, stops }: Adds,
  pairs: boolean,
  stopped: boolean,
  parts: readonly { stop?: PlanLevel }[],
  say: Say,
): void {
  if (pairs && after !== 'Signal')
    say(
      'Do',
      'a pair is added to when its condition begins anew: a gain or a loss of one leg says nothing of both',
    )
  if (pairs && stops === 'Newest') say('Do', 'a pair has no stops at the broker: let each order keep its own')
  const byRisk = typeof after === 'object' && 'risk' in ('gain' in after ? after.gain : after.loss)
  if (byRisk && !stopped) say('Do', 'so many times the risk is measured by the stop, and Then has none')
  if (stops === 'Newest' && !stopped) say('Do', 'all stops go to the newest, and Then has none')
  if (stops === 'Newest' && parts.some(({ stop }) => stop && 'trail' in stop))
    say('Do', 'stops that trail go their own ways: let each keep its own')
  if (typeof after === 'object' && 'loss' in after)
    say('Do', 'it orders more of what loses: the loss of the day and the exposure bound it alone', 'warning')
}

/** Bars of one length are fetched once for both sides. */
function pricesIssues({ sides: [one, other] }: Plan): PlanIssue[] {
  if (!other || pricesOf(one) === pricesOf(other)) return []
  const lengths = (side: Side) => readingsOf(side).map(({ every }) => timeframeText(every))
  if (!lengths(one).some((every) => lengths(other).includes(every))) return []
  const text = 'both sides look at bars of one length: have them adjusted alike'
  return [{ clause: 'If', side: 1, is: 'error', text }]
}

/** Whether a limit for leaving is given, and the plan itself never leaves. */
const leavesInVain = ({ then }: Side, opposite: Plan['opposite']): boolean =>
  then.leave !== undefined && !then.leaveIf && !then.outAt && opposite === 'Ignore'

function neverIssues({ never, sides }: Plan): PlanIssue[] {
  if (sides.every((side) => 'close' in side.do || 'tell' in side.do)) return []
  if ((never.entriesInAll ?? never.entriesPerDay ?? never.exposure ?? never.share) !== undefined) return []
  return [
    {
      ...{ clause: 'Never', is: 'warning' },
      text: 'nothing bounds how much it may order in a day: give entries a day, or an exposure',
    },
  ]
}
