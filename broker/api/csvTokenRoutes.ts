import { createRoute, type OpenAPIHono } from '@hono/zod-openapi'
import { CsvToken, NewCsvToken } from '@/core/orders/access'
import { type Env } from './access'
import { mayHandOn, mustExist, viewKey } from './keyRoutes'
import { needs } from './routeTable'
import { body, json, problems } from './shapes'

const make = createRoute({
  method: 'post',
  path: '/csv-tokens',
  ...needs('manage-keys', 'keys'),
  tags: ['access'],
  summary:
    'A token that may stand in a URL, for spreadsheets: it reads CSV and can never trade; told this once',
  description:
    'GET any list with format=csv&csvToken=…. It is listed among keys, and withdrawn as they are. It is of one environment and its accounts.',
  request: body(NewCsvToken),
  responses: {
    201: json(CsvToken, 'The token'),
    ...problems(400, 401, 403, 409, 413, 415, 503),
  },
})

export function csvTokenRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(make, async (c) => {
    const { world, key: own, bearer } = c.var
    const { label, accounts = own.accounts, scopes } = c.req.valid('json')
    const asked = { scopes, accounts, venues: own.venues }
    mayHandOn(own, bearer.scopes, asked)
    mustExist(world, accounts)
    const { key, token } = await world.keyring.ring.createForUrl({ label, ...asked })
    c.header('Cache-Control', 'no-store')
    return c.json({ ...viewKey(key, world), csvToken: token }, 201)
  })
}
