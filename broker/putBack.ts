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
  /** Builds it anew from what is on the disk, its clock too. */
  rebuild(): Promise<void>
}

/**
 * Puts a rehearsal back to a moment. It is out of service until that is done: what was begun ends first, so that nothing of the
 * old epoch is written into the new one. Where the disk refuses it goes on as it was; where it cannot be read again it stays out of
 * service, with what to do.
 */
export async function putBack({ name, service, at, epoch, rate, append, rebuild }: PutBack): Promise<void> {
  await service.stop({
    why: `The rehearsal ${name} is being put back.`,
    mend: 'Ask again in a second; see then what stands before you send anything.',
    retryAfter: 1,
  })
  try {
    await append([
      { is: 'epoch', epoch: epoch + 1, at },
      { is: 'clock', clock: { at, rate, running: false } },
    ])
  } catch (error) {
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
