import { Button } from '@mantine/core'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { isOption } from '@/core/options/osi'
import { securityText } from '@/core/options/words'
import { type ExpiryNotice } from '@/core/orders/views'
import { useBroker, useOf, usePositions } from '../link/LinkProvider'
import { tell, tellProblem } from '../shell/tell'
import css from './Desk.module.css'

/** How often expiring contracts are asked for while any are held, in real milliseconds. */
const ASKED_EVERY = 5_000

/** What will happen to contracts that expire today or may be assigned, in words; only while contracts are held. */
export function Ending() {
  const broker = useBroker()
  const of = useOf()
  const held = (usePositions().data ?? []).some(({ symbol, quantity }) => isOption(symbol) && quantity !== 0)
  const { data = [] } = useQuery({
    queryKey: [of, 'expiries'],
    queryFn: broker.expiries,
    enabled: held,
    refetchInterval: ASKED_EVERY,
  })
  if (!held || data.length === 0) return null
  return (
    <section aria-label="Contracts that expire today" className={css.ending}>
      {data.map((notice) => (
        <Notice key={notice.symbol} notice={notice} of={of} />
      ))}
    </section>
  )
}

function Notice({ notice, of }: { notice: ExpiryNotice; of: string }) {
  const { symbol, quantity, outcome, text } = notice
  const broker = useBroker()
  const queries = useQueryClient()
  const isAsked = outcome === 'NotExercised'
  const say = async () => {
    try {
      await broker.sayExercise(symbol, isAsked)
      tell(
        isAsked
          ? `${securityText(symbol)} is exercised when it expires, if it is in the money.`
          : `${securityText(symbol)} is not exercised when it expires.`,
      )
    } catch (error) {
      tellProblem(error)
    }
    await queries.invalidateQueries({ queryKey: [of, 'expiries'] })
  }
  return (
    <p className={outcome === 'CloseOut' ? 'warning' : undefined}>
      <strong>
        {Math.abs(quantity)} {securityText(symbol)}
        {quantity < 0 && ', written'}.
      </strong>{' '}
      {text}{' '}
      {quantity > 0 && outcome !== 'AssignEarly' && (
        <Button size="compact-xs" variant="default" onClick={say}>
          {isAsked ? 'Exercise it after all' : 'Do not exercise'}
        </Button>
      )}
    </p>
  )
}
