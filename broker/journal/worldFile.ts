import { open, readFile, rename } from 'node:fs/promises'
import * as z from 'zod'
import { JournalError, OtherSeed } from './problem'

/** Format of the journal that this build writes. */
export const FORMAT = 2

const worldFile = z.strictObject({
  /** Names this world: events and orders of another are told apart by it. */
  world: z.uuid(),
  seed: z.string(),
  format: z.literal(FORMAT),
  /** Version of the stand-in market that the world was begun over; 1 for worlds of earlier builds. */
  market: z.int().min(1).default(1),
  /** Bytes that the journal had at least. */
  length: z.int().min(0),
})
export type WorldFile = z.infer<typeof worldFile>

/** What stands beside the journal about it; undefined where nothing does. Throws JournalError where it cannot be read. */
export async function readWorldFile(path: string): Promise<WorldFile | undefined> {
  const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return undefined
    throw error
  })
  if (text === undefined) return undefined
  try {
    return worldFile.parse(JSON.parse(text))
  } catch (cause) {
    throw new JournalError(
      `${path} cannot be read: it is damaged, or a newer build wrote it.`,
      'Put back a copy of the data folder, or start with the build that wrote it.',
      { cause },
    )
  }
}

/** Writes it aside and moves it into place, so that there is always a whole one. */
export async function writeWorldFile(path: string, about: WorldFile): Promise<void> {
  const aside = `${path}.part`
  const file = await open(aside, 'w', 0o600)
  try {
    await file.writeFile(`${JSON.stringify(about, null, 2)}\n`)
    await file.datasync()
  } finally {
    await file.close()
  }
  await rename(aside, path)
}

/** Stops a start that would go on from less than there was, or in another market. */
export function expectSame(
  about: WorldFile,
  path: string,
  found: { seed: string; length: number; market: number },
): void {
  if (found.market !== about.market)
    throw new JournalError(
      `This world was begun over version ${about.market} of the stand-in market. This build has version ${found.market}, with other prices.`,
      'Open it with the build that made it, or delete it and begin another.',
    )
  if (found.length < about.length)
    throw new JournalError(
      found.length === 0
        ? `The journal ${path} is missing or empty; it had ${about.length} bytes.`
        : `The journal ${path} has ${found.length} bytes; it had ${about.length}. What was acknowledged is missing.`,
      'Put back a copy of the data folder, or start with an empty one (HERON_DATA).',
    )
  if (found.seed !== about.seed)
    throw new OtherSeed(
      `This world was begun with the seed "${about.seed}", and HERON_SEED says "${found.seed}".`,
      `Start with HERON_SEED=${about.seed}, or with an empty data folder (HERON_DATA) for another market.`,
    )
}
