import { notifications } from '@mantine/notifications'
import { BrokerProblem } from '@/client'

/** Says in passing that something was done. */
export const tell = (message: string): void => void notifications.show({ message, color: 'heron' })

/** Says what went wrong and what to do. */
export function tellProblem(error: unknown): void {
  if (error instanceof BrokerProblem)
    notifications.show({
      title: error.title,
      message: `${error.detail} ${error.mend}`,
      color: 'red',
      autoClose: 12_000,
    })
  else
    notifications.show({
      title: 'That did not work',
      message: error instanceof Error ? error.message : String(error),
      color: 'red',
      autoClose: 12_000,
    })
}
