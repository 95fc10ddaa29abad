import { type Slots } from '../../indicators/slots'
import { type Stepper } from '../../indicators/types'

/** Numbers (NaN is unknown) or verdicts (see verdict.ts), one for each row. */
export type Column = Float64Array | Uint8Array

/**
 * An operation in both of its forms: over whole columns, and one step at a time. Both give the same, to the last bit;
 * verdicts are the same numbers in both. What the step form keeps lies in slots, and nowhere else.
 */
export interface Form {
  column(ins: readonly Column[], outs: readonly Column[]): void
  steps(slots: Slots): Stepper
}

/** An operation that looks at nothing but its own row: `of` gives its answer from the values there. */
export const pointwise = (column: Form['column'], of: (ins: Float64Array) => number): Form => ({
  column,
  steps: () => (ins, outs) => {
    outs[0] = of(ins)
  },
})
