/** What is asked about an order before it is sent. */
export const CANDIDATE_NAMES = [
  'order quantity',
  'order value',
  'price away',
  'quoted spread',
  'quoted middle',
  'order loss',
  'entries today',
  'orders this minute',
  'minutes since same',
  'net credit',
  'return on risk',
  'days to expiry',
] as const

/** What is asked about the market that an order would be sent into. */
export const MARKET_NAMES = ['breadth', 'slow breadth', 'advancing share', 'market lean'] as const
export type MarketName = (typeof MARKET_NAMES)[number]

/** What is asked about the company of the security. */
export const COMPANY_NAMES = ['days to report'] as const

/** What the gates of plans may ask, and those of an account may not: the broker does not look at it. */
export const OF_PLANS = [...MARKET_NAMES, ...COMPANY_NAMES] as const
export type CandidateName = (typeof CANDIDATE_NAMES)[number] | (typeof OF_PLANS)[number]

/** How the securities of a venue stood together when its last session was over; NaN is unknown. */
export type MarketNow = Readonly<Record<MarketName, number>>

export const UNKNOWN_MARKET: MarketNow = Object.freeze({
  breadth: NaN,
  'slow breadth': NaN,
  'advancing share': NaN,
  'market lean': NaN,
})

/** An order that would be sent, in figures: money in the account's currency, percent as such; NaN is unknown. */
export type Candidate = Readonly<Record<CandidateName, number>>
