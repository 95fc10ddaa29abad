import { type Security } from '@/core/market/security'

/** Who is listed, and the index of each venue. */
export interface Market {
  securities: readonly Security[]
  /** Symbol of the index of each venue, by its MIC. */
  indices: Readonly<Record<string, string>>
}

/** What a scan runs on: bars of the market, or a set of the trader's own. `version` names the moment. */
export type Source = (
  | { is: 'market'; frame: string; version: string }
  | { is: 'own'; dataId: string; version: string }
) & {
  /** Date of a past day at whose end everything stands, in each security's own zone; none for now. */
  asOf?: string
}
