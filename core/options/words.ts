import { decimal, priceText } from '../market/money'
import { isOption, parseOsi } from './osi'

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']

/** A day for people: "17 Apr 26". */
export function dayText(date: string): string {
  const [year, month, day] = date.split('-')
  return `${Number(day)} ${MONTHS[Number(month) - 1]} ${year.slice(2)}`
}

/** What a security is called in a list: "OSPRY 17 Apr 26 12.50 call" for a contract, its symbol else. */
export function securityText(symbol: string): string {
  const contract = isOption(symbol) ? parseOsi(symbol) : undefined
  return contract ? `${contract.underlyingSymbol} ${contractText(symbol)}` : symbol
}

/** A contract without its underlying: "17 Apr 26 12.50 call". */
export function contractText(symbol: string): string {
  const contract = parseOsi(symbol)
  if (!contract) return symbol
  const { maturityDate, strikePrice, putOrCall } = contract
  return `${dayText(maturityDate)} ${priceText(strikePrice)} ${putOrCall.toLowerCase()}`
}

/** A net price for people: "pays 0.30", "receives 0.30", "even". */
export const netText = (price: number): string =>
  price === 0 ? 'even' : `${price > 0 ? 'pays' : 'receives'} ${decimal(Math.abs(price), 2)}`
