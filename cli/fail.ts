/**
 * Codes that the command ends with: a command line that cannot be run is told from files that cannot be read, records of the
 * broker that cannot be explained, and a plan that runs already.
 */
export const EXIT = { ok: 0, data: 1, usage: 2, refused: 3, running: 4 } as const

/** Ends a command with a message for people. */
export class Failure extends Error {
  constructor(
    message: string,
    readonly exit: number = EXIT.data,
  ) {
    super(message)
    this.name = 'Failure'
  }
}

/** Something that the person should know and that does not stop the command; goes to standard error. */
export const note = (text: string): void => void process.stderr.write(`heron: ${text}\n`)
