import { type BarChunk, db } from './db'

export const chunksOf = (frame: string): Promise<BarChunk[]> =>
  db.barChunks.where('frame').equals(frame).toArray()

export const chunkAt = (id: string): Promise<BarChunk | undefined> => db.barChunks.get(id)

export const keepChunk = (chunk: BarChunk): Promise<unknown> => db.barChunks.put(chunk)

/** Takes everything of a frame away; it is fetched anew when it is next asked for. */
export const forgetFrame = (frame: string): Promise<number> =>
  db.barChunks.where('frame').equals(frame).delete()

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
