import { incrementAt, type IncrementBand } from '../market/increment'
import { type Gone } from '../plans/entry'

/** How far that is from a price, in price units; NaN by risk where that is not known. */
export function goneFrom(gone: Gone, from: number, bands: readonly IncrementBand[], risk = NaN): number {
  if ('percent' in gone) return (from * gone.percent) / 100
  return 'ticks' in gone ? gone.ticks * incrementAt(bands, from) : gone.risk * risk
}
