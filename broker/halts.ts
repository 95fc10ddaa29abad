/** A time in which nothing is traded of a security. */
export interface Halt {
  symbol: string
  /** Epoch milliseconds. */
  from: number
  /** When it ends; undefined until somebody ends it. */
  until?: number
}

/** Halts that a world lays over its market. */
export class Halts {
  private all: Halt[] = []

  isHalted = (symbol: string, at: number): boolean =>
    this.all.some((one) => one.symbol === symbol && at >= one.from && at < (one.until ?? Infinity))

  /** Those that are on at a moment, oldest first. */
  at = (moment: number): Halt[] =>
    this.all.filter((one) => moment >= one.from && moment < (one.until ?? Infinity))

  begin(halt: Halt): void {
    this.all.push(halt)
  }

  /** Ends what is on of a security. */
  end(symbol: string, at: number): void {
    for (const one of this.all)
      if (one.symbol === symbol && at < (one.until ?? Infinity)) one.until = Math.max(one.from, at)
  }

  list = (): Halt[] => [...this.all]

  clear(): void {
    this.all = []
  }
}
