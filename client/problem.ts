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

/** Reads a problem document; an answer that is none becomes one. */
export async function problemOf(answer: Response): Promise<BrokerProblem> {
  const body = (await answer.json().catch(() => ({}))) as Partial<Record<string, unknown>>
  const text = (name: string, otherwise: string) =>
    typeof body[name] === 'string' ? (body[name] as string) : otherwise
  return new BrokerProblem(
    text('type', '').replace('/problems/', '') || 'unknown',
    text('title', `Answer ${answer.status}`),
    text('detail', 'The broker gave no reason.'),
    text('mend', 'Try again.'),
    answer.status,
    Array.isArray(body.checks) ? (body.checks as Check[]) : [],
    body.order as Order | undefined,
  )
}
