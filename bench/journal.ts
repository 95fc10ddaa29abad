import { open } from 'node:fs/promises'
import { type Entry } from '../broker/journal/entries'
import { recordOf } from '../broker/journal/records'

/** Writes a journal as a broker would have left it. */
export async function writeJournal(path: string, entries: Iterable<Entry>): Promise<void> {
  const file = await open(path, 'w', 0o600)
  let batch: Buffer[] = []
  for (const entry of entries) {
    batch.push(recordOf(entry))
    if (batch.length < 5000) continue
    await file.appendFile(Buffer.concat(batch))
    batch = []
  }
  await file.appendFile(Buffer.concat(batch))
  await file.close()
}
