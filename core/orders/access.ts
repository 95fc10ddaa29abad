import * as z from 'zod'
import { AccountName } from './model'

/** What keys are and may do, as both sides of the wire say it. */

export const SCOPES = ['see-market', 'see-account', 'send-orders', 'manage-keys'] as const
export type Scope = (typeof SCOPES)[number]

/** Every scope, and what it lets a token do. */
export const SCOPE_FOR: Record<Scope, string> = {
  'see-market': 'see market data',
  'see-account': 'see the account',
  'send-orders': 'send orders',
  'manage-keys': 'make keys',
}

/** Version of the API: a client of another says so in words instead of failing somewhere. */
export const API_VERSION = '1'

export const Environment = z.enum(['paper', 'live'])
export type Environment = z.infer<typeof Environment>

const scopes = z.array(z.enum(SCOPES))
const accounts = z.union([z.literal('all'), z.array(AccountName).min(1)])
const venues = z.union([z.literal('all'), z.array(z.string().max(4))])
const wallTime = z.string().meta({ format: 'date-time', description: 'Wall time' })

export const KeyView = z
  .object({
    keyId: z.string(),
    label: z.string(),
    environment: Environment,
    scopes,
    accounts,
    venues: venues.meta({ description: 'Venues whose prices it may see' }),
    made: z.string(),
    renewed: wallTime.optional(),
    expires: wallTime.optional(),
    addresses: z.array(z.string()).optional(),
    forUrl: z.literal(true).optional().meta({ description: 'It may stand in a URL, and reads CSV alone' }),
    lastUse: wallTime.optional().meta({ description: 'To the minute' }),
  })
  .meta({ id: 'Key' })
export type KeyView = z.infer<typeof KeyView>

export const KeyWithSecret = z
  .object({ ...KeyView.shape, secret: z.string().meta({ description: 'Told this once' }) })
  .meta({ id: 'KeyWithSecret' })
export type KeyWithSecret = z.infer<typeof KeyWithSecret>

export const NewKey = z
  .strictObject({
    label: z.string().min(1).max(60),
    scopes: scopes.min(1),
    accounts: accounts.optional().meta({ description: 'Those of the key that asks where left out' }),
    venues: venues.optional(),
    expires: z.iso.datetime({ offset: true }).optional(),
    addresses: z.array(z.string().max(60)).min(1).max(20).optional().meta({
      description: 'Addresses, or networks such as 10.0.0.0/8, from which alone it is taken',
    }),
  })
  .meta({ id: 'NewKey' })
export type NewKey = z.infer<typeof NewKey>

export const NewCsvToken = z
  .strictObject({
    label: z.string().min(1).max(60),
    scopes: z
      .array(z.enum(['see-market', 'see-account']))
      .min(1)
      .default(['see-market', 'see-account']),
    accounts: accounts.optional(),
  })
  .meta({ id: 'NewCsvToken' })
export type NewCsvToken = z.input<typeof NewCsvToken>

export const CsvToken = z
  .object({ ...KeyView.shape, csvToken: z.string().meta({ description: 'Told this once' }) })
  .meta({ id: 'CsvToken' })
export type CsvToken = z.infer<typeof CsvToken>

export const WhoAmI = z
  .object({
    key: KeyView,
    world: z.object({ name: z.string(), id: z.string(), epoch: z.int() }),
    environment: Environment,
    standIn: z.literal(true).meta({
      description: 'Everything here is a stand-in: no order reaches a real market',
    }),
    scopes: scopes.meta({ description: 'Of this token; at most those of the key' }),
    account: z.string().optional().meta({ description: 'The one that is meant where none is named' }),
    accounts: z.array(z.string()),
    rights: z.record(z.string(), z.enum(['real-time', 'none'])).meta({ description: 'To prices, by venue' }),
    now: z.string().meta({ description: 'Market time' }),
    api: z.string().meta({ description: 'Version of this API' }),
  })
  .meta({ id: 'WhoAmI' })
export type WhoAmI = z.infer<typeof WhoAmI>

export const NewAccount = z
  .strictObject({
    account: AccountName,
    cash: z.number().min(0).max(1_000_000_000).meta({ description: 'To begin with, in its currency' }),
    currency: z.string().length(3).default('USD'),
    margin: z.boolean().default(true),
    short: z.boolean().optional().meta({ description: 'As margin where left out' }),
    optionLevel: z.int().min(0).max(4).default(2),
  })
  .refine((asked) => asked.margin || asked.short !== true, {
    path: ['short'],
    message: 'a cash account borrows nothing and cannot sell short; leave short out, or set margin',
  })
  .meta({ id: 'NewAccount' })
export type NewAccount = z.input<typeof NewAccount>
