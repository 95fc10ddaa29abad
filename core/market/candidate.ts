/** What is asked about an order before it is sent. */
export const CANDIDATE_NAMES = [
  'order quantity',
  'order value',
  'price away',
  'quoted spread',
  'order loss',
  'entries today',
  'orders this minute',
  'minutes since same',
  'net credit',
  'return on risk',
  'days to expiry',
] as const
export type CandidateName = (typeof CANDIDATE_NAMES)[number]

/** An order that would be sent, in figures: money in the account's currency, percent as such; NaN is unknown. */
export type Candidate = Readonly<Record<CandidateName, number>>
