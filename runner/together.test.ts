import { expect, it } from '@jest/globals'
import { Access, baseOf, Broker, type BrokerProblem, follow, keyTokens } from '@/client'
import { clientOf, processFor } from '@/tests/broker'
import { type BrokerProcess } from '@/tests/process'

let broker: BrokerProcess
processFor((started) => (broker = started))

/** A client whose streams come over one connection, as in a browser. */
const client = (): Broker => clientOf(broker).streamTogether()
const until = async (is: () => boolean) => {
  while (!is()) await new Promise((resolve) => setTimeout(resolve, 10))
}

it('many streams over one connection say what each would say alone; one ends without the others', async () => {
  const together = client()
  const heard: Record<string, string[]> = {}
  const gone: string[] = []
  const stops = Object.fromEntries(
    [
      '/quotes/stream?symbols=OSPRY',
      '/quotes/stream?symbols=GANET',
      '/executions/stream?after=0',
      '/bars/stream?symbols=OSPRY&every=1%20min',
    ].map((path) => [
      path,
      follow(together, path, {
        event: ({ event, data, id }) => (heard[path] ??= []).push(`${event} ${data} ${id ?? ''}`),
        there: () => undefined,
        away: () => gone.push(path),
      }),
    ]),
  )
  const [ospry, ganet, executions, bars] = Object.keys(stops)
  await until(() => Boolean(heard[ospry]?.some((one) => one.startsWith('quotes')) && heard[ganet]))
  await broker.ask('POST', '/orders', {
    ...{ clOrdId: 't-1', symbol: 'OSPRY', side: 'Buy', ordType: 'Market', orderQty: 10 },
  })
  await until(() => Boolean(heard[executions]?.some((one) => one.includes('"t-1"'))))
  await broker.ask('POST', '/market-time', { step: 60 })
  await until(() => Boolean(heard[bars]))
  expect(JSON.parse(/\{.*\}/.exec(heard[bars][0])![0])).toMatchObject({ symbol: 'OSPRY' })
  // The same reports, whole and in order, as a connection of its own tells.
  const alone = await broker.ask<unknown[]>('GET', '/executions?after=0')
  await until(() => heard[executions].length >= alone.length)
  expect(heard[executions].slice(0, alone.length).map((one) => JSON.parse(/\{.*\}/.exec(one)![0]))).toEqual(
    alone,
  )
  stops[ganet]()
  const [before, of] = [heard[ospry].length, heard[ganet].length]
  await broker.ask('POST', '/market-time', { step: 30 })
  await until(() => heard[ospry].length > before)
  expect([heard[ganet].length, gone]).toEqual([of, []])
  for (const stop of Object.values(stops)) stop()
})

it('a stream asks for its own right, whoever opened the connection; no other key puts one on it', async () => {
  const keyOf = async (scopes: string[]) => {
    const { keyId, secret } = await broker.ask<{ keyId: string; secret: string }>('POST', '/keys', {
      ...{ label: 'one right', scopes },
    })
    return new Broker(new Access(broker.url, keyTokens(baseOf(broker.url), keyId, secret)))
  }
  const account = (await keyOf(['see-account'])).streamTogether()
  const { signal } = new AbortController()
  const refused = (asked: Promise<unknown>) =>
    asked.then(
      () => 'open',
      (error: BrokerProblem) => error.kind,
    )
  expect(await refused(account.stream('/executions/stream', { signal }))).toBe('open')
  expect(await refused(account.stream('/quotes/stream?symbols=OSPRY', { signal }))).toBe('missing-scope')
  const other = await keyOf(['see-market'])
  const carrier = await other.stream('/streams', { signal })
  const { value } = await carrier.getReader().read()
  const { id } = JSON.parse(/\{.*\}/.exec(new TextDecoder().decode(value))![0]) as { id: string }
  const body = JSON.stringify({ of: 'x', path: '/executions/stream' })
  expect(await refused(account.fetch(`/streams/${id}`, { method: 'POST', body }))).toBe('not-found')
})

it('what a stream is refused for is told as it would be alone; no other path is carried', async () => {
  const { signal } = new AbortController()
  const refused = (path: string) =>
    client()
      .stream(path, { signal })
      .then(
        () => 'open',
        (error: BrokerProblem) => error.kind,
      )
  expect(await refused('/quotes/stream?symbols=NOWHERE')).toBe('unknown-security')
  expect(await refused('/orders')).toBe('malformed-request')
})
