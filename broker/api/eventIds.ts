import { type Account } from '../account/account'
import { type World } from '../world'
import { Problem } from './problems'

/** The id of a report in a stream: world, epoch, account and its number there. */
export const eventId = ({ id, epoch }: World, { name }: Account, seq: number): string =>
  `${id}.${epoch}.${name}.${seq}`

const MEND =
  'Send the id of the last event that came from this stream, or none and ask executions for what was missed.'

/**
 * The number of the report after which a stream goes on; undefined where no id was sent. Throws Problem for an id of
 * elsewhere and for what was never sent: to begin at now would lose some.
 */
export function seqAfter(world: World, account: Account, text: string | undefined): number | undefined {
  if (text === undefined) return undefined
  const refuse = (what: string): never => {
    throw new Problem('foreign-event', `Last-Event-ID "${text.slice(0, 80)}" ${what}.`, MEND)
  }
  const parts = /^([0-9a-f-]{36})\.(\d{1,9})\.([A-Z0-9-]{1,20})\.(\d{1,15})$/.exec(text)
  if (!parts) return refuse('is not the id of an event')
  const [, id, epoch, name, number] = parts
  if (id !== world.id) return refuse(`is of another world than this ${world.name}`)
  if (Number(epoch) !== world.epoch)
    return refuse(`is of epoch ${epoch}; this rehearsal was put back, and epoch ${world.epoch} runs`)
  if (name !== account.name) return refuse(`is of the account ${name}; this stream is of ${account.name}`)
  const seq = Number(number)
  const last = account.reports.length
  return seq <= last ? seq : refuse(`lies ahead: the last event so far is ${last}`)
}
