import { type Entry } from './journal/entries'
import { type Service } from './service'

/** What is needed of a rehearsal to put it back. */
interface PutBack {
  name: string
  service: Service
  /** Moment, epoch milliseconds. */
  at: number
  /** The epoch that ends. */
  epoch: number
  /** Pace of its clock. */
  rate: number
  /** Resolves when entries are on the disk, behind all that was to be written. */
  append(entries: readonly Entry[]): Promise<unknown>
  /** Reads the world again from the disk as it stands: what could not be written did not happen. */
  reread(): Promise<void>
  /** Reads the world again from the disk, with its clock. */
  rebuild(): Promise<void>
}

/**
 * Puts a rehearsal back to a moment. It is out of service meanwhile: requests under way finish first, so that no report of the
 * old epoch is written into the new one. If the disk refuses, the rehearsal goes on as it was. If it cannot be read again,
 * it stays out of service and says what to do.
 */
export async function putBack(of: PutBack): Promise<void> {
  const { name, service, at, epoch, rate, append, reread, rebuild } = of
  await service.stop({
    why: `The rehearsal ${name} is being put back.`,
    mend: 'Ask again in a second, and look at your orders before you send more.',
    retryAfter: 1,
  })
  try {
    await append([
      { is: 'epoch', epoch: epoch + 1, at },
      { is: 'clock', clock: { at, rate, running: false } },
    ])
  } catch (error) {
    await reread()
    service.resume()
    throw error
  }
  try {
    await rebuild()
  } catch (error) {
    await service.stop({
      why: `The rehearsal ${name} could not be read after it was put back: ${(error as Error).message}`,
      mend: 'Restart the broker, or delete the rehearsal.',
    })
    throw error
  }
  service.resume()
}
