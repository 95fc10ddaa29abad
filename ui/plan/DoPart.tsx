import { type Side } from '@/core/plans/document'
import {
  type Close,
  type Do,
  type MateDeed,
  type Open,
  type PlanPrice,
  type PlanSize,
} from '@/core/plans/entry'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { NumberBlank, TextBlank, TimeBlank } from './blanks'

type SizeKind = 'shares' | 'money' | 'equity' | 'risk' | 'over'
const sizeKind = (size: PlanSize): SizeKind =>
  'risk' in size && size.over !== undefined ? 'over' : (Object.keys(size)[0] as SizeKind)
const SIZES: Record<SizeKind, number> = { shares: 100, money: 5000, equity: 10, risk: 0.5, over: 0.5 }

function sizeOf(kind: SizeKind, value: number, over = '2 * atr(14)'): PlanSize {
  if (kind === 'shares') return { shares: Math.max(1, Math.round(value)) }
  if (kind === 'money') return { money: value }
  const percent = Math.min(100, value)
  if (kind === 'equity') return { equity: percent }
  return kind === 'risk' ? { risk: percent } : { risk: percent, over }
}

const valueOf = (size: PlanSize): number => {
  if ('shares' in size) return size.shares
  if ('money' in size) return size.money
  return 'equity' in size ? size.equity : size.risk
}

/** One side of a plan; of a second one each blank says so. */
export interface OfSide {
  of: string
  side: Side
  put(part: Partial<Side>): void
}

type Deed = 'Long' | 'Short' | 'Close'

/** What is opened or closed, how much of it, at which price. */
export function DoPart({ of, side, put }: OfSide) {
  const deed = side.do
  const { price, timeInForce } = deed
  const change = (part: Partial<Open> | Partial<Close>) => put({ do: { ...deed, ...part } as Do })
  const turn = (to: Deed) => {
    if (to === 'Close') put({ do: { close: 100, price: 'market', timeInForce: 'Day' }, then: {} })
    else if ('open' in deed) change({ open: to })
    else put({ do: { open: to, price, size: { shares: 100 }, timeInForce } })
  }
  return (
    <>
      <InlineChoice
        label={`Opens${of}`}
        value={'close' in deed ? 'Close' : deed.open}
        options={[
          ['Long', 'buy'],
          ['Short', 'sell short'],
          ['Close', 'close'],
        ]}
        onChange={turn}
      />{' '}
      {'close' in deed ? (
        <>
          <NumberBlank
            label={`Share that is closed${of}`}
            needed
            value={deed.close}
            onChange={(close) => change({ close: Math.min(100, close!) })}
          />{' '}
          % of what the account holds of it
        </>
      ) : (
        <SizePart of={of} size={deed.size} change={(size) => change({ size })} />
      )}
      {'open' in deed && deed.mate && (
        <MatePart of={of} open={deed.open} mate={deed.mate} change={(mate) => change({ mate })} />
      )}
      , <PricePart of={of} price={price} change={(next) => change({ price: next })} />, good{' '}
      <InlineChoice
        label={`Good for${of}`}
        value={timeInForce}
        options={[
          ['Day', 'for the day'],
          ['GoodTillCancel', 'as long as it takes'],
          ['ImmediateOrCancel', 'this moment, what there is'],
        ]}
        onChange={(next) => change({ timeInForce: next })}
      />
      {'open' in deed && <RestPart of={of} deed={deed} change={change} />}
    </>
  )
}

function SizePart({ of, size, change }: { of: string; size: PlanSize; change(size: PlanSize): void }) {
  const kind = sizeKind(size)
  const over = 'risk' in size ? size.over : undefined
  return (
    <>
      <NumberBlank
        label={`Size${of}`}
        needed
        value={valueOf(size)}
        onChange={(value) => change(sizeOf(kind, value!, over))}
      />{' '}
      <InlineChoice
        label={`Size is measured in${of}`}
        value={kind}
        options={[
          ['shares', 'shares'],
          ['money', 'in money'],
          ['equity', '% of equity'],
          ['risk', '% of equity at risk'],
          ['over', '% of equity at risk over'],
        ]}
        onChange={(next) => change(sizeOf(next, SIZES[next]))}
      />
      {over !== undefined && (
        <>
          {' '}
          <TextBlank
            label={`Distance of the risk${of}`}
            value={over}
            onChange={(text) => change(sizeOf('over', valueOf(size), text))}
          />
        </>
      )}
    </>
  )
}

