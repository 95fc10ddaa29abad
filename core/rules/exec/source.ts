import { type Candidate, type CandidateName } from '../../market/candidate'
import { type ColumnName } from '../../market/columns'
import { type Drawing } from '../../market/drawings'
import { type FigureName, type Report } from '../../market/figures'
import { type Holding, type HoldingName } from '../../market/holdings'
import { type IncrementBand } from '../../market/increment'

/** Where a value comes from that is not worked out: bars, and what else is known of a security. */
export type Source =
  | { of: 'bars'; column: ColumnName }
  | { of: 'figures'; figure: FigureName }
  | { of: 'drawing'; kind: Drawing['kind']; name: string; output?: string }
  | { of: 'position'; what: HoldingName }
  /** The order that is being checked. */
  | { of: 'candidate'; what: CandidateName }
  /** The price increment at the close. */
  | { of: 'increment' }
  /** 1 where two currencies are one and the same (see units), unknown where they differ. */
  | { of: 'currency'; left: string; right: string }

/** What is known of a security besides its bars. */
export interface About {
  /** What is known of the company, in the order in which it became known. */
  reports?: readonly Report[]
  /** Levels, lines and zones that were drawn on the security. */
  drawings?: readonly Drawing[]
  /** What the account held of it, in the order of time; without it the account is not known. */
  holdings?: readonly Holding[]
  /** The order that is being checked, where one is. */
  candidate?: Candidate
  /** ISO 4217; without it any currency is taken to be the same. */
  currency?: string
  increments?: readonly IncrementBand[]
}

/** A source in words of its key: the same source is asked once. */
export const sourceKey = (source: Source): string => Object.values(source).join(' ')
