import { db } from './db'

/** Bars of some securities of the market, as they came (form FHB1), kept between visits. */
export interface BarChunk {
  /** Frame and number of the chunk. */
  id: string
  frame: string
  symbols: string[]
  /** End of the last complete bar of each; NaN where there is none. */
  ends: number[]
  buffer: ArrayBuffer
  keptAt: number
}

export const chunksOf = (frame: string): Promise<BarChunk[]> =>
  db.barChunks.where('frame').equals(frame).toArray()

export const keepChunk = (chunk: BarChunk): Promise<unknown> => db.barChunks.put(chunk)

/** Takes everything of a frame away; it is fetched anew when it is next asked for. */
export const forgetFrame = (frame: string): Promise<number> =>
  db.barChunks.where('frame').equals(frame).delete()

/** What is kept: for each frame how many securities, how many bytes, and the ends of their last bars. */
export async function keptFrames(): Promise<
  { frame: string; securities: number; bytes: number; ends: number[]; keptAt: number }[]
> {
  const found = new Map<
    string,
    { frame: string; securities: number; bytes: number; ends: number[]; keptAt: number }
  >()
  await db.barChunks.each((chunk) => {
    const told = found.get(chunk.frame) ?? {
      frame: chunk.frame,
      securities: 0,
      bytes: 0,
      ends: [],
      keptAt: 0,
    }
    told.securities += chunk.symbols.length
    told.bytes += chunk.buffer.byteLength
    told.ends.push(...chunk.ends)
    told.keptAt = Math.max(told.keptAt, chunk.keptAt)
    found.set(chunk.frame, told)
  })
  return [...found.values()]
}