/** The other of a pair: in which ratio, and what becomes of one without the other. */
function MatePart({
  of,
  open,
  mate,
  change,
}: {
  of: string
  open: Open['open']
  mate: MateDeed
  change(mate: MateDeed): void
}) {
  return (
    <>
      {' '}
      of the first and {open === 'Long' ? 'sell short' : 'buy'}{' '}
      <TextBlank label={`Ratio${of}`} value={mate.ratio} onChange={(ratio) => change({ ...mate, ratio })} />{' '}
      of the second for each,{' '}
      <InlineChoice
        label={`One without the other${of}`}
        value={mate.alone}
        options={[
          ['Close', 'neither without the other'],
          ['Keep', 'one without the other if need be'],
        ]}
        onChange={(alone) => change({ ...mate, alone })}
      />
    </>
  )
}

type PriceKind = 'market' | 'bid' | 'ask' | 'mid' | 'last' | 'limit' | 'stop'
const priceKind = (price: PlanPrice): PriceKind => {
  if (price === 'market') return 'market'
  return 'at' in price ? price.at : 'limit' in price ? 'limit' : 'stop'
}
const LEVELS = ['opening(15 min).high', 'opening(15 min).low', 'prior.high', 'prior.low', 'sma(close, 20)']

function PricePart({ of, price, change }: { of: string; price: PlanPrice; change(price: PlanPrice): void }) {
  const kind = priceKind(price)
  const turn = (next: PriceKind) => {
    if (next === 'market') change('market')
    else if (next === 'limit') change({ limit: LEVELS[0], ticks: 0, percent: 0 })
    else if (next === 'stop') change({ stop: LEVELS[0], ticks: 0, percent: 0 })
    else change({ at: next, ticks: 0 })
  }
  const offset = price !== 'market' && (
    <>
      {' '}
      plus{' '}
      <NumberBlank
        label={`Ticks above${of}`}
        signed
        value={price.ticks || undefined}
        onChange={(ticks) => change({ ...price, ticks: Math.round(ticks ?? 0) })}
      />{' '}
      ticks
    </>
  )
  return (
    <>
      <InlineChoice
        label={`Price${of}`}
        value={kind}
        options={[
          ['market', 'at the market'],
          ['bid', 'at a limit at the bid'],
          ['ask', 'at a limit at the ask'],
          ['mid', 'at a limit at the middle'],
          ['last', 'at a limit at the last price'],
          ['limit', 'at a limit at'],
          ['stop', 'once the price comes to'],
        ]}
        onChange={turn}
      />
      {price !== 'market' && !('at' in price) && (
        <>
          {' '}
          <TextBlank
            label={`Level of the price${of}`}
            among={LEVELS}
            value={'limit' in price ? price.limit : price.stop}
            onChange={(level) =>
              change('limit' in price ? { ...price, limit: level } : { ...price, stop: level })
            }
          />
        </>
      )}
      {offset}
    </>
  )
}

/** Whether an entry rests at its price, and how many there may be at one time. */
function RestPart({ of, deed, change }: { of: string; deed: Open; change(part: Partial<Open>): void }) {
  const { rests, most, price } = deed
  const byMeasure = price !== 'market' && !('at' in price)
  return (
    <>
      {byMeasure && (
        <>
          ,{' '}
          <InlineChoice
            label={`Rests${of}`}
            value={!rests ? 'no' : rests.follows ? 'follows' : 'rests'}
            options={[
              ['no', 'left to the broker'],
              ['rests', 'taken back when If or When no longer holds'],
              ['follows', 'moving with it, taken back when If or When no longer holds'],
            ]}
            onChange={(next) =>
              change({ rests: next === 'no' ? undefined : { ...rests, follows: next === 'follows' } })
            }
          />
          {rests && (
            <>
              , at the latest{' '}
              <TimeBlank
                label={`Taken back at${of}`}
                none="at no time"
                value={rests.until}
                onChange={(until) => change({ rests: { ...rests, until } })}
              />
            </>
          )}
        </>
      )}
      {most === undefined ? (
        <>
          {' '}
          <InlineAction label={`Bound how many at a time${of}`} onAct={() => change({ most: 3 })}>
            at most so many at a time
          </InlineAction>
        </>
      ) : (
        <>
          , in at most{' '}
          <NumberBlank
            label={`Most at a time${of}`}
            value={most}
            onChange={(next) =>
              change({ most: next === undefined ? undefined : Math.min(500, Math.max(1, Math.round(next))) })
            }
          />{' '}
          at a time
        </>
      )}
    </>
  )
}
