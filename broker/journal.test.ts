import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals'
import { appendFile, readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { tempDir } from '@/tests/broker'
import { Journal } from './journal'

type Entry = { n: number }

describe('the journal', () => {
  let dir: Awaited<ReturnType<typeof tempDir>>
  let path: string
  beforeEach(async () => {
    dir = await tempDir()
    path = join(dir.path, 'deep', 'journal.ndjson')
  })
  const opened: Journal<Entry>[] = []
  const openJournal = async () => {
    const made = await Journal.open<Entry>(path)
    opened.push(made.journal)
    return made
  }
  afterEach(async () => {
    await Promise.all(opened.splice(0).map((journal) => journal.close().catch(() => undefined)))
    await dir.remove()
  })

  it('gives back what was appended, in order, also when many append at once', async () => {
    const { journal } = await openJournal()
    await Promise.all(Array.from({ length: 50 }, (_, n) => journal.append([{ n }, { n: n + 100 }])))
    await journal.close()
    const { entries } = await openJournal()
    expect(entries.map((e) => e.n)).toEqual(Array.from({ length: 50 }, (_, n) => [n, n + 100]).flat())
  })

  it('takes away a last line that was cut off: it was never acknowledged', async () => {
    const { journal } = await openJournal()
    await journal.append([{ n: 1 }])
    await journal.close()
    await appendFile(path, '{"n":2')
    const reopened = await openJournal()
    expect(reopened.entries).toEqual([{ n: 1 }])
    await reopened.journal.append([{ n: 3 }])
    expect(await readFile(path, 'utf8')).toBe('{"n":1}\n{"n":3}\n')
  })

  it('says which line is damaged, and does not go on', async () => {
    const { journal } = await openJournal()
    await journal.append([{ n: 1 }])
    await writeFile(path, '{"n":1}\nrubbish\n{"n":2}\n')
    await expect(Journal.open(path)).rejects.toThrow('Line 2 of the journal')
  })

  it('a full disk refuses the whole batch and leaves no half of it behind', async () => {
    const { journal } = await openJournal()
    await journal.append([{ n: 1 }])
    const file = (journal as unknown as { file: { datasync(): Promise<void> } }).file
    jest.spyOn(file, 'datasync').mockRejectedValueOnce(new Error('ENOSPC: no space left on device'))
    await expect(journal.append([{ n: 2 }])).rejects.toThrow('cannot be written: ENOSPC')
    expect(await readFile(path, 'utf8')).toBe('{"n":1}\n')
    await journal.append([{ n: 3 }])
    expect(await journal.reread()).toEqual([{ n: 1 }, { n: 3 }])
  })
})
