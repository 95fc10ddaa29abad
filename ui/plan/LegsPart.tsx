import { type Security } from '@/core/market/security'
import { parseOsi } from '@/core/options/osi'
import { type Then } from '@/core/plans/exits'
import { type OpenLegs, type PlanLeg } from '@/core/plans/entry'
import { useOptions, useQuotes } from '../link/LinkProvider'
import { InlineAction, InlineChoice } from '../ticket/Inline'
import { LegLine } from '../ticket/LegLine'
import { type ChosenLeg, contractOf } from '../ticket/legsStore'
import ticket from '../ticket/Ticket.module.css'
import { NumberBlank } from './blanks'

/** A leg of a plan as it is chosen: by expiry, strike and type. */
function chosen({ contract, side, ratio }: PlanLeg): ChosenLeg {
  const { maturityDate = '', strikePrice = '', putOrCall = 'Call' as const } = parseOsi(contract) ?? {}
  return {
    ...{ side: side === 'Buy' ? 'Buy' : 'Sell', ratio: String(ratio), maturityDate, putOrCall },
    strikePrice: String(strikePrice),
  }
}

/** The leg that was chosen; undefined while its contract is none. */
function planLeg(leg: ChosenLeg, chain: readonly Security[]): PlanLeg | undefined {
  const contract = contractOf(leg, chain)?.symbol
  const ratio = Number(leg.ratio)
  if (contract === undefined || !Number.isInteger(ratio) || ratio < 1 || ratio > 100) return undefined
  return { contract, side: leg.side === 'Buy' ? 'Buy' : 'SellShort', ratio }
}

const DAY = 86_400_000

/**
 * Four legs to begin with: written a step beside the price on both sides, bought two steps further out. Undefined where the
 * chain has not so many strikes.
 */
export function firstLegs(
  chain: readonly Security[],
  last: number,
  now: number,
): OpenLegs['legs'] | undefined {
  const dates = [...new Set(chain.map(({ option }) => option!.maturityDate))].sort()
  const maturityDate = dates.find((date) => Date.parse(date) > now + 21 * DAY) ?? dates.at(-1)
  const at = (putOrCall: 'Put' | 'Call', above: boolean) =>
    chain
      .filter(({ option }) => option!.maturityDate === maturityDate && option!.putOrCall === putOrCall)
      .filter(({ option }) => (above ? option!.strikePrice > last : option!.strikePrice < last))
      .sort((a, b) => (above ? 1 : -1) * (a.option!.strikePrice - b.option!.strikePrice))
  const [puts, calls] = [at('Put', false), at('Call', true)]
  const four = [puts[3], puts[1], calls[1], calls[3]]
  if (four.some((one) => !one)) return undefined
  const sides = ['Buy', 'SellShort', 'SellShort', 'Buy'] as const
  return four.map(({ symbol }, i) => ({ contract: symbol, side: sides[i], ratio: 1 }))
}

/** Several contracts that are opened together: how many units, which legs, at which net price. */
export function LegsPart({
  of,
  symbol,
  deed,
  change,
}: {
  of: string
  symbol: string
  deed: OpenLegs
  change(part: Partial<OpenLegs>): void
}) {
  const { legs, size, price } = deed
  const chain = useOptions(symbol).data ?? []
  const quotes = useQuotes([symbol, ...legs.map(({ contract }) => contract)])
  const put = (i: number, leg: PlanLeg | undefined) =>
    leg && change({ legs: legs.map((one, k) => (k === i ? leg : one)) })
  const add = () => {
    const used = new Set(legs.map(({ contract }) => contract))
    const last = chosen(legs[legs.length - 1])
    const free = chain.find(
      (one) =>
        !used.has(one.symbol) &&
        one.option!.maturityDate === last.maturityDate &&
        one.option!.putOrCall === last.putOrCall,
    )
    if (free) change({ legs: [...legs, { contract: free.symbol, side: 'Buy', ratio: 1 }] })
  }
  return (
    <>
      <NumberBlank
        label={`Size${of}`}
        needed
        value={'units' in size ? size.units : size.loss}
        onChange={(value) =>
          change({
            size:
              'units' in size ? { units: Math.max(1, Math.round(value!)) } : { loss: Math.min(100, value!) },
          })
        }
      />{' '}
      <InlineChoice
        label={`Size is measured in${of}`}
        value={'units' in size ? 'units' : 'loss'}
        options={[
          ['units', 'units'],
          ['loss', '% of equity kept for them'],
        ]}
        onChange={(kind) => change({ size: kind === 'units' ? { units: 1 } : { loss: 5 } })}
      />{' '}
      of
      <ol className={ticket.legs}>
        {legs.map((leg, i) => (
          <LegLine
            key={i}
            leg={chosen(leg)}
            at={i + 1}
            chain={chain}
            last={quotes[symbol]?.last}
            quote={quotes[leg.contract]}
            held={0}
            alone={legs.length <= 2}
            onChange={(part) => put(i, planLeg({ ...chosen(leg), ...part }, chain))}
            onRemove={() => change({ legs: legs.filter((_one, k) => k !== i) })}
          />
        ))}
      </ol>
      {legs.length < 4 && (
        <>
          <InlineAction label={`Add a leg${of}`} onAct={add}>
            add a leg
          </InlineAction>{' '}
        </>
      )}
      filled together or not at all,{' '}
      <InlineChoice
        label={`Price${of}`}
        value={price === 'market' ? 'market' : 'mid'}
        options={[
          ['market', 'at the market'],
          ['mid', 'at a limit at the middle of their net price'],
        ]}
        onChange={(next) => change({ price: next === 'market' ? 'market' : { net: 'mid', worse: 0 } })}
      />
      {price !== 'market' && (
        <>
          ,{' '}
          <NumberBlank
            label={`Cents worse${of}`}
            signed
            value={price.worse || undefined}
            onChange={(worse) => change({ price: { net: 'mid', worse: Math.round(worse ?? 0) } })}
          />{' '}
          cents worse
        </>
      )}
    </>
  )
}

/** How several legs are left by what they have gained or lost together, and by the days that are left. */
export function NetPart({
  of,
  then: { net = {}, daysLeft },
  pairs = false,
  change,
}: {
  of: string
  then: Then
  /** Of a pair, which has no days that are left. */
  pairs?: boolean
  change(part: Partial<Then>): void
}) {
  const put = (part: NonNullable<Then['net']>) => {
    const next = { ...net, ...part }
    change({ net: next.gain === undefined && next.loss === undefined ? undefined : next })
  }
  return (
    <>
      {pairs ? 'once they have gained' : 'leave once it has gained'}{' '}
      <NumberBlank label={`Gain of the net price${of}`} value={net.gain} onChange={(gain) => put({ gain })} />{' '}
      % or lost{' '}
      <NumberBlank label={`Loss of the net price${of}`} value={net.loss} onChange={(loss) => put({ loss })} />{' '}
      % of {pairs ? 'what both were worth at their fills' : 'its net price'}, watched by the plan
      {!pairs && (
        <>
          ; all with{' '}
          <NumberBlank
            label={`Days left${of}`}
            value={daysLeft}
            onChange={(days) => change({ daysLeft: days === undefined ? undefined : Math.round(days) })}
          />{' '}
          days left
        </>
      )}
    </>
  )
}
