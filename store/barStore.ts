import { type BarChunk, db } from './db'

export const chunksOf = (frame: string): Promise<BarChunk[]> =>
  db.barChunks.where('frame').equals(frame).toArray()

/** Chunks that are read before they are asked for, each to be taken once. */
const ahead = new Map<string, Promise<BarChunk | undefined>>()

/** Begins to read the first chunks of a frame, which will be asked for soon. */
export function readAhead(frame: string): void {
  for (const id of [`${frame} #0`, `${frame} #1`]) {
    const read = db.barChunks.get(id)
    read.catch(() => ahead.delete(id))
    ahead.set(id, read)
  }
}

export function chunkAt(id: string): Promise<BarChunk | undefined> {
  const read = ahead.get(id)
  ahead.delete(id)
  return read ?? db.barChunks.get(id)
}

export function keepChunk(chunk: BarChunk): Promise<unknown> {
  ahead.delete(chunk.id)
  return db.barChunks.put(chunk)
}

/** Takes everything of a frame away; it is fetched anew when it is next asked for. */
export function forgetFrame(frame: string): Promise<number> {
  ahead.clear()
  return db.barChunks.where('frame').equals(frame).delete()
}

/** What is kept of one frame: of which securities, with the end of the last bar of each. */
export interface KeptFrame {
  frame: string
  bytes: number
  last: { symbol: string; end: number }[]
  keptAt: number
}

export async function keptFrames(): Promise<KeptFrame[]> {
  const found = new Map<string, KeptFrame>()
  await db.barChunks.each((chunk) => {
    const frame = found.get(chunk.frame) ?? { frame: chunk.frame, bytes: 0, last: [], keptAt: 0 }
    frame.bytes += chunk.buffer.byteLength
    chunk.symbols.forEach((symbol, i) => frame.last.push({ symbol, end: chunk.ends[i] }))
    frame.keptAt = Math.max(frame.keptAt, chunk.keptAt)
    found.set(chunk.frame, frame)
  })
  return [...found.values()]
}
