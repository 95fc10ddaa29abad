import { priceText } from '@/core/market/money'
import { type Order, type OrdStatus } from '@/core/orders/model'

type Step = { status: OrdStatus; detail: string }

/** The states of an order, each once: fills add up, restatements of the same state are left out. */
function steps(order: Order): Step[] {
  const out: Step[] = []
  for (const { ordStatus, execType, cumQty } of order.chain) {
    const detail =
      ordStatus === 'PartiallyFilled' ? String(cumQty) : ordStatus === 'Filled' ? priceText(order.avgPx) : ''
    const last = out.at(-1)
    if (execType === 'TriggeredOrActivatedBySystem') out.push({ status: ordStatus, detail: 'set off' })
    else if (execType === 'Replaced') out.push({ status: ordStatus, detail: `${detail} changed`.trim() })
    else if (last?.status === ordStatus) last.detail = detail || last.detail
    else out.push({ status: ordStatus, detail })
  }
  return out
}

const LOOK: Partial<Record<OrdStatus, string>> = { Rejected: 'refusal', Canceled: 'soft', Expired: 'soft' }

/** "New → PartiallyFilled 60 → Filled 48.19". */
export function Chain({ order }: { order: Order }) {
  const all = steps(order)
  return (
    <span>
      {all.map((step, i) => {
        const text = `${step.status}${step.detail ? ` ${step.detail}` : ''}`
        return (
          <span key={i}>
            {i > 0 && <span className="soft"> → </span>}
            {i === all.length - 1 ? (
              <strong className={LOOK[step.status]}>{text}</strong>
            ) : (
              <span className="soft">{text}</span>
            )}
          </span>
        )
      })}
    </span>
  )
}

/** The same as plain text, for files. */
export const chainText = (order: Order): string =>
  steps(order)
    .map((s) => `${s.status}${s.detail ? ` ${s.detail}` : ''}`)
    .join(' > ')
