/** Best prices and last trade at a second; prices in whole ten-thousandths. */
export interface Quote {
  symbol: string
  at: number
  bid: number
  bidSize: number
  ask: number
  askSize: number
  last: number
  /** What a unit of its currency is worth in that of the account which asks; 1 where left out. */
  rate?: number
}
