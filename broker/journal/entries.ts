import { type Gate } from '@/core/orders/gate'
import { type AccountRules } from '@/core/orders/accountRules'
import { type ExecutionReport } from '@/core/orders/model'
import { type AccountDay, type Booking, type ExpiryNotice, type StoodDown } from '@/core/orders/views'
import { type Halt } from '../halts'
import { type ClockState } from '../clock'
import { type KeptKey } from '../keys/keys'
import { type Owner } from '../worldOptions'

/** What the journal holds. What an earlier build wrote has no `rules`, and no `account` where there was but one. */
export type Entry =
  | { is: 'account'; account: string; cash: number; rules?: AccountRules }
  | { is: 'key'; key: KeptKey }
  | { is: 'owner'; owner: Owner }
  | { is: 'key withdrawn'; keyId: string }
  | { is: 'key used'; keyId: string; at: number }
  | { is: 'clock'; clock: ClockState }
  | { is: 'report'; account?: string; report: ExecutionReport }
  | { is: 'stood down'; account: string; from: StoodDown }
  | { is: 'lifted'; account: string; symbol?: string; at: string }
  | { is: 'gates'; account: string; gates: readonly Gate[] }
  | { is: 'booked'; account: string; booking: Booking }
  | { is: 'day'; account: string; day: AccountDay; at: number }
  | { is: 'expiring'; account: string; notices: readonly ExpiryNotice[]; at: number }
  | { is: 'exercise'; account: string; symbol: string; exercise: boolean; at: number }
  | { is: 'halted'; halt: Halt }
  | { is: 'resumed'; symbol: string; at: number }
  | { is: 'epoch'; epoch: number; at: number }

/** The market time of what happened in the market; undefined for keys, accounts and the clock. */
function happened(entry: Entry): number | undefined {
  if (entry.is === 'report') return Date.parse(entry.report.transactTime)
  if (entry.is === 'stood down') return Date.parse(entry.from.since)
  if (entry.is === 'halted') return entry.halt.from
  if (entry.is === 'booked') return Date.parse(entry.booking.at)
  if (entry.is === 'day' || entry.is === 'expiring' || entry.is === 'exercise') return entry.at
  if (entry.is === 'resumed') return entry.at
  return entry.is === 'lifted' ? Date.parse(entry.at) : undefined
}

/** What still counts of a journal: of what was put back, nothing that happened after the moment to which it was. */
export function inForce<Placed extends { entry: Entry }>(entries: readonly Placed[]): readonly Placed[] {
  let out: Placed[] = []
  for (const one of entries) {
    const { entry } = one
    if (entry.is === 'epoch') out = out.filter((before) => (happened(before.entry) ?? 0) <= entry.at)
    out.push(one)
  }
  return out
}
