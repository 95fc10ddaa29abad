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

/** The broker was started for another market than that of its data: no world of it can be opened so. */
export class OtherSeed extends JournalError {}
