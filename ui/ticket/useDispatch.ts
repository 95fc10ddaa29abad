import { useQueryClient } from '@tanstack/react-query'
import { BrokerProblem, unreachable } from '@/client'
import { type NewOrder, type Order } from '@/core/orders/model'
import { useWhere } from '../link/connection'
import { useBroker, useOf, useOrders } from '../link/LinkProvider'
import { type Dispatch } from './ticketStore'

interface Draft {
  clOrdId: string
  dispatch?: Dispatch
}

/** How a draft stands with the broker, and how it is sent. */
export interface Sending {
  /** The order that the draft has become; undefined while it is none. */
  sent?: { order: Order; where: string }
  isSending: boolean
  /** Sends the draft once. Gives why the broker refused it, or nothing. */
  send(order: NewOrder): Promise<BrokerProblem | undefined>
}

/**
 * Whether a draft was sent belongs to the draft, not to the panel that shows it: it is noted there, and an order of the account
 * under the same client order id counts as well, so that no place and no reload can send it twice.
 */
export function useDispatch(
  { clOrdId, dispatch }: Draft,
  note: (clOrdId: string, dispatch: Dispatch | undefined) => void,
): Sending {
  const broker = useBroker()
  const queries = useQueryClient()
  const of = useOf()
  const where = useWhere()
  const known = useOrders().data?.find((one) => one.clOrdId === clOrdId && one.ordStatus !== 'Rejected')
  const order = known ?? dispatch?.order
  return {
    sent: order && { order, where: dispatch?.where ?? where },
    isSending: dispatch?.is === 'sending' && !order,
    async send(asked) {
      if (dispatch || known) return undefined
      note(clOrdId, { is: 'sending', where })
      try {
        note(clOrdId, { is: 'sent', where, order: await broker.send(asked) })
        await queries.invalidateQueries()
        return undefined
      } catch (error) {
        note(clOrdId, undefined)
        void queries.invalidateQueries({ queryKey: [of, 'orders'] })
        return error instanceof BrokerProblem ? error : unreachable()
      }
    },
  }
}
