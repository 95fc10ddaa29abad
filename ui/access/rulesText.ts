import { type Account } from '@/core/orders/views'

/** What an account may do, in words. */
export const rulesText = ({ environment, rules }: Account): string =>
  [
    ...(environment === 'live' ? ['live stand-in'] : []),
    rules.margin ? 'margin' : 'cash only',
    rules.short ? 'may sell short' : 'sells nothing short',
    `option level ${rules.optionLevel}`,
    `in ${rules.currency}`,
  ].join(' · ')
