import { fromE4, toE4 } from '../market/money'

/** An option contract, by FIX field names. */
export interface Contract {
  underlyingSymbol: string
  /** Last day on which it is traded. */
  maturityDate: string
  putOrCall: 'Put' | 'Call'
  strikePrice: number
}

/** Shares of the underlying that one contract is about (common practice of US equity options). */
export const CONTRACT_MULTIPLIER = 100

const OSI = /^([A-Z0-9]{1,6}) *(\d{2})(\d{2})(\d{2})([CP])(\d{8})$/
const LENGTH = 21

/**
 * The symbol of a contract: root padded to six, yymmdd, C or P, strike times 1000 in eight digits. Source: OCC, Option
 * Symbology Initiative (2010).
 */
export function osiOf({ underlyingSymbol, maturityDate, putOrCall, strikePrice }: Contract): string {
  const strike = String(Math.round(toE4(strikePrice) / 10)).padStart(8, '0')
  const day = maturityDate.slice(2).replaceAll('-', '')
  return `${underlyingSymbol.padEnd(6)}${day}${putOrCall[0]}${strike}`
}

/** The contract that a symbol names, with or without the blanks within; undefined where it names none. */
export function parseOsi(symbol: string): Contract | undefined {
  const found = OSI.exec(symbol)
  if (!found || found[1].length + 15 > LENGTH) return undefined
  const [, underlyingSymbol, year, month, day, right, strike] = found
  const maturityDate = `20${year}-${month}-${day}`
  const date = new Date(`${maturityDate}T00:00:00Z`)
  if (Number.isNaN(date.getTime()) || date.toISOString().slice(0, 10) !== maturityDate) return undefined
  const strikePrice = fromE4(Number(strike) * 10)
  return strikePrice > 0
    ? { underlyingSymbol, maturityDate, putOrCall: right === 'C' ? 'Call' : 'Put', strikePrice }
    : undefined
}

/** True of the symbol of an option contract, as it stands in orders and positions: 21 characters. */
export const isOption = (symbol: string): boolean => symbol.length === LENGTH

/** Units of money that one of a security is worth at a price of 1. */
export const multiplierOf = (symbol: string): number => (isOption(symbol) ? CONTRACT_MULTIPLIER : 1)

/** A symbol as it stands in orders: that of a contract padded, whatever blanks it was written with. */
export function plainSymbol(symbol: string): string {
  const contract = symbol.length > 6 ? parseOsi(symbol.trim().toUpperCase()) : undefined
  return contract ? osiOf(contract) : symbol
}

/** What a security is about: the underlying of a contract; itself else. */
export const underlyingOf = (symbol: string): string =>
  isOption(symbol) ? symbol.slice(0, 6).trimEnd() : symbol
