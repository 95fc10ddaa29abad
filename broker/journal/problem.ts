/** The journal cannot be read or written; `mend` says what to do. */
export class JournalError extends Error {
  constructor(
    message: string,
    readonly mend: string,
    options?: ErrorOptions,
  ) {
    super(message, options)
    this.name = 'JournalError'
  }
}

/** The broker was started with another seed than its data: none of its worlds can be opened. */
export class OtherSeed extends JournalError {}
