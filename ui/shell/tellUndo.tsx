import { notifications } from '@mantine/notifications'
import { InlineAction } from '../ticket/Inline'
import { tell, tellProblem } from './tell'

/** How long what is offered stands there, milliseconds. */
const OFFERED = 15_000

/** Says something in passing, and offers what may be done about it; `offer` is the label, which is read in lower case. */
export function tellOffer(message: string, offer: string, act: () => Promise<unknown>): void {
  const id = `offer ${crypto.randomUUID()}`
  const take = () => {
    notifications.hide(id)
    act().catch(tellProblem)
  }
  notifications.show({
    id,
    color: 'heron',
    autoClose: OFFERED,
    message: (
      <>
        {message}{' '}
        <InlineAction label={offer} onAct={take}>
          {offer.toLowerCase()}
        </InlineAction>
      </>
    ),
  })
}

/** Says in passing that something is gone, and offers to bring it back. */
export const tellUndo = (message: string, undo: () => Promise<unknown>): void =>
  tellOffer(message, 'Undo', () => undo().then(() => tell('It is back.')))
