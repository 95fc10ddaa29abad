import { mkdir, open, readdir, readFile, rename, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { SetAside } from '@/core/orders/worlds'
import { type Entry } from './journal/entries'
import { Damage, readRecords } from './journal/records'
import { readWorldFile } from './journal/worldFile'
import { type Key, keyOf } from './keys/keys'
import { MARKET_VERSION } from './market/version'

const FOLDER = 'set-aside'
const ABOUT = 'about.json'

/** Files of a data folder that belong to no world and stay where they are. */
const STAYS = new Set([FOLDER, 'broker.lock', 'token.key', 'paper-key.json', 'live-key.json'])

/** Keys and market time of a journal, as far as it can be read. */
export interface Carried {
  keys: Key[]
  /** The last moment that was told; undefined where none can be read. */
  until: number | undefined
}

/** Reads the keys of a world and how far its time had come from its journal, up to where it is damaged. */
export async function carriedOf(folder: string): Promise<Carried> {
  const keys = new Map<string, Key>()
  let until: number | undefined
  const file = await open(join(folder, 'journal.log'), 'r').catch(() => undefined)
  if (!file) return { keys: [], until }
  try {
    await readRecords(file, (one) => {
      const entry = one as Entry
      if (entry.is === 'key') keys.set(entry.key.keyId, keyOf(entry.key))
      if (entry.is === 'key withdrawn') keys.delete(entry.keyId)
      if (entry.is === 'clock') until = Math.max(until ?? 0, entry.clock.until ?? entry.clock.at)
    })
  } catch (error) {
    if (!(error instanceof Damage)) throw error
  } finally {
    await file.close()
  }
  return { keys: [...keys.values()], until }
}

/** The version of the market over which the worlds of a data folder were begun, if it is another than that of this build. */
export async function otherMarket(dataDir: string): Promise<number | undefined> {
  const note = await readWorldFile(join(dataDir, 'world.json')).catch(() => undefined)
  return note && note.market !== MARKET_VERSION ? note.market : undefined
}

/**
 * Moves all worlds of a data folder aside, into a data folder that the build which made them can open. A file beside it says
 * what was moved.
 */
export async function setAsideAll(dataDir: string, market: number): Promise<SetAside> {
  const taken = new Set(await readdir(join(dataDir, FOLDER)).catch(() => []))
  let name = `market-${market}`
  for (let n = 2; taken.has(name); n++) name = `market-${market}-${n}`
  const to = join(dataDir, FOLDER, name, 'broker')
  await mkdir(to, { recursive: true, mode: 0o700 })
  for (const one of await readdir(dataDir))
    if (!STAYS.has(one)) await rename(join(dataDir, one), join(to, one))
  const about: SetAside = {
    name,
    why: `Paper, live and the rehearsals were begun over version ${market} of the stand-in market. This build has version ${MARKET_VERSION}, with other prices. They were set aside whole, and new ones were begun with the same keys and market time.`,
    mend: `To look at them, start the build that made them with HERON_DATA set to the folder broker/${FOLDER}/${name} of this data folder. If you no longer need them, delete that folder.`,
  }
  await writeFile(join(dataDir, FOLDER, name, ABOUT), `${JSON.stringify(about, null, 2)}\n`)
  return about
}

/** What was set aside in a data folder at one start or another, by name. */
export async function allSetAside(dataDir: string): Promise<SetAside[]> {
  const names = await readdir(join(dataDir, FOLDER)).catch(() => [])
  const found = await Promise.all(
    names.sort().map(async (name) => {
      const text = await readFile(join(dataDir, FOLDER, name, ABOUT), 'utf8').catch(() => '')
      const told = SetAside.safeParse(text && JSON.parse(text))
      return told.success ? [told.data] : []
    }),
  )
  return found.flat()
}
