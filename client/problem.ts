import { type Order } from '@/core/orders/model'
import { type Check } from '@/core/orders/checks'

/** A refusal of the broker (RFC 9457), or that it could not be reached. */
export class BrokerProblem extends Error {
  constructor(
    readonly kind: string,
    readonly title: string,
    readonly detail: string,
    readonly mend: string,
    readonly status: number,
    readonly checks: Check[] = [],
    readonly order?: Order,
  ) {
    super(detail)
    this.name = 'BrokerProblem'
  }
}

export const unreachable = () =>
  new BrokerProblem(
    'unreachable',
    'Broker not there',
    'The broker does not answer.',
    'Nothing was sent that it did not acknowledge. It is asked again by itself.',
    0,
  )

/** Reads the problem document of an answer; an answer that has none becomes one. */
export const problemOf = async (answer: Response): Promise<BrokerProblem> =>
  problemIn((await answer.json().catch(() => ({}))) as Record<string, unknown>, answer.status)

/** A problem document as a BrokerProblem; what it lacks is filled in. */
export function problemIn(body: Partial<Record<string, unknown>>, status: number): BrokerProblem {
  const text = (name: string, otherwise: string) =>
    typeof body[name] === 'string' ? (body[name] as string) : otherwise
  return new BrokerProblem(
    text('type', '').replace('/problems/', '') || 'unknown',
    text('title', `Answer ${status}`),
    text('detail', 'The broker gave no reason.'),
    text('mend', 'Try again.'),
    status,
    Array.isArray(body.checks) ? (body.checks as Check[]) : [],
    body.order as Order | undefined,
  )
}
