import { type Environment } from '@/core/orders/access'
import { type Key, type Rights } from './keys/keys'

/** Owner of a rehearsal: the key that made it, and the accounts that this key spoke for. */
export interface Owner {
  keyId: string
  accounts: Rights['accounts']
}

/** How a world is opened. */
export interface Options<World> {
  dataDir: string
  seed: string
  /** Market time at which a new world starts, ISO with offset. */
  start: string
  firstDate?: string
  /** Wall clock, epoch milliseconds. */
  real?: () => number
  startingCash?: number
  /** How many securities are listed in all; those that are named where it is less. */
  securities?: number
  /** Goes on with what lies before a record that is damaged. */
  salvage?: boolean
  /** Told what was done to bring the world back. */
  say?: (what: string) => void
  /** Its name in paths; paper where left out. */
  name?: string
  environment?: Environment
  /** The world whose market and clock it shares. */
  beside?: World
  /** Keys that a new world begins with. */
  keys?: readonly Key[]
  /** Whom a new rehearsal belongs to. */
  owner?: Owner
  /** A rehearsal: over the market of this world, which it never outruns, with a clock of its own. */
  over?: World
}

/** The first account of each environment. */
export const FIRST_ACCOUNT: Record<Environment, string> = { paper: 'PAPER-1', live: 'LIVE-1' }
