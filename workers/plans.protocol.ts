import { type Granted, type WorldName } from '@/client'
import { type Plan } from '@/core/plans/document'
import { type Seen } from '@/core/plans/seen'
import { type DayView } from '@/core/plans/view'
import { type RunEntry } from '@/runner/entries'
import { type ToldPlan } from '@/runner/told'

/** With which broker, world and account plans run. */
export interface PlansWhere {
  brokerUrl: string
  world: WorldName
  account: string | undefined
}

/** A plan that is begun in an account, and what the page keeps of it from before. */
export interface Beginning {
  where: PlansWhere
  plan: Plan
  acts: boolean
  atOnce: boolean
  /** Whether it goes on with what ran in a tab that is gone. */
  goesOn: boolean
  seen: Readonly<Record<string, Seen>>
  view: DayView | undefined
  since: number
}

/** What the page asks of the worker that runs plans. Requests are numbered. */
export type PlansRequest =
  | { id: number; ask: 'account'; where: PlansWhere }
  | ({ id: number; ask: 'begin' } & Beginning)
  | { id: number; ask: 'stop'; plan: string; why: string }
  | { id: number; ask: 'tell'; plan: string; told: ToldPlan }
  /** The token that was wanted, or why there is none. */
  | { id: number; ask: 'take token'; wanted: number; granted?: Granted; why?: string }

/** The account that plans will run in: moment and session date of its market. */
export interface AccountNow {
  at: number
  date: string
  worldId: string
}

/** What the worker says by itself. */
export type PlansMessage =
  | { is: 'heard'; plan: string; entries: readonly HeardEntry[] }
  | { is: 'token wanted'; wanted: number; where: PlansWhere }

export interface HeardEntry {
  entry: RunEntry
  /** Market time. */
  at: number
}
