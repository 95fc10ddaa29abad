import { type Holding } from '../market/holdings'
import { timeframeText } from '../market/timeframe'
import { type Venue } from '../market/venue'
import { type Leg } from '../orders/legs'
import { type Plan, type Side } from '../plans/document'
import { wayOf } from '../plans/entry'
import { type Seen } from '../plans/seen'
import { type DayView } from '../plans/view'
import { everyOf, treesOf } from '../plans/texts'
import { compile, readsOf } from '../rules'
import { type Graph } from '../rules/exec/graph'
import { type LiveBar } from '../rules/exec/liveBar'
import { type Turn, Turns } from '../rules/exec/turns'
import { besideAbout, besidesNamed, besidesOf, togetherWith } from './besides'
import { clockOf, type VenueClock } from './clock'
import { type Listed } from './listed'
import { readsQuotes } from './quoted'

/** The beginning of a condition. */
export interface Signal {
  /** The bar in which it began; `end` is Infinity while that grows. */
  time: number
  end: number
  /** Last price then, and complete bars since. */
  price: number
  bars: number
}

/** One security as a side of a plan follows it. */
export interface Watched {
  /** The answer of the condition when it was last asked; see verdict.ts. */
  verdict: number
  /** Where the condition last began, once it has since the plan looks. */
  began?: Signal
  /** Whether that may still become an order. */
  stands?: boolean
  /** End of the last bar that was stepped. */
  lastEnd: number
  /** When it was last looked at between bars. */
  lookedAt: number
  /** Of securities beside it: ends of their last bars, by name; and a bar of its own that waits for theirs. */
  besideEnds?: Record<string, number>
  waits?: LiveBar
  /** What the clauses last came to, so that a trace is written only when that changes; looks since then. */
  told: string
  looks?: number
}

/** An exit that the broker holds for an entry of the plan. */
export interface OwnExit {
  clOrdId: string
  role: 'Stop' | 'Target'
  works: boolean
  stopPx?: number
  /** What it was last asked to be moved to. */
  asked?: number
}

/** An order that the plan sent, as the broker's reports tell of it. */
export interface OwnOrder {
  symbol: string
  role: 'entry' | 'out'
  /** The broker's id, once it is known; exits are attached to it. */
  orderId?: string
  works: boolean
  /** When it ended, and whether the broker refused it: then its id is free. */
  endedAt?: number
  refused?: boolean
  /** Its id after a change, and its price; what it was last asked to become. */
  clOrdId?: string
  price?: number
  asked?: number | 'gone'
  /** Whether it stands among the entries of the day; one that ends with nothing filled does not. */
  counted?: boolean
  /** Of a way out that waits at its limit: until when it does, and when it was last asked to be taken back. */
  until?: number
  takenBackAt?: number
  /** Whether it waited so long in vain. */
  over?: boolean
  /** Key of the event that led to it. */
  event?: string
  /** Of several legs: they, and the money that a unit of them keeps, in e4. */
  legs?: readonly Leg[]
  unitE4?: number
  /** By the broker's id. */
  exits?: Record<string, OwnExit>
}

/** What the plan holds of a security. */
export interface Held {
  /** Shares, below 0 where short, and what they have cost in the account's currency, in e4. */
  quantity: number
  costE4: number
  /** The same in the security's own currency, a share of the underlying. */
  paid: number
  /** The fill that opened it, its session date, the side that it is of, and the distance of the first stop. */
  opened: number
  date: string
  side: number
  risk?: number
  /** Of several legs, as they were opened, the quantity being units; and the money that each keeps, in e4. */
  legs?: readonly Leg[]
  unitE4?: number
  /** Client order ids of its entries that have traded, and the price of the last fill of them. */
  entries?: string[]
  lastPx?: number
  /** What kept it from ordering more, when that was last judged. */
  told?: string
  /** Whether the bar of the entry is complete, and how far the price has gone its way, a share. */
  seasoned?: boolean
  gain: number
}

/** An event that a side looks at. */
export interface CandidateEvent {
  key: string
  side: number
  symbol: string
  at: number
  text?: string
}

/** An order that waits for the trader's answer. */
export interface Ask {
  side: number
  symbol: string
  signal: string
  until: number
  event?: string
}

/** What a plan keeps from event to event. Plain JSON, but for the machines (see saved). */
export interface PlanState {
  planId: string
  version: number
  /** Session date of the counts, by venue. */
  dates: Record<string, string>
  /** Entries of the day by security. */
  entries: Record<string, number>
  /** What the plan holds by security. */
  held: Record<string, Held>
  /** Profit that its trades have taken today, by security, in e4. */
  takenE4: Record<string, number>
  /** Side that is opened once what is held of a security is closed. */
  turning: Record<string, number>
  /** Signals of what is being left, by security, until nothing of it is held. */
  leaving: Record<string, string>
  /** When its last trades ended, by security. */
  ended: Record<string, number[]>
  orders: Record<string, OwnOrder>
  /** Client order id by the broker's id, of what attached exits belong to. */
  byOrderId: Record<string, string>
  /** Client order ids of entries and outs that work, by security. */
  working: Record<string, string[]>
  /** Those of entries of what is held, or may be, by security: its exits hang on them. */
  bySymbol: Record<string, string[]>
  /** What it has seen, by key (see seenKey). */
  seen: Record<string, Seen>
  /** Events that wait for what is not known of them, by key. */
  candidates: Record<string, CandidateEvent>
  /** Points that were brought, by candidate and line. */
  points: Record<string, Record<string, { points: number; reason?: string; until?: number }>>
  /** Orders that wait for the trader's answer, by client order id. */
  asks: Record<string, Ask>
  /** What the trader has said of a day. */
  view?: DayView
  /** Number of the last report that was taken. */
  seq: number
  /** By side and security. */
  watched: Record<string, Watched>
}

