import { open, readdir, readFile, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { crc32 } from 'node:zlib'
import { HEAD, recordOf } from './records'

/** What a world was at a length of its journal: its state as JSON, and long lists of numbers beside it. */
export interface Snapshot<State> {
  /** Bytes of the journal that it holds all of. */
  length: number
  state: State
  lists: Float64Array[]
}

/** Another form is not read: the journal is, instead. */
const FORM = 1

interface Kept<State> {
  form: number
  length: number
  state: State
  lists: { length: number; crc: number }[]
}

const listsOf = (folder: string, length: number): string => join(folder, `snapshot-${length}.lists`)
const PATH = 'snapshot.json'

async function put(path: string, bytes: Buffer): Promise<void> {
  const file = await open(`${path}.part`, 'w', 0o600)
  try {
    await file.writeFile(bytes)
    await file.datasync()
  } finally {
    await file.close()
  }
  await rename(`${path}.part`, path)
}

/** Writes a snapshot aside and moves it into place; the one before is good until then. */
export async function writeSnapshot<State>(folder: string, snapshot: Snapshot<State>): Promise<void> {
  const { length, state, lists } = snapshot
  const bytes = lists.map((list) => Buffer.from(list.buffer, list.byteOffset, list.byteLength))
  const about = bytes.map((one, i) => ({ length: lists[i].length, crc: crc32(one) }))
  await put(listsOf(folder, length), Buffer.concat(bytes))
  const kept: Kept<State> = { form: FORM, length, state, lists: about }
  await put(join(folder, PATH), recordOf(kept))
  for (const name of await readdir(folder))
    if (/^snapshot-\d+\.lists$/.test(name) && join(folder, name) !== listsOf(folder, length))
      await rm(join(folder, name), { force: true })
}

/** Takes the snapshot away: what is in the journal does not follow from it any more. */
export const dropSnapshot = (folder: string): Promise<void> => rm(join(folder, PATH), { force: true })

/** The snapshot in a folder; undefined where there is none that is whole and of this form. */
export async function readSnapshot<State>(folder: string): Promise<Snapshot<State> | undefined> {
  try {
    const bytes = await readFile(join(folder, PATH))
    const json = bytes.subarray(HEAD, -1)
    if (bytes.toString('latin1', 9, 17) !== crc32(json).toString(16).padStart(8, '0')) return undefined
    const kept = JSON.parse(json.toString()) as Kept<State>
    if (kept.form !== FORM) return undefined
    const all = await readFile(listsOf(folder, kept.length))
    let at = 0
    const lists = kept.lists.map(({ length, crc }) => {
      const part = all.subarray(at, (at += length * 8))
      if (part.length !== length * 8 || crc32(part) !== crc) throw new Error('damaged')
      // Copied, since what was read need not lie where numbers may.
      return new Float64Array(new Uint8Array(part).buffer)
    })
    return { length: kept.length, state: kept.state, lists }
  } catch {
    return undefined
  }
}
