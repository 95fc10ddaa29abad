import { decimal, priceText } from '@/core/market/money'
import { type Security } from '@/core/market/security'
import { dayText } from '@/core/options/words'
import { InlineChoice, InlineNumber } from './Inline'
import { type ChosenLeg, contractOf } from './legsStore'
import css from './Ticket.module.css'

interface LineProps {
  leg: ChosenLeg
  at: number
  chain: readonly Security[]
  last: number | undefined
  quote: { bid: number; ask: number } | undefined
  held: number
  /** It cannot be taken away: there are no fewer. */
  alone: boolean
  onChange(part: Partial<ChosenLeg>): void
  onRemove(): void
}

/** One leg: "Sell 1 17 Apr 26 12.00 put", and what is bid and asked for it. */
export function LegLine({ leg, at, chain, last, quote, held, alone, onChange, onRemove }: LineProps) {
  const expiries = [...new Set(chain.map(({ option }) => option!.maturityDate))]
  const strikes = chain.filter(
    ({ option }) => option!.maturityDate === leg.maturityDate && option!.putOrCall === leg.putOrCall,
  )
  const nearest = (maturityDate: string) =>
    chain
      .filter(({ option }) => option!.maturityDate === maturityDate && option!.putOrCall === leg.putOrCall)
      .map(({ option }) => option!.strikePrice)
      .sort((a, b) => Math.abs(a - (last ?? a)) - Math.abs(b - (last ?? b)))[0]
  // A strike that the other expiry does not have is no choice any more.
  const chooseExpiry = (maturityDate: string) => {
    const has = chain.some((one) => contractOf({ ...leg, maturityDate }, [one]))
    onChange({ maturityDate, ...(has ? {} : { strikePrice: String(nearest(maturityDate) ?? '') }) })
  }
  return (
    <li>
      <InlineChoice
        label={`Side of leg ${at}`}
        value={leg.side}
        options={[
          ['Buy', 'buy'],
          ['Sell', held > 0 ? 'sell held' : 'write'],
        ]}
        onChange={(side) => onChange({ side })}
      />{' '}
      <InlineNumber
        label={`Ratio of leg ${at}`}
        value={leg.ratio}
        onChange={(ratio) => onChange({ ratio })}
      />{' '}
      <InlineChoice
        label={`Expiry of leg ${at}`}
        value={leg.maturityDate}
        options={[['', 'expiry …'], ...expiries.map((date) => [date, dayText(date)] as const)]}
        onChange={chooseExpiry}
      />{' '}
      <InlineChoice
        label={`Strike of leg ${at}`}
        value={leg.strikePrice}
        options={[
          ['', 'strike …'],
          ...strikes.map(
            ({ option }) => [String(option!.strikePrice), priceText(option!.strikePrice)] as const,
          ),
        ]}
        onChange={(strikePrice) => onChange({ strikePrice })}
      />{' '}
      <InlineChoice
        label={`Type of leg ${at}`}
        value={leg.putOrCall}
        options={[
          ['Call', 'call'],
          ['Put', 'put'],
        ]}
        onChange={(putOrCall) => onChange({ putOrCall })}
      />
      <span className={css.legQuote}>
        {quote
          ? `bid ${decimal(quote.bid, 2)} · ask ${decimal(quote.ask, 2)}`
          : leg.strikePrice
            ? 'asking …'
            : ''}
        {held !== 0 && ` · ${held} held`}
        {!alone && (
          <button type="button" className={css.remove} aria-label={`Take leg ${at} away`} onClick={onRemove}>
            take away
          </button>
        )}
      </span>
    </li>
  )
}
