import { type Unit } from '../indicators/types'
import { decimal, dollars, priceText, short } from '../market/money'

/** A computed value for people, by its unit; "unknown" where it is not known. */
export function valueText(value: number, unit: Unit): string {
  if (Number.isNaN(value)) return 'unknown'
  switch (unit) {
    case 'price':
      return priceText(value)
    case 'percent':
      return `${decimal(value)} %`
    case 'shares':
      return short(value)
    case 'money':
      // Cents where they could matter beside a limit.
      return dollars(value, Math.abs(value) < 100_000 && !Number.isInteger(value) ? 2 : 0)
    case 'contracts':
      return short(value)
    case 'ticks':
      return decimal(value, 0)
    case 'clock':
      return `${String(Math.floor(value / 60)).padStart(2, '0')}:${String(Math.floor(value % 60)).padStart(2, '0')}`
    case 'number':
      return Math.abs(value) >= 1e6 ? short(value) : decimal(value, Number.isInteger(value) ? 0 : 2)
  }
}
