import { BrokerProblem } from '@/client'
import { useLink } from '../link/useLink'

/** What the page knows of the broker's being there, told by whatever listens to it. */
export const brokerThere = (): void => useLink.setState({ there: 'yes', why: '' })

export function brokerAway(error: unknown): void {
  if (error instanceof BrokerProblem && error.kind !== 'unreachable')
    useLink.setState({ there: 'refused', why: `${error.detail} ${error.mend}` })
  else useLink.setState({ there: 'no', why: 'The broker does not answer. It is asked again by itself.' })
}
