/** One security at a moment, as a side of a plan is asked about it. */
export interface Asked {
  side: number
  symbol: string
  at: number
  /** The answer of the condition; see verdict.ts. */
  condition: number
  /** The order's client id, should one come of it. */
  clOrdId: string
  signal: string
  /** More of what is held is asked for, since the price has gone so far from the last fill. */
  byDistance?: boolean
  /** Key of the event that led to it. */
  event?: string
}
