/** Answer of a condition on one bar, as it stands in a column. */
export const FAILS = 0
export const HOLDS = 1
export const UNKNOWN = 2

export type Verdict = 'holds' | 'fails' | 'unknown'

const WORDS: readonly Verdict[] = ['fails', 'holds', 'unknown']

/** The word for a column's answer. */
export const verdictOf = (answer: number | undefined): Verdict => WORDS[answer ?? UNKNOWN] ?? 'unknown'
