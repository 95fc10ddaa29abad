import { z } from '@hono/zod-openapi'
import { AccountName } from '@/core/orders/model'
import { ProblemDocument } from './problems'

/** An answer of JSON with a schema. */
export const json = <T extends z.ZodType>(schema: T, description: string) => ({
  description,
  content: { 'application/json': { schema } },
})

/** A required JSON body with a schema. */
export const body = <T extends z.ZodType>(schema: T) => ({
  body: { required: true, content: { 'application/json': { schema } } },
})

const PROBLEM_ANSWER = {
  description: 'A problem document (RFC 9457) that says what is wrong and what to do',
  content: { 'application/problem+json': { schema: ProblemDocument } },
}

/** Problem answers under these statuses. */
export const problems = <S extends number>(...statuses: S[]) =>
  Object.fromEntries(statuses.map((status) => [status, PROBLEM_ANSWER])) as Record<S, typeof PROBLEM_ANSWER>

/** Which account is asked about. */
export const OfAccount = z.object({
  account: AccountName.optional().meta({ description: 'The key’s first account where left out' }),
})
