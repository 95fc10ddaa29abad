import { type Report } from '../market/figures'
import { type Security } from '../market/security'
import { type Venue } from '../market/venue'

/** A quote as it was last told. */
export interface Quoted {
  at: number
  bid: number
  ask: number
  last: number
}

/** What is known of securities, whatever the moment. */
export interface Listed {
  security: Security
  venue: Venue
  /** What a unit of its currency is worth in the account's. */
  rate: number
  /** Symbol of the index of its venue, where the broker has told it. */
  index?: string
  /** What its company has reported, oldest first, where that was asked for; more may come. */
  reports?: Report[]
}
