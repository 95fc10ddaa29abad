import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { SCOPES, type Scope, secretFits } from '../keys'
import { type Env, type Parts, SCOPE_FOR } from './access'
import { Problem, type ProblemKind } from './problems'
import { needs, PUBLIC } from './routeTable'
import { body, json, problems } from './shapes'

const Token = z
  .object({
    access_token: z.string(),
    token_type: z.literal('Bearer'),
    expires_in: z.int().meta({ description: 'Seconds' }),
    scope: z.string(),
  })
  .meta({ id: 'Token' })

const Form = z.object({
  grant_type: z.string().meta({ example: 'client_credentials' }),
  client_id: z.string().optional(),
  client_secret: z.string().optional(),
  scope: z.string().optional().meta({ description: 'A part of the key’s scopes, separated by spaces' }),
})

const token = createRoute({
  method: 'post',
  path: '/paper/token',
  ...PUBLIC,
  tags: ['access'],
  summary: 'Exchange key and secret for a short-lived token (OAuth 2.0 client credentials, RFC 6749)',
  request: { body: { content: { 'application/x-www-form-urlencoded': { schema: Form } } } },
  responses: { 200: json(Token, 'A token'), ...problems(400, 401, 403, 413, 415) },
})

const NewKey = z
  .strictObject({
    environment: z.enum(['paper', 'live']),
    scopes: z.array(z.enum(SCOPES)).min(1),
    name: z.string().min(1).max(60),
  })
  .meta({ id: 'NewKey' })

const key = createRoute({
  method: 'post',
  path: '/paper/keys',
  ...needs('manage-keys'),
  tags: ['access'],
  summary: 'Create another key; its secret is told this once',
  description: 'A key hands on at most its own scopes, in its own environment.',
  request: body(NewKey),
  responses: {
    201: json(
      z.object({ keyId: z.string(), secret: z.string(), scopes: z.array(z.enum(SCOPES)) }),
      'The key',
    ),
    ...problems(400, 401, 403, 413, 415, 503),
  },
})

/** An RFC 6749 error as an RFC 9457 document: both sets of members in one. */
const refuse = (kind: ProblemKind, error: string, detail: string, mend: string): Problem =>
  new Problem(kind, detail, mend, { error, error_description: `${detail} ${mend}` })

/** Key and secret from HTTP Basic, which the standard prefers, or from the form. */
function credentials(
  header: string | undefined,
  form: z.infer<typeof Form>,
): { id: string; secret: string } | undefined {
  const basic = /^Basic\s+(\S+)$/i.exec(header ?? '')?.[1]
  if (basic) {
    const [id, ...rest] = Buffer.from(basic, 'base64').toString('utf8').split(':')
    try {
      return { id: decodeURIComponent(id), secret: decodeURIComponent(rest.join(':')) }
    } catch {
      throw refuse(
        'malformed-request',
        'invalid_request',
        'Key or secret in the Basic header holds a percent sign that begins no escape.',
        'Encode both as RFC 6749, section 2.3.1 says: a percent sign is written %25.',
      )
    }
  }
  return form.client_id && form.client_secret ? { id: form.client_id, secret: form.client_secret } : undefined
}

export function tokenRoutes(app: OpenAPIHono<Env>, parts: Parts): void {
  const { world, tokens } = parts
  app.openapi(token, async (c) => {
    const form = c.req.valid('form')
    if (form.grant_type !== 'client_credentials') {
      throw refuse(
        'unsupported-grant',
        'unsupported_grant_type',
        `The grant type "${form.grant_type.slice(0, 40)}" is not offered.`,
        'Send grant_type=client_credentials.',
      )
    }
    const given = credentials(c.req.header('Authorization'), form)
    if (!given)
      throw refuse(
        'malformed-request',
        'invalid_request',
        'Key and secret are missing.',
        'Send them as HTTP Basic, or as client_id and client_secret.',
      )
    const found = world.keys.get(given.id)
    if (!found)
      throw refuse(
        'unknown-key',
        'invalid_client',
        `The key "${given.id.slice(0, 40)}" is not known here.`,
        'Check it for a missing letter, and that it belongs to this broker.',
      )
    if (!(await secretFits(found, given.secret))) {
      throw refuse(
        'wrong-secret',
        'invalid_client',
        `The key ${found.keyId} is known, but the secret is not its secret.`,
        'Paste the secret again, whole; if it is lost, create a new key.',
      )
    }
    if (found.environment !== 'paper') {
      throw refuse(
        'other-environment',
        'unauthorized_client',
        `The key ${found.keyId} is for the ${found.environment} environment; this is paper.`,
        'Use a paper key here.',
      )
    }
    const asked = (form.scope ?? '').split(' ').filter(Boolean) as Scope[]
    const missing = asked.find((scope) => !found.scopes.includes(scope))
    if (missing)
      throw refuse(
        'missing-scope',
        'invalid_scope',
        `The key ${found.keyId} has no scope ${missing.slice(0, 40)}; it has ${found.scopes.join(', ')}.`,
        'Ask for fewer scopes, or use another key.',
      )
    const scopes = asked.length > 0 ? asked : found.scopes
    const access_token = await tokens.issue({
      keyId: found.keyId,
      environment: 'paper',
      account: found.account,
      scopes,
    })
    c.header('Cache-Control', 'no-store')
    return c.json(
      {
        access_token,
        token_type: 'Bearer' as const,
        expires_in: tokens.lifetimeSeconds,
        scope: scopes.join(' '),
      },
      200,
    )
  })

  app.openapi(key, async (c) => {
    const asked = c.req.valid('json')
    const own = c.get('bearer')
    const beyond = asked.scopes.find((scope) => !own.scopes.includes(scope))
    if (beyond)
      throw new Problem(
        'beyond-own-rights',
        `The key ${own.keyId} may not ${SCOPE_FOR[beyond]} itself, so it cannot hand that on.`,
        `Ask for at most ${own.scopes.join(', ')}, or use a key that has ${beyond}.`,
      )
    if (asked.environment !== own.environment)
      throw new Problem(
        'beyond-own-rights',
        `The key ${own.keyId} is for ${own.environment}; it cannot make one for ${asked.environment}.`,
        `Ask for environment ${own.environment}, or use a key of ${asked.environment}.`,
      )
    const made = await world.createKey(asked)
    return c.json({ keyId: made.key.keyId, secret: made.secret, scopes: made.key.scopes }, 201)
  })
}
