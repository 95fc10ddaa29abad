import { type Opposite } from '../../indicators/types'

/** What most words say of themselves alike. */

export const GAP = 'one of its values is not known'

/** Of what is taken of other values or conditions: they are turned, not it. */
export const INSIDE: Opposite = { goes: 'inside' }
