import { useState } from 'react'
import { type Side } from '@/core/plans/document'
import {
  type Do,
  type EquityBase,
  leastOf,
  type MateDeed,
  type Open,
  type PlanPrice,
  type PlanSize,
} from '@/core/plans/entry'
import { useBroker } from '../link/LinkProvider'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { AddsPart } from './AddsPart'
import { NumberBlank, TextBlank, TimeBlank } from './blanks'
import { firstLegs, LegsPart } from './LegsPart'
import { ClosingPart } from './UnfilledPart'

type SizeKind = 'shares' | 'money' | 'equity' | 'risk' | 'over'
const sizeKind = (size: PlanSize): SizeKind =>
  'risk' in size && size.over !== undefined ? 'over' : (Object.keys(size)[0] as SizeKind)
const SIZES: Record<SizeKind, number> = { shares: 100, money: 5000, equity: 10, risk: 0.5, over: 0.5 }

function sizeOf(kind: SizeKind, value: number, over = '2 * atr(14)', of?: EquityBase): PlanSize {
  if (kind === 'shares') return { shares: Math.max(1, Math.round(value)) }
  if (kind === 'money') return { money: value }
  const percent = Math.min(100, value)
  const base = of === undefined || of === 'Now' ? {} : { of }
  if (kind === 'equity') return { equity: percent, ...base }
  return kind === 'risk' ? { risk: percent, ...base } : { risk: percent, over, ...base }
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

type Deed = 'Long' | 'Short' | 'Close' | 'Legs' | 'Tell'
const deedOf = (deed: Do): Deed =>
  'tell' in deed ? 'Tell' : 'close' in deed ? 'Close' : 'legs' in deed ? 'Legs' : deed.open

/** What is opened or closed, how much of it, at which price. */
export function DoPart({ of, side, put }: OfSide) {
  const deed = side.do
  const change = (part: object) => put({ do: { ...deed, ...part } as Do })
  const [why, setWhy] = useState<string>()
  const turnToLegs = useLegsFor(side, put, setWhy)
  const turn = (to: Deed) => {
    setWhy(undefined)
    if (to === 'Legs') return void turnToLegs()
    const { exits, leaveIf, outAt, sessions, moves } = side.then
    if (to === 'Tell') put({ do: { tell: true }, then: {} })
    else if (to === 'Close') put({ do: { close: 100, price: 'market', timeInForce: 'Day' }, then: {} })
    else if ('open' in deed) change({ open: to })
    else
      put({
        do: { open: to, price: 'market', size: { shares: 100 }, timeInForce: 'Day' },
        then: { exits, leaveIf, outAt, sessions, moves },
      })
  }
  const [symbol = ''] = 'list' in side.among ? side.among.list : []
  const choice = (
    <InlineChoice
      label={`Opens${of}`}
      value={deedOf(deed)}
      options={[
        ['Long', 'buy'],
        ['Short', 'sell short'],
        ['Close', 'close'],
        ['Legs', 'open contracts'],
        ['Tell', 'only tell me'],
      ]}
      onChange={turn}
    />
  )
  if ('tell' in deed) return choice
  return (
    <>
      {choice}{' '}
      {'close' in deed && (
        <>
          <NumberBlank
            label={`Share that is closed${of}`}
            needed
            value={deed.close}
            onChange={(close) => change({ close: Math.min(100, close!) })}
          />{' '}
          % of what the account holds of it
        </>
      )}
      {'open' in deed && <SizePart of={of} size={deed.size} change={(size) => change({ size })} />}
      {'open' in deed && deed.mate && (
        <MatePart of={of} open={deed.open} mate={deed.mate} change={(mate) => change({ mate })} />
      )}
      {'legs' in deed ? (
        <LegsPart of={of} symbol={symbol} deed={deed} change={change} />
      ) : (
        <>
          ,{' '}
          <PricePart
            of={of}
            price={deed.price}
            change={(price) => change({ price, ...(price === 'market' ? { unfilled: undefined } : {}) })}
          />
        </>
      )}
      {!('close' in deed) && (
        <>
          , where limits leave less at least{' '}
          <NumberBlank
            label={`Least of the size${of}`}
            needed
            value={leastOf(deed)}
            onChange={(least) => change({ least: Math.min(100, least!) })}
          />{' '}
          % of that
        </>
      )}
      , good{' '}
      <InlineChoice
        label={`Good for${of}`}
        value={deed.timeInForce}
        options={[
          ['Day', 'for the day'],
          ['GoodTillCancel', 'as long as it takes'],
          ['ImmediateOrCancel', 'this moment, what there is'],
          ...('open' in deed ? ([['AtTheOpening', 'in the next opening auction']] as const) : []),
        ]}
        onChange={(timeInForce) => change({ timeInForce })}
      />
      {'open' in deed && <RestPart of={of} deed={deed} change={change} />}
      {'open' in deed && (
        <AddsPart
          of={of}
          adds={deed.adds}
          pairs={deed.mate !== undefined}
          change={(adds) => change({ adds })}
        />
      )}
      {'open' in deed && <MostPart of={of} most={deed.most} change={change} />}
      {'close' in deed && deed.price !== 'market' && (
        <ClosingPart of={of} unfilled={deed.unfilled} change={(unfilled) => change({ unfilled })} />
      )}
      {why && (
        <span role="alert" className="refusal">
          {' '}
          {why}
        </span>
      )}
    </>
  )
}

/** Turns a side to contracts of its one security, with four legs about the price to begin with; else says why not. */
function useLegsFor({ among, then }: Side, put: OfSide['put'], say: (why: string) => void) {
  const broker = useBroker()
  return async () => {
    const [symbol, ...more] = 'list' in among ? among.list : []
    if (symbol === undefined || more.length > 0)
      return say('Contracts are of one security: name that one in Among first.')
    try {
      const [chain, [quote]] = await Promise.all([broker.options(symbol), broker.quotes([symbol])])
      const legs = firstLegs(chain, quote.last, Date.parse(quote.at))
      if (!legs) return say(`There are no four strikes of ${symbol}: it trades too little for options.`)
      const { leaveIf, outAt } = then
      put({
        do: { legs, price: { net: 'mid', worse: 0 }, size: { units: 1 }, timeInForce: 'Day' },
        then: { leaveIf, outAt, net: { gain: 50, loss: 100 }, daysLeft: 7 },
      })
    } catch (error) {
      say((error as Error).message)
    }
  }
}

function SizePart({ of, size, change }: { of: string; size: PlanSize; change(size: PlanSize): void }) {
  const kind = sizeKind(size)
  const over = 'risk' in size ? size.over : undefined
  const base = 'of' in size ? size.of : undefined
  return (
    <>
      <NumberBlank
        label={`Size${of}`}
        needed
        value={valueOf(size)}
        onChange={(value) => change(sizeOf(kind, value!, over, base))}
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
        onChange={(next) => change(sizeOf(next, SIZES[next], over, base))}
      />
      {kind !== 'shares' && kind !== 'money' && (
        <>
          {' '}
          <InlineChoice
            label={`Of which equity${of}`}
            value={base ?? 'Now'}
            options={[
              ['Now', '(that of now)'],
              ['DayStart', '(that at the day’s start)'],
              ['Start', '(the starting cash)'],
              ['Share', '(its own share)'],
            ]}
            onChange={(next) => change(sizeOf(kind, valueOf(size), over, next))}
          />
        </>
      )}
      {over !== undefined && (
        <>
          {' '}
          <TextBlank
            label={`Distance of the risk${of}`}
            value={over}
            onChange={(text) => change(sizeOf('over', valueOf(size), text, base))}
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
      ticks and{' '}
      <NumberBlank
        label={`Percent above${of}`}
        signed
        value={price.percent || undefined}
        onChange={(percent = 0) => change({ ...price, percent: Math.min(50, Math.max(-50, percent)) })}
      />{' '}
      %
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

/** Whether an entry rests at its price. */
function RestPart({ of, deed, change }: { of: string; deed: Open; change(part: Partial<Open>): void }) {
  const { rests, price } = deed
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
    </>
  )
}

/** How many securities it may hold or have orders for at one time. */
function MostPart({
  of,
  most,
  change,
}: {
  of: string
  most: number | undefined
  change(part: Partial<Open>): void
}) {
  return (
    <>
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
