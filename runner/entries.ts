import { type ExecutionReport } from '@/core/orders/model'
import { type Seen } from '@/core/plans/seen'
import { type DayView } from '@/core/plans/view'
import { type Intent } from '@/core/engine/events'
import { type Miss } from '@/core/engine/nearestMiss'
import { type Note, type Trace } from '@/core/engine/verdicts'

/** What a run writes down, a line each. */
export type RunEntry =
  | { is: 'started'; plan: string; version: number; acts: boolean; worldId: string }
  | { is: 'trace'; trace: Trace }
  | { is: 'note'; note: Note }
  | { is: 'view'; view: DayView }
  /** The seen book holds this anew. */
  | { is: 'seen'; key: string; entry: Seen }
  /** The securities that a side looks at from now on, and those that a limit left out. */
  | { is: 'universe'; side: number; symbols: readonly string[]; left: readonly string[]; unknown: number }
  /** `decided`: milliseconds from when its cause was heard. */
  | { is: 'intent'; intent: Intent; sends: boolean; decided?: number }
  /** The look that came nearest to an order so far. */
  | { is: 'miss'; miss: Miss }
  | { is: 'taken'; clOrdId: string; waited: number }
  | { is: 'refused'; clOrdId: string; why: string }
  | { is: 'not sent'; clOrdId: string; why: string }
  | { is: 'report'; report: ExecutionReport }
  /** What the plan holds when it has begun and after a trade, and what its trades of the day have taken, in e4 of the account's currency. */
  | {
      is: 'result'
      held: Readonly<Record<string, number>>
      takenE4: number
      /** Shares that no stop covers, by security; left out by an earlier build. */
      withoutStop?: Readonly<Record<string, number>>
      /** When it last sent an order that opens, or told the trader. */
      fired?: number
    }
  | { is: 'connection'; there: boolean; why?: string }
  /** Something that keeps it from looking: a search that failed, bars that did not come. */
  | { is: 'trouble'; why: string }
  /** It stands still from now on, and does nothing more: the broker is in another world. */
  | { is: 'idle'; why: string }
  | { is: 'stopped'; why: string }
