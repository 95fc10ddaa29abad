import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { cookies } from 'next/headers'
import * as z from 'zod'
import { BROKER_COOKIE } from './brokerCookie'

/** A broker that this application may talk to, and where its paper key lies. */
const broker = z.strictObject({ url: z.url(), keyFile: z.string() })
export type PageBroker = z.infer<typeof broker>

/**
 * The broker of the page that asks: the one that `HERON_BROKER_URL` names, unless the file that `HERON_BROKERS` names lists
 * others by name and the page's cookie chooses one of them. Only what stands in that file can be chosen.
 */
export async function pageBroker(): Promise<PageBroker> {
  const chosen = (await cookies()).get(BROKER_COOKIE)?.value
  const path = process.env.HERON_BROKERS
  if (chosen && path) {
    const listed = z.record(z.string(), broker).parse(JSON.parse(await readFile(path, 'utf8')))
    if (Object.hasOwn(listed, chosen)) return listed[chosen]
  }
  return {
    url: process.env.HERON_BROKER_URL ?? 'http://127.0.0.1:4312',
    keyFile: join(process.env.HERON_DATA ?? '.heron', 'broker', 'paper-key.json'),
  }
}
