import { createReadStream } from 'node:fs'
import { open, rename } from 'node:fs/promises'
import { JournalError } from './problem'
import { recordOf } from './records'

/**
 * Brings a journal over that an earlier build wrote: one JSON document a line, without checksums. A last line without an end
 * was cut off in mid-write. The old file stays, under another name. Gives how many records there were.
 */
export async function bringOver(from: string, to: string): Promise<number> {
  const aside = `${to}.part`
  const file = await open(aside, 'w', 0o600)
  let number = 0
  try {
    for await (const lines of linesOf(from)) {
      const records = lines.map((line) => recordIn(line, ++number, from))
      if (records.length > 0) await file.appendFile(Buffer.concat(records))
    }
    await file.datasync()
  } finally {
    await file.close()
  }
  await rename(aside, to)
  await rename(from, `${from}.before`)
  return number
}

/** Whole lines of a file, piece by piece. Throws JournalError where it is no UTF-8. */
async function* linesOf(path: string): AsyncGenerator<string[]> {
  const decoder = new TextDecoder('utf-8', { fatal: true })
  let rest = ''
  for await (const piece of createReadStream(path)) {
    try {
      rest += decoder.decode(piece as Buffer, { stream: true })
    } catch (cause) {
      throw new JournalError(`The journal ${path} is damaged: it holds bytes that are no text.`, MEND, {
        cause,
      })
    }
    const lines = rest.split('\n')
    rest = lines.pop()!
    yield lines
  }
}

const MEND = 'Put back a copy of the data folder, or start with an empty one (HERON_DATA).'

function recordIn(line: string, number: number, path: string): Buffer {
  try {
    return recordOf(JSON.parse(line))
  } catch (cause) {
    throw new JournalError(`Line ${number} of the journal ${path} is damaged.`, MEND, { cause })
  }
}
