import { type Context } from 'hono'
import { HTTPException } from 'hono/http-exception'
import { type ContentfulStatusCode } from 'hono/utils/http-status'
import { z } from '@hono/zod-openapi'
import { Order } from '@/core/orders/model'
import { Check } from '@/core/orders/checks'
import { JournalError } from '../journal/problem'
import { NotServed, type OutOfService } from '../service'

/** Error document of RFC 9457: what is wrong (`detail`) and what mends it (`mend`). */
export const ProblemDocument = z
  .object({
    type: z.string().meta({ example: '/problems/price-off-tick' }),
    title: z.string(),
    status: z.int(),
    detail: z.string(),
    mend: z.string(),
    errors: z
      .array(z.object({ field: z.string(), detail: z.string() }))
      .optional()
      .meta({ description: 'One for each field that is wrong' }),
    checks: z.array(Check).optional(),
    order: Order.optional().meta({
      description: 'The refused order, or the one that a client order id stands for',
    }),
    error: z.string().optional().meta({ description: 'Of the token endpoint: error code of RFC 6749' }),
    error_description: z.string().optional(),
  })
  .meta({ id: 'Problem' })
export type ProblemDocument = z.infer<typeof ProblemDocument>

/** Every kind of problem, with its status and title. The last part of `type` is the key. */
export const PROBLEMS = {
  'foreign-event': [400, 'Event id of elsewhere'],
  'malformed-request': [400, 'The request cannot be read'],
  'unsupported-grant': [400, 'Unsupported grant type'],
  'answer-too-long': [400, 'Too much for one answer'],
  'method-not-allowed': [405, 'Method not offered here'],
  'request-timeout': [408, 'The request did not end'],
  'body-too-large': [413, 'Body too large'],
  'unsupported-media-type': [415, 'Body of another kind'],
  'headers-too-large': [431, 'Headers too large'],
  'unknown-key': [401, 'Unknown key'],
  'wrong-secret': [401, 'Wrong secret'],
  'expired-key': [401, 'Key run out'],
  'too-many-wrong-secrets': [429, 'Too many wrong secrets'],
  'too-many-requests': [429, 'Asked too fast'],
  'too-many-streams': [429, 'Too many streams'],
  'token-missing': [401, 'No access token'],
  'unknown-token': [401, 'Unknown access token'],
  'expired-token': [401, 'Access token expired'],
  'other-environment': [403, 'Key of the other environment'],
  'missing-scope': [403, 'Scope missing'],
  'blocked-address': [403, 'Key not taken from this address'],
  'no-market-data-right': [403, 'No right to these prices'],
  'beyond-own-rights': [403, 'More than the key itself may do'],
  'not-your-rehearsal': [403, 'Rehearsal of another key'],
  'live-at-stake': [403, 'The live account is at stake'],
  'not-found': [404, 'Not found'],
  'unknown-account': [404, 'Unknown account'],
  'unknown-order': [404, 'Unknown order'],
  'unknown-security': [422, 'Unknown security'],
  'not-listed-then': [422, 'Not listed at that moment'],
  'not-orderable': [422, 'Cannot be ordered here'],
  'duplicate-client-order-id': [409, 'Duplicate client order id'],
  'order-not-working': [409, 'The order is not working any more'],
  'order-not-replaceable': [409, 'The order cannot be changed so'],
  'quantity-not-whole': [422, 'Quantity not whole'],
  'price-off-tick': [422, 'Price off the tick'],
  'market-closed': [422, 'Market closed'],
  'stood-down': [422, 'The account stands down'],
  'expiry-past': [422, 'Good until a day that has passed'],
  'exit-on-wrong-side': [422, 'Exit on the wrong side'],
  'stopped-by-gate': [422, 'Stopped by a gate of the account'],
  'own-order': [403, 'An order of its own'],
  'trigger-not-working': [422, 'Nothing that could set it off'],
  'shares-not-to-be-borrowed': [422, 'Shares not to be borrowed'],
  'legs-not-one': [422, 'Legs that are no one order'],
  'option-level-too-low': [422, 'Option level too low'],
  'part-of-whole': [409, 'A leg alone'],
  'shares-not-held': [422, 'Shares not held'],
  'not-enough-buying-power': [422, 'Not enough buying power'],
  'not-possible': [409, 'Not possible as things stand'],
  'journal-unwritable': [503, 'The journal cannot be written'],
  'out-of-service': [503, 'Out of service'],
  'internal-error': [500, 'Something went wrong in the broker'],
} as const satisfies Record<string, readonly [ContentfulStatusCode, string]>

export type ProblemKind = keyof typeof PROBLEMS

/** Thrown by handlers; becomes an RFC 9457 answer in one place. */
export class Problem extends Error {
  constructor(
    readonly kind: ProblemKind,
    readonly detail: string,
    readonly mend: string,
    readonly more: Partial<ProblemDocument> = {},
    /** Seconds after which it is worth asking again. */
    readonly retryAfter?: number,
  ) {
    super(detail)
    this.name = 'Problem'
  }

  document(): ProblemDocument {
    const [status, title] = PROBLEMS[this.kind]
    return {
      type: `/problems/${this.kind}`,
      title,
      status,
      detail: this.detail,
      mend: this.mend,
      ...this.more,
    }
  }
}

/** What cannot be done as things stand, from the RangeError that says so. */
export const notPossible =
  (mend: string) =>
  (error: unknown): never => {
    if (!(error instanceof RangeError)) throw error
    throw new Problem('not-possible', `${error.message}.`, mend)
  }

/** What is said of a world that is out of service. */
export const notServed = ({ why, mend, retryAfter }: OutOfService): Problem =>
  new Problem('out-of-service', why, mend, {}, retryAfter)

/** The answer that a problem becomes. */
export function answerProblem(c: Context, problem: Problem): Response {
  const [status] = PROBLEMS[problem.kind]
  if (problem.retryAfter !== undefined) c.header('Retry-After', String(problem.retryAfter))
  if (status === 401)
    c.header(
      'WWW-Authenticate',
      // A header holds printable ASCII only, whatever the request held.
      `Bearer error="invalid_token", error_description="${problem.detail.replace(/["\\]/g, '').replace(/[^ -~]/g, '?')}"`,
    )
  return c.body(JSON.stringify(problem.document()), status, { 'Content-Type': 'application/problem+json' })
}

/** Any error as a problem that can be answered; an error of the broker itself is also written to its log. */
export function asProblem(error: Error): Problem {
  if (error instanceof Problem) return error
  if (error instanceof NotServed) return notServed(error.out)
  if (error instanceof JournalError) return new Problem('journal-unwritable', error.message, error.mend)
  if (error instanceof RangeError)
    return new Problem('malformed-request', error.message, 'Change what was asked for.')
  if (error instanceof HTTPException && error.status < 500) {
    return new Problem(
      'malformed-request',
      'The body is not valid JSON.',
      'Send a JSON object with Content-Type application/json.',
    )
  }
  process.stderr.write(`broker: ${error.stack ?? error.message}\n`)
  return new Problem(
    'internal-error',
    'The broker met an error of its own; nothing more is known.',
    'See its log. Ask for the order by its client order id before you send it again.',
  )
}
