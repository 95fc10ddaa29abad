import { BrokerProblem } from '@/client'
import { RecordsDiffer } from '@/runner/connect'
import { Unavailable } from '@/runner/unavailable'
import { EXIT, Failure } from './fail'

/** Any error as one that is told in words, with the code that the command ends with; never a stack trace. `broker`: where it is. */
export function failureOf(error: unknown, broker = 'the address given'): Failure {
  if (error instanceof Failure) return error
  if (error instanceof RecordsDiffer) return new Failure(error.message, EXIT.refused)
  if (error instanceof Unavailable) return new Failure(error.message)
  if (!(error instanceof BrokerProblem))
    return new Failure(`It ended on something that it did not expect: ${(error as Error).message ?? error}`)
  if (error.kind === 'unreachable')
    return new Failure(`The broker does not answer at ${broker}. Is the demo running?`)
  return new Failure(`Refused. ${error.title}: ${error.detail} ${error.mend}`)
}
