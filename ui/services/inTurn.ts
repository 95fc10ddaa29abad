/** Does work of the same id one piece after the other, in the order in which it was asked for. */
export class InTurn {
  private readonly last = new Map<string, Promise<unknown>>()

  /** Does a piece of work once all earlier work of the same id is over, also where that failed. */
  do<T>(id: string, work: () => Promise<T>): Promise<T> {
    const mine = (this.last.get(id) ?? Promise.resolve()).then(work, work)
    this.last.set(id, mine)
    const end = () => {
      if (this.last.get(id) === mine) this.last.delete(id)
    }
    mine.then(end, end)
    return mine
  }
}
