import { type FileHandle, open, truncate } from 'node:fs/promises'

/** True of an error that says that the disk, or what may be used of it, is full. */
export const isFull = (error: unknown): boolean => {
  const code = (error as NodeJS.ErrnoException).code
  return code === 'ENOSPC' || code === 'EDQUOT'
}

/** What is given back at once, in bytes: a few hundred reports. */
const PIECE = 256 * 1024

/**
 * Room on the disk that is laid by at the start, so that cancels and fills can be written when the disk is full. It is
 * given back in pieces, and laid by again once there is room.
 */
export class Reserve {
  private constructor(
    private readonly path: string,
    private readonly size: number,
    private left: number,
  ) {}

  /** Lays room by; as much of it as there is. */
  static async open(path: string, size: number): Promise<Reserve> {
    const reserve = new Reserve(path, size, 0)
    await reserve.refill()
    return reserve
  }

  /** True once some of it was used: the disk is full, or nearly. */
  get isLow(): boolean {
    return this.left < this.size
  }

  /** Gives room for so many bytes back to the disk. False where there is not so much left. */
  async release(bytes: number): Promise<boolean> {
    const piece = Math.max(PIECE, Math.ceil(bytes / 4096) * 4096)
    if (this.left < piece) return false
    this.left -= piece
    await truncate(this.path, this.left)
    return true
  }

  /** Lays by again what was used, if the disk has room. */
  async refill(): Promise<void> {
    let file: FileHandle | undefined
    try {
      file = await open(this.path, 'a', 0o600)
      const { size } = await file.stat()
      this.left = Math.min(size, this.size)
      // Zeros that are written take room; a length that is only set does not.
      if (size < this.size) await file.appendFile(Buffer.alloc(this.size - size))
      await file.datasync()
      this.left = this.size
    } catch (error) {
      if (!isFull(error)) throw error
      this.left = (await file?.stat())?.size ?? 0
    } finally {
      await file?.close()
    }
  }
}
