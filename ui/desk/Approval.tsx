import { useQueryClient } from '@tanstack/react-query'
import { type Order } from '@/core/orders/model'
import { useBroker, useOf } from '../link/LinkProvider'
import { tellProblem } from '../shell/tell'
import css from './Desk.module.css'
import { orderText } from './orderText'

/** Lets an order that waits for approval work, or rejects it; the key that sent it is told that another must. */
export function Approval({ order }: { order: Order }) {
  const broker = useBroker()
  const of = useOf()
  const queries = useQueryClient()
  const answer = (what: 'approve' | 'decline') =>
    broker[what](order.clOrdId)
      .catch(tellProblem)
      .finally(() => queries.invalidateQueries({ queryKey: [of, 'orders'] }))
  return (
    <>
      {(['approve', 'decline'] as const).map((what) => (
        <button
          key={what}
          type="button"
          className={css.cancel}
          aria-label={`${what === 'approve' ? 'Approve' : 'Decline'} ${orderText(order)} ${order.symbol}`}
          onClick={(e) => {
            e.stopPropagation()
            void answer(what)
          }}
        >
          {what}
        </button>
      ))}
    </>
  )
}