/** One side made ready: its rule text compiled to one graph, and where each text lies in it. */
export interface PreparedSide {
  side: Side
  /** Of its bars, as events name it. */
  every: string
  graph: Graph
  place: ReadonlyMap<string, number>
  /** Securities that it looks at now; of pairs the first. */
  members: Map<string, Follower>
  /** Other securities that its rule text names, and who is fed bars of a security beside his own. */
  named: readonly string[]
  readers: Map<string, Follower[]>
  /** Of pairs: the other of each, both ways. */
  mates: ReadonlyMap<string, string>
  /** One machine for all of its securities of a zone; what reads beside it bars of another has its own. */
  turns: Map<string, Turns>
  /** Whether it looks between bars. */
  ticks: boolean
  /** Whether its rule text reads the quote on the last bar. */
  quoted: boolean
}

/** One security of a side as it is followed: the memory of its rule text, and what is held of it, as that asks for it. */
export interface Follower {
  key: string
  symbol: string
  /** Securities whose bars are read beside its own, and under which name. */
  besides: ReadonlyMap<string, string>
  /** Names of those of them whose bars end with its own: they are waited for. */
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
  /** By side and security. */
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
    const { trees, place } = treesOf(side)
    const every = everyOf(side)
    return {
      ...{
        side,
        place,
        every: timeframeText(every),
        graph: compile(trees, every),
        quoted: readsQuotes(readsOf(trees, every)),
        members: new Map(),
        named: besidesNamed(side),
        readers: new Map(),
        turns: new Map(),
        mates: matesOf(side),
      },
      ticks: look !== 'Bar' && look !== 'Event',
    }
  })
  const prepared = {
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

/**
 * Puts securities in place of those that a side looked at; gives those of which bars are wanted first. Throws RangeError for
 * one that is not listed.
 */
export function join(prepared: Prepared, at: number, symbols: readonly string[]): string[] {
  const { listed, sides, followers, venues } = prepared
  const { side, members, named, readers, graph, turns } = sides[at]
  const missing = symbols.find((symbol) => !listed[symbol])
  if (missing !== undefined)
    throw new RangeError(`The broker lists no ${missing}. Take it out of Among, or name another.`)
  members.clear()
  const fresh: string[] = []
  for (const symbol of symbols) {
    const { venue, security, reports } = listed[symbol]
    venues.add(venue)
    prepared.sameUntil = 0
    const key = keyOf(at, symbol)
    let follower = followers.get(key)
    if (!follower) {
      let shared = turns.get(venue.zone)
      if (!shared) turns.set(venue.zone, (shared = new Turns(graph, venue.zone)))
      const holdings: Holding[] = []
      const { currency, increments } = security
      const drawings = prepared.plan.drawings?.[symbol]
      const besides = besidesOf(side, named, symbol, listed)
      const memory = shared.join({
        ...{ currency, increments, holdings, drawings },
        reports: prepared.plan.figures?.[symbol] ?? reports,
        besideOf: besideAbout(besides, listed),
      })
      const awaited = togetherWith(besides, symbol, listed)
      follower = { key, symbol, besides, awaited, memory, holdings, clock: clockOf(venue) }
      followers.set(key, follower)
      for (const other of besides.keys()) readers.set(other, [...(readers.get(other) ?? []), follower])
      fresh.push(symbol)
    }
    members.set(symbol, follower)
  }
  return fresh
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

/** A plan that has seen nothing yet. */
export const freshState = ({ id, version }: Plan): PlanState => ({
  ...{
    planId: id,
    version,
    dates: {},
    entries: {},
    held: {},
    takenE4: {},
    ended: {},
    turning: {},
    leaving: {},
  },
  ...{
    orders: {},
    byOrderId: {},
    working: {},
    bySymbol: {},
    seen: {},
    candidates: {},
    points: {},
    asks: {},
    seq: 0,
    watched: {},
  },
})

/** Tells rule text about the position what the plan holds now. */
export function tellHeld({ sides, followers, listed }: Prepared, { held }: PlanState, symbol: string): void {
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
  sides.forEach((one, at) => {
    if ('close' in one.side.do) return
    const there = followers.get(keyOf(at, symbol))?.holdings
    if (there) there.splice(0, there.length, now)
  })
}
