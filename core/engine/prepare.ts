import { type Bars } from '../market/bars'
import { type Holding } from '../market/holdings'
import { timeframeText } from '../market/timeframe'
import { type Venue } from '../market/venue'
import { type Plan, type Side } from '../plans/document'
import { wayOf } from '../plans/entry'
import { asksOfState } from '../plans/looks'
import { putsOff } from '../plans/putsOff'
import { type Reading, readingsOf, treesIn } from '../plans/texts'
import { compile, readsOf } from '../rules'
import { type Graph } from '../rules/exec/graph'
import { type Turn, Turns } from '../rules/exec/turns'
import { besideAbout, besidesOf, togetherWith } from './besides'
import { askedOfBroker, broughtOf, type BroughtStream, streamsOf } from './brought'
import { clockOf, type VenueClock } from './clock'
import { type Listed } from './listed'
import { readsQuotes } from './quoted'
import { type PlanState, type Watched } from './state'

/** Rule text of a side that is asked of the same bars, compiled to one graph, and where each text lies in it. */
export interface PreparedReading {
  /** Of its bars, as events name it. */
  every: string
  graph: Graph
  place: ReadonlyMap<string, number>
  /** Other securities of the broker's that its rule text names, and who is fed bars of a security beside his own. */
  named: readonly string[]
  /** Bars that the plan carries and that it reads, by name. */
  brought: ReadonlyMap<string, Bars>
  readers: Map<string, Follower[]>
  /** One machine for all of its securities of a zone; what reads beside it bars of another has its own. */
  turns: Map<string, Turns>
  /** Whether it is asked between bars. */
  ticks: boolean
  /** Whether its rule text reads the quote on the last bar. */
  quoted: boolean
  /** Whether its rule text compares each price with the one before: of what passed, the bar tells nothing new. */
  pathed: boolean
}

/** One side made ready: what it asks of the bars of If. */
export interface PreparedSide extends PreparedReading {
  side: Side
  /** Securities that it looks at now; of pairs the first. */
  members: Map<string, Follower>
  /** Of pairs: the other of each, both ways. */
  mates: ReadonlyMap<string, string>
  /** Whether what its bars come to is put off to the next session (see nextSession). */
  nextSession: boolean
  /** What it asks of bars of its own while something is held, where Then names some. */
  held?: PreparedReading
}

/** One security of a side as it is followed: the memory of its rule text, and what is held of it, as that asks for it. */
export interface Follower {
  key: string
  symbol: string
  /** The side, and which of its readings. */
  side: number
  reading: PreparedReading
  /** Securities whose bars are read beside its own, and under which name. */
  besides: ReadonlyMap<string, string>
  /** How far it has come in bars that the plan carries. */
  streams: readonly BroughtStream[]
  /** Names of those beside it whose bars end with its own: they are waited for. */
  awaited: readonly string[]
  memory: Turn
  holdings: Holding[]
  clock: VenueClock
  /** The same as in the state, once a bar has come. */
  watched?: Watched
}

/** A plan made ready to be stepped. */
export interface Prepared {
  plan: Plan
  sides: readonly PreparedSide[]
  /** By side and security (see keyOf and heldKey). */
  followers: Map<string, Follower>
  /** Venues of what it looks at, or has looked at. */
  venues: Set<Venue>
  /** Until then no day of any of them turns. */
  sameUntil: number
  listed: Readonly<Record<string, Listed>>
  /** What is added up over all that the plan holds and has done today, for a second of the market or until any of it changes. */
  sums?: { at: number; exposure: number; entries: number; takenE4: number }
}

export const keyOf = (side: number, symbol: string): string => `${side} ${symbol}`
/** Of what a side asks of bars of its own while the security is held. */
const heldKey = (side: number, symbol: string): string => `${side} ${symbol} held`

/** Who follows a security on the bars that Then names; undefined where it names none. */
export const heldFollower = (
  { sides, followers }: Prepared,
  side: number,
  symbol: string,
): Follower | undefined => (sides[side].held ? followers.get(heldKey(side, symbol)) : undefined)

/** Everyone who follows a security on bars of one length. */
export function* followersOn(
  { sides, followers }: Prepared,
  symbol: string,
  every: string,
): Generator<Follower> {
  for (let i = 0; i < sides.length; i++) {
    const { held } = sides[i]
    const own = sides[i].every === every ? followers.get(keyOf(i, symbol)) : undefined
    if (own) yield own
    const watching = held?.every === every ? followers.get(heldKey(i, symbol)) : undefined
    if (watching) yield watching
  }
}

const matesOf = ({ among }: Side): Map<string, string> =>
  new Map(
    'pairs' in among
      ? among.pairs.flatMap(([one, other]): [string, string][] => [
          [one, other],
          [other, one],
        ])
      : [],
  )

/** The securities that a side names itself, of pairs the first; none where they are found. */
const namedIn = ({ among }: Side): readonly string[] =>
  'list' in among ? among.list : 'pairs' in among ? among.pairs.map(([first]) => first) : []

function readingOf(plan: Plan, reading: Reading, ticks: boolean): PreparedReading {
  const { every } = reading
  const { trees, place } = treesIn(reading)
  const reads = readsOf(trees, every)
  return {
    every: timeframeText(every),
    graph: compile(trees, every),
    place,
    named: askedOfBroker(plan, reads.symbols),
    brought: broughtOf(plan, reads.symbols, every),
    readers: new Map(),
    turns: new Map(),
    ticks,
    quoted: readsQuotes(reads),
    pathed: reads.columns.has('from'),
  }
}

/**
 * Makes a plan ready. Throws RangeError for one whose rule text does not check, or that names a security which is not listed.
 * `universe`: the securities of each side, where they are not those that it names.
 */
