import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { type Scope } from '@/core/orders/access'
import { secretFits } from '../keys/keys'
import { WrongSecrets } from '../keys/wrongSecrets'
import { type Env, mayUse, type Parts, remoteOf } from './access'
import { Problem, type ProblemKind } from './problems'
import { PUBLIC } from './routeTable'
import { json, problems } from './shapes'

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
  path: '/token',
  ...PUBLIC,
  tags: ['access'],
  summary: 'Exchange key and secret for a short-lived token (OAuth 2.0 client credentials, RFC 6749)',
  request: { body: { content: { 'application/x-www-form-urlencoded': { schema: Form } } } },
  responses: { 200: json(Token, 'A token'), ...problems(400, 401, 403, 413, 415, 429) },
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
  const { worlds, tokens } = parts
  const wrong = new WrongSecrets(worlds.paper.wallNow)
  app.openapi(token, async (c) => {
    const { world } = c.var
    const { environment, keyring } = world
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
    const found = keyring.keys.get(given.id)
    if (!found && worlds.all.some(({ keys }) => keys.has(given.id)))
      throw refuse(
        'other-environment',
        'unauthorized_client',
        `The key ${given.id} is not of the ${environment} environment.`,
        `Use a ${environment} key here.`,
      )
    if (!found)
      throw refuse(
        'unknown-key',
        'invalid_client',
        `The key "${given.id.slice(0, 40)}" is not known here.`,
        'Check it for a missing letter, and that it belongs to this broker and was not withdrawn.',
      )
    const remote = remoteOf(c)
    const seconds = wrong.waitFor(found.keyId, remote)
    if (seconds > 0) {
      c.header('Retry-After', String(seconds))
      throw refuse(
        'too-many-wrong-secrets',
        'invalid_client',
        `Too many wrong secrets came for the key ${found.keyId} from this address; none is looked at for ${seconds} seconds.`,
        `Wait ${seconds} seconds, then send the right one.`,
      )
    }
    if (!(await secretFits(found, given.secret))) {
      wrong.failed(found.keyId, remote)
      throw refuse(
        'wrong-secret',
        'invalid_client',
        `The key ${found.keyId} is known, but the secret is not its secret.`,
        'Paste the secret again, whole; if it is lost, renew it or create a new key.',
      )
    }
    wrong.fitted(found.keyId, remote)
    mayUse(found, remote, world.wallNow())
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
      environment,
      scopes,
      renewals: found.renewals,
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
}
