import { createRoute, type OpenAPIHono, z } from '@hono/zod-openapi'
import { Security } from '@/core/market/security'
import { type Listed } from '../market/listing'
import { type Env } from './access'
import { gently } from '../gently'
import { each, jsonList } from './lists'
import { findListed, outsideContract } from './marketViews'
import { Problem } from './problems'
import { needs } from './routeTable'
import { json, problems } from './shapes'

const date = z.iso.date().optional()
const strike = z.coerce.number().positive().optional()

const options = createRoute({
  method: 'get',
  path: '/options',
  ...needs('see-market', 'market'),
  tags: ['market'],
  summary: 'Option contracts of an underlying, by expiry, strike and type',
  description: 'Contracts that have ended can be asked for by their dates; ask /quotes for prices.',
  request: {
    query: z.object({
      underlyingSymbol: z.string().max(32).meta({ example: 'OSPRY' }),
      putOrCall: z.enum(['Put', 'Call']).optional(),
      strikeFrom: strike.meta({ description: 'This strike or higher' }),
      strikeTo: strike.meta({ description: 'This strike or lower' }),
      maturityFrom: date.meta({ description: 'Ending on this date or later' }),
      maturityTo: date.meta({ description: 'Ending on this date or before' }),
      exerciseStyle: z.enum(['American', 'European']).optional(),
      securityStatus: z.enum(['Active', 'Expired']).default('Active'),
    }),
  },
  responses: {
    200: json(z.array(Security), 'Contracts, the call before the put'),
    ...problems(400, 401, 403, 422),
  },
})

export function optionRoutes(app: OpenAPIHono<Env>): void {
  app.openapi(options, async (c) => {
    const { world } = c.var
    const { underlyingSymbol, securityStatus, maturityFrom, maturityTo, ...asked } = c.req.valid('query')
    const underlying = findListed(c.var, underlyingSymbol)
    const { chains } = world.markets.of(underlying)
    const now = world.clock.now()
    if (securityStatus === 'Expired' && maturityFrom === undefined)
      throw new Problem(
        'malformed-request',
        'maturityFrom: contracts that have ended go back for years.',
        'Say from which date on they ended, with maturityFrom=2026-02-01.',
      )
    const all =
      securityStatus === 'Active'
        ? chains.chainOf(underlying, now)
        : await gently(chains.endedOf(underlying, now, maturityFrom!))
    const meets = ({ option }: Listed) =>
      option !== undefined &&
      (asked.putOrCall ?? option.putOrCall) === option.putOrCall &&
      (asked.exerciseStyle ?? option.exerciseStyle) === option.exerciseStyle &&
      option.strikePrice >= (asked.strikeFrom ?? 0) &&
      option.strikePrice <= (asked.strikeTo ?? Infinity) &&
      option.maturityDate >= (maturityFrom ?? '') &&
      option.maturityDate <= (maturityTo ?? '9999')
    return jsonList(
      c,
      each(all.filter(meets), (listed) => outsideContract(world, listed)),
    ) as never
  })
}
