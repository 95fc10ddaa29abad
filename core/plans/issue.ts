/** What is wrong with a plan, or should be known of it, and in which clause. */
export interface PlanIssue {
  /** Clause and its side, from 0; When and Never are of both. */
  clause: 'When' | 'Among' | 'If' | 'Provided' | 'Do' | 'Then' | 'Never'
  side?: number
  /** An error keeps it from being armed. */
  is: 'error' | 'warning'
  /** In words, with the mend. */
  text: string
}
