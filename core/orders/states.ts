import {
  type Allows,
  type ExecType,
  hasLimit,
  hasStop,
  isAtOnce,
  isInAuction,
  isWorking,
  type Order,
  type OrdStatus,
} from './model'

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
    PendingCancel: ['PendingCancel'],
    PendingReplace: ['PendingReplace'],
    Trade: ['PartiallyFilled', 'Filled'],
    Canceled: ['Canceled'],
    Expired: ['Expired'],
    Restated: ['New'],
    Replaced: ['New'],
    TriggeredOrActivatedBySystem: ['New'],
  },
  PartiallyFilled: {
    PendingCancel: ['PendingCancel'],
    PendingReplace: ['PendingReplace'],
    Trade: ['PartiallyFilled', 'Filled'],
    Canceled: ['Canceled'],
    Expired: ['Expired'],
    Restated: ['PartiallyFilled', 'Filled'],
    Replaced: ['PartiallyFilled'],
  },
  // Of several states the pending one is told (its order of precedence); only a fill of the last share goes before it.
  PendingCancel: {
    Trade: ['PendingCancel', 'Filled'],
    Canceled: ['Canceled'],
    Expired: ['Expired'],
    Restated: ['PendingCancel'],
    TriggeredOrActivatedBySystem: ['PendingCancel'],
  },
  PendingReplace: {
    PendingCancel: ['PendingCancel'],
    Trade: ['PendingReplace', 'Filled'],
    Canceled: ['Canceled'],
    Expired: ['Expired'],
    // Back to where it was where the change is refused.
    Restated: ['PendingReplace', 'New', 'PartiallyFilled'],
    Replaced: ['New', 'PartiallyFilled'],
    TriggeredOrActivatedBySystem: ['PendingReplace'],
  },
  Filled: {},
  Canceled: {},
  Rejected: {},
  Expired: {},
}

/** True if a report of this kind may take an order from one state to the other. */
export const mayFollow = (from: OrdStatus | undefined, execType: ExecType, to: OrdStatus): boolean =>
  NEXT[from ?? 'None'][execType]?.includes(to) ?? false

/** What an order's state allows next; the same by which a change is refused. */
export function allowsNext(order: Order): Allows {
  const { ordStatus, ordType, role, timeInForce, triggered } = order
  if (role === 'Exercise' || role === 'Split' || !isWorking(ordStatus) || ordStatus === 'PendingCancel')
    return { cancel: false, replace: [] }
  if (ordStatus === 'PendingNew' || ordStatus === 'PendingReplace') return { cancel: true, replace: [] }
  const replace: Allows['replace'] = []
  if (role === 'Entry') replace.push('orderQty')
  if (hasLimit(ordType)) replace.push('price')
  if (hasStop(ordType) && !triggered) replace.push('stopPx')
  if (!isAtOnce(timeInForce) && !isInAuction(timeInForce)) replace.push('timeInForce')
  return { cancel: true, replace }
}

/** The state that an order is told in while it works, by what it was and what is filled of it. */
export const standingStatus = ({ ordStatus, cumQty }: Pick<Order, 'ordStatus' | 'cumQty'>): OrdStatus =>
  ordStatus === 'PendingCancel' || ordStatus === 'PendingReplace'
    ? ordStatus
    : cumQty > 0
      ? 'PartiallyFilled'
      : 'New'
