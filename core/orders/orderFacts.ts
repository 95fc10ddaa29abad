import { type Security } from '../market/security'
import { type Finding } from './findings'

/** What is known when an order is checked. Amounts in whole ten-thousandths. */
export interface OrderFacts {
  security: Security | undefined
  /** Symbols that look like the one that was asked for. */
  near: readonly string[]
  bid?: number
  ask?: number
  last?: number
  session: { open: boolean; venue: string; opens: string }
  /** Currency of the account; another cannot be ordered in. */
  currency: string
  clOrdIdTaken: boolean
  /** Shares held; negative when short. */
  sharesHeld: number
  /** Shares that working sell orders would close already; of a Buy or SellShort, those that working orders would buy. */
  promised: number
  /** Shares that working orders would sell short. */
  offeredShort: number
  buyingPowerE4: number
  /** Margin share of what is opened: half with margin, all of it without; half if left out. */
  share?: number
  /** Of a GoodTillDate order: the date of its last session; undefined where that has passed or is not known. */
  expiry?: { last: string | undefined }
  /** Ids of the lots that are held of the security. */
  lots: readonly string[]
  /** Where the account stands down: from everything, or from this security. */
  stoodDown?: 'account' | 'security'
  /** Whether the account may sell what it does not hold. */
  mayShort: boolean
  /** Of an order with options in it, and of shares that cover some: what it needs; left out where no price is known. */
  needs?: OptionNeeds
  /** Of a multi-leg order: what is known of each leg. */
  legs?: readonly LegFacts[]
  /** What the gates of the account found. */
  gates?: readonly Finding[]
  /** Trading in it is halted. */
  halted?: boolean
  /** What a unit of its currency is worth in the account's; 1 where left out. */
  rate?: number
  /** What becomes of the order that is to set it off. */
  trigger?: 'works' | 'unknown' | 'over'
  /** Shares that can be borrowed today, those borrowed already among them; undefined where it is easy. */
  borrowable?: number
  /** Of an order that is changed: what is filled already, which counts for whole lots. */
  filled?: number
}

/** What is known of one leg when its order is checked. */
export type LegFacts = Pick<
  OrderFacts,
  | 'security'
  | 'near'
  | 'bid'
  | 'ask'
  | 'last'
  | 'lots'
  | 'mayShort'
  | 'sharesHeld'
  | 'promised'
  | 'offeredShort'
  | 'borrowable'
>

/** What an order with options in it needs of its account. */
export interface OptionNeeds {
  /** In all; below 0 where it sets money free. */
  moneyE4: number
  /** Commission, on top. */
  commissionE4: number
  /** What is free. */
  freeE4: number
  /** Level that an account needs to hold what would be held then, and the one that it has. */
  level: number
  allowed: number
  /** Whether what would be held then asks for more than what is held now. */
  opens: boolean
}
