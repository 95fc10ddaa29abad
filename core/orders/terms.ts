import { toE4 } from '../market/money'
import { type Trail } from './exits'
import { type NewOrder } from './model'

/**
 * At which price an order may trade, and what sets it off. In core prices are whole ten-thousandths; on the wire they
 * are decimal fields of the order. The net price of several legs is per unit of ratio: a debit above 0, a credit below.
 */
export type Terms =
  | { ordType: 'Market' }
  | { ordType: 'Limit'; limitE4: number }
  | { ordType: 'Stop'; stopE4: number }
  | { ordType: 'StopLimit'; stopE4: number; limitE4: number }
  /** `stopE4` is where it stands now; 0 before it stands anywhere. */
  | { ordType: 'TrailingStop'; trail: Trail; stopE4: number }

/** The fields of an order on the wire that say its terms. */
export type SentTerms = Pick<NewOrder, 'ordType' | 'price' | 'stopPx' | 'trail'>

/** Terms of an order as it is sent or reported, which the wire's schema has found whole. */
export function termsOf({ ordType, price = 0, stopPx = 0, trail }: SentTerms): Terms {
  const [limitE4, stopE4] = [toE4(price), toE4(stopPx)]
  switch (ordType) {
    case 'Market':
      return { ordType }
    case 'Limit':
      return { ordType, limitE4 }
    case 'Stop':
      return { ordType, stopE4 }
    case 'StopLimit':
      return { ordType, stopE4, limitE4 }
    case 'TrailingStop':
      return { ordType, trail: trail!, stopE4 }
  }
}
