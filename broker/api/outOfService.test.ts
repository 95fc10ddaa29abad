import { describe, expect, it } from '@jest/globals'
import { readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type ExecutionReport } from '@/core/orders/model'
import { type Desk, deskFor, openWorlds, problem, tempDir, Wall } from '@/tests/broker'

let desk: Desk
let folder: string
const wall = new Wall()
deskFor(wall, (opened, dataDir) => ([desk, folder] = [opened, dataDir]))

const begin = (id: string) => desk.call('POST', '/rehearsals', { id, start: '2026-03-02' })
const order = (clOrdId: string) => ({ clOrdId, symbol: 'OSPRY', side: 'Buy', orderQty: 1, ordType: 'Market' })
const statuses = async (answers: Promise<Response>[]) =>
  (await Promise.all(answers)).map(({ status }) => status).sort()
const count = (all: readonly number[], status: number) => all.filter((one) => one === status).length

describe('a rehearsal that is put back while clients send', () => {
  it('tells them that it is out of service, loses no other world, and comes back whole', async () => {
    for (let round = 0; round < 7; round++) {
      const id = `load-${round}`
      expect((await begin(id)).status).toBe(201)
      const at = `/rehearsals/${id}`
      await desk.call('POST', `${at}/market-time`, { running: true, step: 600 })
      const answers: Promise<Response>[] = []
      for (let n = 0; n < 40; n++) {
        answers.push(desk.call('POST', `${at}/orders`, order(`o-${n}`)))
        answers.push(desk.call('GET', `${at}/account`), desk.call('GET', `${at}/executions`))
        if (n === 20) answers.push(desk.call('POST', `${at}/put-back`, { to: '2026-03-02T09:35' }))
        if (n % 5 === 0) await desk.worlds.tick()
      }
      const refused = (await Promise.all(answers)).filter(({ status }) => status >= 500)
      for (const one of refused) {
        expect(one.headers.get('Retry-After')).toBe('1')
        await problem(one, 503, 'out-of-service')
      }
      expect((await desk.get<{ epoch: number }>(at)).epoch).toBe(2)
    }
    const told = async () =>
      Promise.all(
        Array.from({ length: 7 }, (_, round) =>
          desk.get<ExecutionReport[]>(`/rehearsals/load-${round}/executions`),
        ),
      )
    const before = await told()
    await desk.reopen(folder, wall)
    expect(desk.worlds.rehearsed).toHaveLength(7)
    expect(await told()).toEqual(before)
    for (let round = 0; round < 7; round++) await desk.call('DELETE', `/rehearsals/load-${round}`)
  })
})

describe('one id at once', () => {
  it('is made once: one 201 and nine 409', async () => {
    const made = await statuses(Array.from({ length: 10 }, () => begin('twin')))
    expect([count(made, 201), count(made, 409)]).toEqual([1, 9])
    expect((await desk.call('DELETE', '/rehearsals/twin')).status).toBe(200)
  })

  it('is made and taken away at once without a trace', async () => {
    await begin('both')
    const all = await statuses([
      ...Array.from({ length: 5 }, () => desk.call('DELETE', '/rehearsals/both')),
      ...Array.from({ length: 5 }, () => begin('both')),
    ])
    expect(all.every((status) => [200, 201, 404, 409, 503].includes(status))).toBe(true)
    expect(count(all, 200)).toBe(1)
    await desk.call('DELETE', '/rehearsals/both')
    expect((await begin('both')).status).toBe(201)
    expect((await desk.call('GET', '/rehearsals/both/orders')).status).toBe(200)
    await desk.call('DELETE', '/rehearsals/both')
  })
})

