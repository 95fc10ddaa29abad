type Posted = (event: { data: unknown }) => void

/** A worker's own code in this thread, behind the interface of a worker. Import it after `inThisThread`. */
export class SameThread {
  static made: SameThread[] = []
  static now: SameThread | undefined
  onmessage: Posted | undefined
  onerror: ((event: { message: string }) => void) | undefined
  private ended = false

  constructor() {
    SameThread.made.push(this)
  }

  postMessage(data: unknown): void {
    // As a real one would: later.
    setTimeout(() => {
      if (this.ended) return
      SameThread.now = this
      ;(globalThis as unknown as { onmessage: Posted }).onmessage({ data })
    }, 0)
  }

  terminate(): void {
    this.ended = true
  }
}

/** Workers that are made from now on run in this thread. */
export const inThisThread = (): unknown =>
  Object.assign(globalThis, {
    Worker: SameThread,
    postMessage: (data: unknown) => SameThread.now!.onmessage?.({ data }),
  })

/** What was posted last is answered before the globals of the test are taken away. */
export const answered = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 30))
