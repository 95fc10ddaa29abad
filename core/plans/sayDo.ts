import { decimal } from '../market/money'
import { contractText } from '../options/words'
import {
  type Adds,
  BASE_TEXT,
  type Do,
  type Gone,
  leastOf,
  type NetPrice,
  type Open,
  type OpenLegs,
  type PlanLeg,
  type PlanPrice,
  type PlanSize,
  type Unfilled,
} from './entry'
import { timeText } from './times'

export const number = (x: number): string => decimal(x, Number.isInteger(x) ? 0 : 2)

const LASTING = {
  Day: 'for the day',
  GoodTillCancel: 'as long as it takes',
  ImmediateOrCancel: 'this moment, what there is',
  AtTheOpening: 'in the next opening auction',
}

/** What a side orders, in words. */
export function doText(deed: Do): string {
  if ('tell' in deed) return 'only tell me'
  const lasting = `good ${LASTING[deed.timeInForce]}`
  if ('close' in deed) {
    const much =
      deed.close === 100
        ? 'what the account holds of it'
        : `${number(deed.close)} % of what the account holds of it`
    const next = deed.unfilled ? `, ${unfilledText(deed.unfilled)}` : ''
    return `close ${much}, ${priceText(deed.price)}, ${lasting}${next}`
  }
  if ('legs' in deed) return legsText(deed, lasting)
  return [
    `${deed.open === 'Long' ? 'buy' : 'sell short'} ${sizeText(deed.size)}${leastText(deed)}${deed.mate ? mateText(deed.open, deed.mate) : ''}`,
    `${priceText(deed.price)}${deed.rests ? restText(deed.rests) : ''}`,
    lasting,
    ...(deed.adds ? [addsText(deed.adds)] : []),
    ...(deed.most === undefined ? [] : [`in at most ${deed.most} at a time`]),
  ].join(', ')
}

/** What is ordered where limits leave less than the size. */
function leastText(deed: Pick<Open, 'least'>): string {
  const least = leastOf(deed)
  return least === 100 ? ', all or none' : `, where limits leave less at least ${number(least)} % of that`
}

/** What follows a limit that is not filled: "after 3 min at the market". */
export const unfilledText = ({ minutes, next }: Unfilled): string =>
  `after ${minutes} min ${next === 'Market' ? 'what is left at the market' : 'anew, as the quotes are by then'}`

/** A way that the price has gone: "1.50 %", "40 ticks", "2 times the risk". */
export const goneText = (gone: Gone): string =>
  'percent' in gone
    ? `${number(gone.percent)} %`
    : 'ticks' in gone
      ? `${gone.ticks} ticks`
      : `${number(gone.risk)} times the risk`

function addsText({ most, after, stops, apart, upTo }: Adds): string {
  const often = most === 1 ? 'once more' : `up to ${most} times more`
  const when =
    after === 'Signal'
      ? 'when it begins anew'
      : 'gain' in after
        ? `each time it has gained ${goneText(after.gain)} since the last fill`
        : `each time it has lost ${goneText(after.loss)} since the last fill`
  const parts = [
    `${often} ${when}`,
    apart !== undefined && `at least ${apart} ${apart === 1 ? 'minute' : 'minutes'} after the last fill`,
    upTo && `up to ${'shares' in upTo ? `${number(upTo.shares)} shares` : number(upTo.money)} in all`,
    stops === 'Own' ? 'each with its own stop' : 'all at the newest stop',
  ]
  return parts.filter(Boolean).join(', ')
}

/** "1 OSPRY 17 Apr 26 12.00 put bought, 2 …": a leg, its underlying being told by Among. */
export const legText = ({ contract, side, ratio }: PlanLeg): string =>
  `${side === 'Buy' ? 'buy' : 'write'} ${ratio} ${contractText(contract)}`

function legsText(deed: OpenLegs, lasting: string): string {
  const { legs, price, size, most } = deed
  const much =
    'units' in size
      ? `${number(size.units)} ${size.units === 1 ? 'unit' : 'units'}`
      : `units that keep ${number(size.loss)} % of equity`
  return [
    `open ${much} of ${new Intl.ListFormat('en').format(legs.map(legText))} together${leastText(deed)}`,
    netPriceText(price),
    lasting,
    ...(most === undefined ? [] : [`in at most ${most} at a time`]),
  ].join(', ')
}

function netPriceText(price: NetPrice): string {
  if (price === 'market') return 'at the market'
  const { worse } = price
  const off = `${Math.abs(worse)} ${Math.abs(worse) === 1 ? 'cent' : 'cents'} ${worse > 0 ? 'worse than' : 'better than'} `
  return `limit at ${worse === 0 ? '' : off}the middle of their net price`
}

function mateText(open: Open['open'], { ratio, alone }: NonNullable<Open['mate']>): string {
  const other = open === 'Long' ? 'sell short' : 'buy'
  const left = alone === 'Close' ? ', neither without the other' : ', one without the other if need be'
  return ` of the first and ${other} ${ratio} of the second for each${left}`
}

function restText({ follows, until }: NonNullable<Open['rests']>): string {
  const ends = until ? `, at ${timeText(until)} at the latest` : ''
  return `${follows ? ', moving with it' : ''}, taken back when If or When no longer holds${ends}`
}

function sizeText(size: PlanSize): string {
  if ('shares' in size) return `${number(size.shares)} shares`
  if ('money' in size) return `shares for ${number(size.money)}`
  const base = BASE_TEXT[size.of ?? 'Now']
  if ('equity' in size) return `shares for ${number(size.equity)} % of ${base}`
  return `shares risking ${number(size.risk)} % of ${base}${size.over ? ` over ${size.over}` : ''}`
}

/** A price in words: "limit 2 ticks over the bid", "once the price comes to opening(15 min).high". */
export function priceText(price: PlanPrice): string {
  if (price === 'market') return 'at the market'
  if ('at' in price) {
    const at = { bid: 'the bid', ask: 'the ask', mid: 'the middle', last: 'the last price' }[price.at]
    return `limit ${offText(price.ticks, price.percent ?? 0, at, 'at ')}`
  }
  const { ticks, percent } = price
  return 'limit' in price
    ? `limit ${offText(ticks, percent, price.limit, 'at ')}`
    : `once the price comes to ${offText(ticks, percent, price.stop, '')}`
}

function offText(ticks: number, percent: number, at: string, plain: string): string {
  if (ticks === 0 && percent === 0) return `${plain}${at}`
  const much = Math.abs(ticks)
  const parts = [
    percent !== 0 && `${number(Math.abs(percent))} % ${percent > 0 ? 'over' : 'under'}`,
    ticks !== 0 && `${much} ${much === 1 ? 'tick' : 'ticks'} ${ticks > 0 ? 'over' : 'under'}`,
  ]
  return `${parts.filter(Boolean).join(' and ')} ${at}`
}