export function prepare(
  plan: Plan,
  listed: Readonly<Record<string, Listed>>,
  universe: readonly (readonly string[])[] = plan.sides.map(namedIn),
): Prepared {
  const { look } = plan.when
  const sides = plan.sides.map((side): PreparedSide => {
    const [own, held] = readingsOf(side)
    return {
      ...readingOf(plan, own, look !== 'Bar' && !asksOfState(look)),
      side,
      members: new Map(),
      mates: matesOf(side),
      nextSession: putsOff(plan, side),
      held: held && readingOf(plan, held, side.then.on?.bars === 'SoFar'),
    }
  })
  const prepared: Prepared = {
    plan,
    sides,
    followers: new Map(),
    venues: new Set<Venue>(),
    sameUntil: 0,
    listed,
  }
  universe.forEach((symbols, at) => join(prepared, at, symbols))
  return prepared
}

/** Puts securities in place of those that a side looked at. Throws RangeError for one that is not listed. */
export function join(prepared: Prepared, at: number, symbols: readonly string[]): void {
  const { listed, sides } = prepared
  const { members } = sides[at]
  const missing = symbols.find((symbol) => !listed[symbol])
  if (missing !== undefined)
    throw new RangeError(`The broker lists no ${missing}. Take it out of Among, or name another.`)
  members.clear()
  for (const symbol of symbols) members.set(symbol, followed(prepared, at, symbol))
}

/** Who follows a security for a side, from now on where nobody did: what is held is followed also where it is looked for no more. */
function followed(prepared: Prepared, at: number, symbol: string): Follower {
  const { listed, sides, followers, venues } = prepared
  const key = keyOf(at, symbol)
  const there = followers.get(key)
  if (there) return there
  venues.add(listed[symbol].venue)
  prepared.sameUntil = 0
  const { held } = sides[at]
  const holdings: Holding[] = []
  const follower = newFollower(prepared, { key, side: at, symbol, reading: sides[at], holdings })
  followers.set(key, follower)
  if (held) {
    const under = heldKey(at, symbol)
    followers.set(under, newFollower(prepared, { key: under, side: at, symbol, reading: held, holdings }))
  }
  return follower
}

function newFollower(
  { plan, listed, sides }: Prepared,
  part: Pick<Follower, 'key' | 'side' | 'symbol' | 'reading' | 'holdings'>,
): Follower {
  const { side, symbol, reading, holdings } = part
  const { turns, graph, named, readers } = reading
  const { venue, security, reports } = listed[symbol]
  let shared = turns.get(venue.zone)
  if (!shared) turns.set(venue.zone, (shared = new Turns(graph, venue.zone)))
  const { currency, increments } = security
  const besides = besidesOf(sides[side].side, named, symbol, listed)
  const memory = shared.join({
    ...{ currency, increments, holdings, drawings: plan.drawings?.[symbol] },
    reports: plan.figures?.[symbol] ?? reports,
    besideOf: besideAbout(besides, listed, reading.brought),
  })
  const follower: Follower = {
    key: part.key,
    symbol,
    side,
    reading,
    besides,
    streams: streamsOf(reading.brought),
    awaited: togetherWith(besides, symbol, listed),
    memory,
    holdings,
    clock: clockOf(venue),
    watched: undefined,
  }
  for (const other of besides.keys()) readers.set(other, [...(readers.get(other) ?? []), follower])
  return follower
}

/** The side that opened, or would open, so much of a security: of a pair the other goes the other way. */
export function sideOf({ sides }: Pick<Prepared, 'sides'>, symbol: string, way: number): number {
  return sides.findIndex(({ side, mates }) => {
    const own = wayOf(side.do)
    const isSecond = 'pairs' in side.among && side.among.pairs.some(([, second]) => second === symbol)
    return own !== 0 && (isSecond && mates.has(symbol) ? -own : own) === way
  })
}

/** Value of a measure, or answer of a rule, of a side as it stands; NaN where the security is not followed. */
export function valueOf({ sides, followers }: Prepared, at: number, symbol: string, text: string): number {
  return followers.get(keyOf(at, symbol))?.memory.value(sides[at].place.get(text)!) ?? NaN
}

/** The same of rule text that is asked while something is held, on the bars that Then names. */
export function heldValue(prepared: Prepared, at: number, symbol: string, text: string): number {
  const { held } = prepared.sides[at]
  if (!held) return valueOf(prepared, at, symbol, text)
  return heldFollower(prepared, at, symbol)?.memory.value(held.place.get(text)!) ?? NaN
}

/** Tells rule text about the position what the plan holds now; what is held is followed from then on. */
export function tellHeld(prepared: Prepared, { held }: PlanState, symbol: string): void {
  const { sides, followers, listed } = prepared
  const own = held[symbol]
  if (!own || !listed[symbol]) return
  const { quantity, paid, opened, legs } = own
  const now = {
    since: opened,
    shares: quantity,
    // A net price is no price of the security: what it has gained by that is not known.
    averagePrice: quantity === 0 || legs ? NaN : paid / quantity,
    opened,
  }
  const its = sides[own.side]
  if (quantity !== 0 && its && isFollowed(its.side, symbol)) followed(prepared, own.side, symbol)
  sides.forEach((one, at) => {
    if ('close' in one.side.do) return
    const there = followers.get(keyOf(at, symbol))?.holdings
    if (there) there.splice(0, there.length, now)
  })
}

/** Whether rule text of a side is asked of a security: of a pair it is asked of the first, and reads the other. */
const isFollowed = ({ among }: Side, symbol: string): boolean =>
  !('pairs' in among) || among.pairs.some(([first]) => first === symbol)
