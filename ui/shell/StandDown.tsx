'use client'
import { Button, Checkbox, Modal, Text } from '@mantine/core'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { isWorking } from '@/core/orders/model'
import { useBroker, useOrders, usePositions } from '../link/LinkProvider'
import { useWhere } from '../link/connection'
import { kindText } from '../desk/orderText'
import css from './Shell.module.css'
import { tell, tellProblem } from './tell'

const count = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

/** Cancels every working order and, if asked, closes every position; asks once and says what it will do. */
export function StandDown() {
  const broker = useBroker()
  const where = useWhere()
  const queries = useQueryClient()
  const working = (useOrders('working').data ?? []).filter((o) => isWorking(o.ordStatus))
  const held = (usePositions().data ?? []).filter((p) => p.quantity !== 0)
  const [asking, setAsking] = useState(false)
  const [flatten, setFlatten] = useState(false)
  const bare = flatten ? [] : held.filter((p) => p.stopPx !== undefined).map((p) => p.symbol)
  const nothing = working.length === 0 && (!flatten || held.length === 0)
  const standDown = async () => {
    try {
      const done = await broker.standDown(flatten)
      tell(
        `Stood down: ${count(done.canceled.length, 'order')} canceled${flatten ? `, ${count(done.closing.length, 'position')} being closed` : ''}.`,
      )
      for (const reason of done.left) tellProblem(new Error(reason))
      setAsking(false)
      await queries.invalidateQueries()
    } catch (error) {
      tellProblem(error)
    }
  }
  return (
    <>
      <button type="button" className={css.standDown} onClick={() => setAsking(true)}>
        Stand down
      </button>
      <Modal opened={asking} onClose={() => setAsking(false)} title="Stand down">
        <Text>
          This cancels{' '}
          {working.length === 0
            ? 'no orders: none are working'
            : `${count(working.length, 'working order')} at the ${where} broker`}
          .
        </Text>
        {working.length > 0 && (
          <ul className={css.plainList}>
            {working.slice(0, 8).map((o) => (
              <li key={o.orderId}>
                {o.symbol}: {o.side} {o.leavesQty} {kindText(o)}
              </li>
            ))}
            {working.length > 8 && <li>and {working.length - 8} more</li>}
          </ul>
        )}
        {bare.length > 0 && (
          <Text className="warning" mt={8}>
            {bare.join(', ')} would be held without {bare.length === 1 ? 'its stop' : 'their stops'}: the stop
            is among the orders.
          </Text>
        )}
        <Checkbox
          mt={10}
          checked={flatten}
          onChange={(e) => setFlatten(e.currentTarget.checked)}
          label={
            held.length === 0
              ? 'Also close positions (none are held)'
              : `Also close ${count(held.length, 'position')} at the market: ${held
                  .map((p) => p.symbol)
                  .slice(0, 6)
                  .join(', ')}${held.length > 6 ? ' …' : ''}`
          }
        />
        <div className={css.actions}>
          <Button variant="default" onClick={() => setAsking(false)} data-autofocus>
            Leave everything
          </Button>
          <Button color="red" onClick={standDown} disabled={nothing}>
            Stand down
          </Button>
        </div>
      </Modal>
    </>
  )
}