describe('a damaged world', () => {
  it('keeps no other from starting, is named with the mend, and can be taken away', async () => {
    await begin('sound')
    await begin('broken')
    await desk.worlds.close()
    const path = join(folder, 'rehearsals', 'broken', 'journal.log')
    const bytes = await readFile(path)
    bytes[40] ^= 1
    await writeFile(path, bytes)
    await desk.reopen(folder, wall)
    expect((await desk.call('GET', '/rehearsals/sound/orders')).status).toBe(200)
    const list = await desk.get<{ name: string; why?: string; mend?: string }[]>('/rehearsals')
    const named = list.find(({ name }) => name === 'broken')!
    expect(named.why).toContain('damaged')
    expect(named.mend).toContain('DELETE /rehearsals/broken')
    await problem(desk.call('GET', '/rehearsals/broken/orders'), 503, 'out-of-service')
    await problem(begin('broken'), 409, 'not-possible')
    expect((await desk.call('DELETE', '/rehearsals/broken')).status).toBe(200)
    expect((await begin('broken')).status).toBe(201)
  })

  it.each(['live', 'paper'])('%s: the others start, it answers 503 and is not changed', async (name) => {
    const dir = await tempDir()
    const worlds = await openWorlds(dir.path, wall)
    await worlds.close()
    const path = join(dir.path, name === 'live' ? 'live' : '', 'journal.log')
    const bytes = await readFile(path)
    bytes[40] ^= 1
    await writeFile(path, bytes)
    const again = await openWorlds(dir.path, wall)
    try {
      const [hurt, sound] = name === 'live' ? [again.live, again.paper] : [again.paper, again.live]
      expect(hurt.service.out?.why).toContain('damaged')
      expect(sound.service.out).toBeUndefined()
      expect(again.setAside.map((one) => one.name)).toEqual([name])
      wall.pass(5)
      await again.tick()
      const { clock } = sound
      expect(sound.clock.now()).toBe(clock.now())
      await sound.act(() => undefined)
      expect(await readFile(path)).toEqual(bytes)
    } finally {
      await again.close()
      await dir.remove()
    }
  })
})

describe('worlds that were begun over another version of the market', () => {
  it('are set aside whole, said so, and begun again with their keys and time', async () => {
    const dir = await tempDir()
    const before = await openWorlds(dir.path, wall)
    const { key } = await before.paper.ring.create({ scopes: ['see-market'], label: 'mine' })
    await before.paper.setClock({ moveTo: Date.parse('2026-03-18T12:00:00-03:00') })
    await before.rehearse('old', '2026-03-02T09:30:00-04:00', 1000)
    const now = before.paper.clock.now()
    await before.close()
    const note = join(dir.path, 'world.json')
    const { market: _version, ...older } = JSON.parse(await readFile(note, 'utf8')) as Record<string, unknown>
    await writeFile(note, JSON.stringify(older))
    const said: string[] = []
    const after = await openWorlds(dir.path, wall, { say: (what) => said.push(what) })
    try {
      expect(said.join(' ')).toContain('set aside')
      expect(after.setAside[0].mend).toContain('set-aside/market-1')
      expect([...after.paper.keys.keys()]).toContain(key.keyId)
      expect(after.paper.clock.now()).toBeGreaterThanOrEqual(now)
      expect(after.rehearsed).toEqual([])
      const kept = join(dir.path, 'set-aside', 'market-1', 'broker', 'rehearsals', 'old', 'world.json')
      expect((await readFile(kept, 'utf8')).length).toBeGreaterThan(0)
    } finally {
      await after.close()
    }
    // The next start says it still, and opens what was begun.
    const third = await openWorlds(dir.path, wall)
    expect(third.setAside).toHaveLength(1)
    await third.close()
    await dir.remove()
  })
})

describe('a rehearsal that is put back while the disk is full', () => {
  it('goes on as it was, and answers again', async () => {
    await begin('full')
    const at = '/rehearsals/full'
    await desk.call('POST', `${at}/orders`, order('kept'))
    const world = desk.worlds.rehearsal('full')!
    interface Insides {
      journal: { journal: { file: { appendFile(bytes: Buffer): Promise<void> } } }
    }
    const { file } = (world as unknown as Insides).journal.journal
    const { appendFile } = file
    file.appendFile = () => Promise.reject(Object.assign(new Error('no space'), { code: 'EIO' }))
    const answers = [
      ...Array.from({ length: 5 }, (_, n) => desk.call('POST', `${at}/orders`, order(`lost-${n}`))),
      desk.call('POST', `${at}/put-back`, { to: '2026-03-02T09:30' }),
    ]
    for (const { status } of await Promise.all(answers)) expect(status).toBe(503)
    file.appendFile = appendFile
    expect((await desk.call('POST', `${at}/orders`, order('after'))).status).toBe(201)
    const orders = await desk.get<{ clOrdId: string }[]>(`${at}/orders?which=all`)
    expect(orders.map(({ clOrdId }) => clOrdId)).toEqual(['after', 'kept'])
    expect((await desk.get<{ epoch: number }>(at)).epoch).toBe(1)
    await desk.call('DELETE', at)
  })
})
