import { type Leg } from '../orders/legs'
import { type Plan } from '../plans/document'
import { type Seen } from '../plans/seen'
import { type DayView } from '../plans/view'
import { type LiveBar } from '../rules/exec/liveBar'
import { type Miss } from './nearestMiss'

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
  /** What a bar that ended with the session came to, until the next session is looked at (see nextSession). */
  puts?: 'began' | 'goes on'
  /** When it was last looked at between bars. */
  lookedAt: number
  /** Of securities beside it: ends of their last bars, by name; and a bar of its own that waits for theirs. */
  besideEnds?: Record<string, number>
  waits?: LiveBar
  /** The last bar, where nobody followed when it was completed: what is held is watched at it as soon as that may be. */
  missed?: { time: number; end: number }
  /** What the clauses last came to, so that a trace is written only when that changes; looks since then. */
  told: string
  looks?: number
}

/** An exit that the broker holds for an entry of the plan. */
export interface OwnExit {
  clOrdId: string
  role: 'Stop' | 'Target'
  works: boolean
  /** Shares that it still covers. */
  leaves?: number
  /** Where it stands: the price of a target. */
  stopPx?: number
  price?: number
  /** Whether a hand has moved it, and the plan leaves it there; whether the plan has asked to take it back. */
  left?: true
  withdrawn?: true
  /** When a stop was set off that waits at its limit. */
  offAt?: number
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
  /** When the broker first told of it. */
  sentAt?: number
  /** When it ended, and whether the broker refused it: then its id is free. */
  endedAt?: number
  refused?: boolean
  /** Its id after a change, and its price; what it was last asked to become. */
  clOrdId?: string
  price?: number
  asked?: number | 'gone'
  /** Whether the plan itself has asked to take it back. */
  wished?: true
  /** Whether a hand has moved it, and the plan leaves it there. */
  left?: true
  /** Whether it has traded, and whether it is the second leg of a pair. */
  filled?: true
  second?: true
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
  /** Client order ids of its entries that have traded, and price and moment of the last fill of them. */
  entries?: string[]
  lastPx?: number
  lastAt?: number
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
  /** It came while the plan may not enter, and is judged when it may. */
  kept?: true
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
  /** Of pairs: why the broker refused a leg today, by either security; the pair is not tried again until the next session. */
  refusals?: Record<string, { date: string; text: string }>
  /** Events that wait for what is not known of them, by key. */
  candidates: Record<string, CandidateEvent>
  /** Looks so far, and of those that came to nothing the nearest one. */
  looks?: number
  miss?: Miss
  /** Session date of the last look by the calendar, by venue. */
  calendar?: Record<string, string>
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
