import { notifications } from '@mantine/notifications'
import { InlineAction } from '../ticket/Inline'
import { tell, tellProblem } from './tell'

/** How long what was thrown away can be taken back, milliseconds. */
const OFFERED = 15_000

/** Says in passing that something is gone, and offers to bring it back. */
export function tellUndo(message: string, undo: () => Promise<unknown>): void {
  const id = `undo ${crypto.randomUUID()}`
  const bringBack = () => {
    notifications.hide(id)
    undo().then(() => tell('It is back.'), tellProblem)
  }
  notifications.show({
    id,
    color: 'heron',
    autoClose: OFFERED,
    message: (
      <>
        {message}{' '}
        <InlineAction label="Undo" onAct={bringBack}>
          undo
        </InlineAction>
      </>
    ),
  })
}
