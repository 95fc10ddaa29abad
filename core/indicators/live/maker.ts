/**
 * Incremental forms: an indicator fed one bar, or one tick of a growing bar, at a time. `ins` are the values of its
 * inputs in their order, `outs` takes its outputs. Without `keep` nothing of the past changes, so that a bar can be
 * tried again with each tick.
 */
export type Stepper = (ins: ArrayLike<number>, outs: Float64Array, keep: boolean) => void

/** Makes the incremental form for parameters. */
export type Maker = (params: readonly number[]) => Stepper
