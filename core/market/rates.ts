import { type Rate } from './wire'

/** Units of one currency for a unit of another; undefined where that is not known. */
export const rateInto = (rates: readonly Rate[], from: string, to: string): number | undefined =>
  from === to ? 1 : rates.find((one) => one.from === from && one.to === to)?.rate
