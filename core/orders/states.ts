import { type ExecType, type OrdStatus } from './model'

/**
 * Which report may follow which state, and the state that it leads to. Source: FIX 4.4 volume 4, order state
 * change matrices (written down from memory; the broker's model test holds the code to it). A Trade leads to
 * PartiallyFilled or Filled by what is left.
 */
const NEXT: Record<OrdStatus | 'None', Partial<Record<ExecType, readonly OrdStatus[]>>> = {
  None: { New: ['New'], PendingNew: ['PendingNew'], Rejected: ['Rejected'] },
  PendingNew: {
    New: ['New'],
    Canceled: ['Canceled'],
    Expired: ['Expired'],
    Rejected: ['Rejected'],
    Restated: ['PendingNew'],
  },
  New: {
    Trade: ['PartiallyFilled', 'Filled'],
    Canceled: ['Canceled'],
    Expired: ['Expired'],
    Restated: ['New'],
    Replaced: ['New'],
    TriggeredOrActivatedBySystem: ['New'],
  },
  PartiallyFilled: {
    Trade: ['PartiallyFilled', 'Filled'],
    Canceled: ['Canceled'],
    Expired: ['Expired'],
    Restated: ['PartiallyFilled', 'Filled'],
    Replaced: ['PartiallyFilled'],
  },
  Filled: {},
  Canceled: {},
  Rejected: {},
  Expired: {},
}

/** True if a report of this kind may take an order from one state to the other. */
export const mayFollow = (from: OrdStatus | undefined, execType: ExecType, to: OrdStatus): boolean =>
  NEXT[from ?? 'None'][execType]?.includes(to) ?? false
