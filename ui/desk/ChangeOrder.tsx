import { Button, Popover, TextInput } from '@mantine/core'
import { useForm } from '@mantine/form'
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { BrokerProblem, priceAsked } from '@/client'
import { readNumber } from '@/core/formats/numbers'
import { priceText } from '@/core/market/money'
import { hasLimit, hasStop, type Order } from '@/core/orders/model'
import { useBroker, useOf } from '../link/LinkProvider'
import { newId } from '../ticket/ticketStore'
import css from './Desk.module.css'
import { orderText } from './orderText'

type Values = Record<'orderQty' | 'stopPx' | 'price', string>

const valuesOf = (order: Order): Values => ({
  orderQty: String(order.orderQty),
  stopPx: order.stopPx ? priceText(order.stopPx) : '',
  price: order.price === undefined ? '' : priceText(order.price).replace('−', '-'),
})

const positive = (text: string) => (readNumber(text) > 0 ? null : 'a number above nought')

/** A net price is below nought where it is received. */
const anyNumber = (text: string) =>
  Number.isFinite(readNumber(text)) ? null : 'a number, below nought for what is received'

/** Changes a working order where it stands: quantity and prices, as far as its kind has them. */
export function ChangeOrder({ order }: { order: Order }) {
  const [opened, setOpened] = useState(false)
  const close = () => setOpened(false)
  return (
    <Popover
      opened={opened}
      onChange={setOpened}
      onClose={close}
      trapFocus
      returnFocus
      withArrow
      position="bottom-end"
    >
      <Popover.Target>
        <button
          type="button"
          className={css.cancel}
          aria-label={`Change ${orderText(order)} ${order.symbol}`}
          onClick={(e) => {
            e.stopPropagation()
            setOpened(!opened)
          }}
        >
          change
        </button>
      </Popover.Target>
      <Popover.Dropdown onClick={(e) => e.stopPropagation()} onKeyDown={(e) => e.stopPropagation()}>
        {opened && <ChangeForm order={order} close={close} />}
      </Popover.Dropdown>
    </Popover>
  )
}

function ChangeForm({ order, close }: { order: Order; close(): void }) {
  const broker = useBroker()
  const of = useOf()
  const queries = useQueryClient()
  const [problem, setProblem] = useState('')
  /** What was asked about these values: pressed again they are meant. */
  const [asked, setAsked] = useState<{ values: Values; question: string }>()
  const [before] = useState(() => valuesOf(order))
  const shown = {
    orderQty: order.role === 'Entry',
    stopPx: hasStop(order.ordType) && !order.triggered,
    price: hasLimit(order.ordType),
  }
  const form = useForm<Values>({
    initialValues: before,
    validate: {
      orderQty: (text) => (shown.orderQty ? positive(text) : null),
      stopPx: (text) => (shown.stopPx ? positive(text) : null),
      price: (text) => (!shown.price ? null : order.legs ? anyNumber(text) : positive(text)),
    },
  })
  const isAsked = asked !== undefined && JSON.stringify(asked.values) === JSON.stringify(form.values)
  const fields = (['orderQty', 'stopPx', 'price'] as const).filter((field) => shown[field])
  const send = form.onSubmit(async (values) => {
    setProblem('')
    const changed = fields.filter((field) => values[field].trim() !== before[field])
    if (changed.length === 0) return close()
    const change = {
      clOrdId: newId(order.symbol),
      ...Object.fromEntries(changed.map((field) => [field, readNumber(values[field])])),
    }
    try {
      const question = isAsked ? undefined : await priceAsked(broker, order, change)
      if (question) return setAsked({ values, question: question.sentence })
      await broker.replace(order.clOrdId, change)
      close()
    } catch (error) {
      if (!(error instanceof BrokerProblem)) throw error
      // What was typed stays, to be mended.
      setProblem(`${error.detail} ${error.mend}`)
    } finally {
      await queries.invalidateQueries({ queryKey: [of] })
    }
  })
  return (
    <form aria-label={`Change ${order.symbol}`} onSubmit={send} className={css.change}>
      {fields.map((field) => (
        <TextInput
          key={field}
          label={order.legs && field === 'price' ? 'Net price' : LABELS[field]}
          inputMode="decimal"
          size="xs"
          {...form.getInputProps(field)}
        />
      ))}
      {order.cumQty > 0 && shown.orderQty && <p className="soft">{order.cumQty} of it are filled.</p>}
      {problem && (
        <p role="alert" className="refusal">
          {problem}
        </p>
      )}
      {isAsked && (
        <p role="alert" className="warning">
          {asked.question} Correct it, or change it all the same if you mean it.
        </p>
      )}
      <Button type="submit" size="xs">
        {isAsked ? 'Change it all the same' : 'Change it'}
      </Button>
    </form>
  )
}

const LABELS = { orderQty: 'Quantity in all', stopPx: 'Stop price', price: 'Limit price' } as const
