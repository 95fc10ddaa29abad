import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { SCOPES, type Scope, secretFits } from '../keys'
import { type Env, needsScope, type Parts } from './access'
import { Problem, type ProblemKind } from './problems'
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
  tags: ['access'],
  summary: 'Exchange key and secret for a short-lived token (OAuth 2.0 client credentials, RFC 6749)',
  request: { body: { content: { 'application/x-www-form-urlencoded': { schema: Form } } } },
  responses: { 200: json(Token, 'A token'), ...problems(400, 401, 403) },
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
  tags: ['access'],
  summary: 'Create another key; its secret is told this once',
  request: body(NewKey),
  responses: {
    201: json(
      z.object({ keyId: z.string(), secret: z.string(), scopes: z.array(z.enum(SCOPES)) }),
      'The key',
    ),
    ...problems(400, 401, 403),
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
    return { id: decodeURIComponent(id), secret: decodeURIComponent(rest.join(':')) }
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
        `The grant type "${form.grant_type}" is not offered.`,
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
        `The key ${found.keyId} has no scope ${missing}; it has ${found.scopes.join(', ')}.`,
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

  app.use('/paper/keys', needsScope(parts, 'send-orders', 'paper'))
  app.openapi(key, async (c) => {
    const made = await world.createKey(c.req.valid('json'))
    return c.json({ keyId: made.key.keyId, secret: made.secret, scopes: made.key.scopes }, 201)
  })
}
