/** Work on things that are known by an id: what is wanted of one is done one after the other, in the order in which it was wanted. */
export class InTurn {
  private readonly last = new Map<string, Promise<unknown>>()

  /** Does a piece of work once all that was wanted of the same id before is over, however that ended. */
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
