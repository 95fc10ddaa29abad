import { afterEach, describe, expect, it, jest } from '@jest/globals'
import { open as openFile, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type NewOrder } from '@/core/orders/model'
import { openWorld, type Wall, worldForEach } from '@/tests/broker'
import { type World } from '../world'

let folder: string
let wall: Wall
let world: World
worldForEach(
  (...made) => ([world, folder, wall] = made),
  () => world,
)
afterEach(() => void jest.restoreAllMocks())

const order = (clOrdId: string, more: Partial<NewOrder> = {}): NewOrder => ({
  ...{ clOrdId, symbol: 'OSPRY', side: 'Buy', orderQty: 5, ordType: 'Market', timeInForce: 'Day' },
  ...more,
})

const at = (day: string) => Date.parse(`${day}T10:30:00-03:00`)

/** Three days on each of which orders came, were filled, refused and canceled; some still work. */
async function lived(): Promise<void> {
  for (const [i, day] of ['2026-03-17', '2026-03-18', '2026-03-19'].entries()) {
    await world.setClock({ moveTo: at(day) })
    await world.submit(order(`in-${i}`, { exits: { stop: { percent: 40 } } }))
    await world.submit(order(`no-${i}`, { orderQty: 9_000_000 }))
    const { order: rests } = await world.submit(
      order(`rest-${i}`, { ordType: 'Limit', price: 1.5, timeInForce: 'GoodTillCancel' }),
    )
    if (i === 1) await world.cancel(rests)
    await world.tick()
    wall.pass(5)
    await world.tick()
  }
  await world.setClock({ moveTo: at('2026-03-20') })
  await world.tick()
}

/** All that an account tells: figures, and every order as its reports make it. */
function told({ main }: World) {
  const { cashE4, holdings, count, seq, commissionE4, working } = main.book
  const orders = Array.from({ length: count }, (_, i) => main.orderNumbered(i + 1))
  const reports = Array.from({ length: main.reports.length }, (_, i) => main.reports.get(i + 1))
  return JSON.parse(JSON.stringify({ cashE4, holdings, count, seq, commissionE4, working, orders, reports }))
}

describe('a world with a past', () => {
  it('holds in memory only what works or is of today, and tells the rest from the disk', async () => {
    await lived()
    const { book } = world.main
    expect(Object.keys(book.orders).length).toBeLessThan(book.count)
    for (const one of Object.values(book.orders))
      expect(one.tradeDate < '2026-03-20' && one.role === 'Target').toBe(false)
    expect(world.main.orderUnder('rest-1')).toMatchObject({ ordStatus: 'Canceled', clOrdId: 'rest-1' })
    // An id of the past is not taken twice; that of a refused order is free.
    const again = await world.submit(order('rest-1'))
    expect([again.refused?.code, again.order.ordStatus]).toEqual(['client-order-id', 'Canceled'])
    expect((await world.submit(order('no-0'))).refused).toBeUndefined()
  })

  it('comes back the same from its snapshot, from the journal alone, and where the snapshot is damaged', async () => {
    await lived()
    const before = told(world)
    await world.close()
    const names = (await readdir(folder)).filter((name) => name.startsWith('snapshot'))
    expect(names).toHaveLength(2)
    world = await openWorld(folder, wall)
    expect(told(world)).toEqual(before)
    await world.close()
    await writeFile(join(folder, 'snapshot.json'), 'something else')
    world = await openWorld(folder, wall)
    expect(told(world)).toEqual(before)
    await world.close()
    await rm(join(folder, 'snapshot.json'))
    world = await openWorld(folder, wall)
    expect(told(world)).toEqual(before)
    // It goes on after either.
    expect((await world.submit(order('next'))).refused).toBeUndefined()
  })

  it('reads what came after the snapshot as well', async () => {
    await lived()
    const kept = await readFile(join(folder, 'snapshot.json'))
    const [lists] = (await readdir(folder)).filter((name) => name.endsWith('.lists'))
    const listed = await readFile(join(folder, lists))
    await world.submit(order('after', { ordType: 'Limit', price: 2 }))
    const before = told(world)
    await world.close()
    await writeFile(join(folder, 'snapshot.json'), kept)
    await writeFile(join(folder, lists), listed)
    world = await openWorld(folder, wall)
    expect(told(world)).toEqual(before)
  })

  it('does not start where a record before the snapshot is damaged', async () => {
    await lived()
    await world.close()
    const path = join(folder, 'journal.log')
    const file = await openFile(path, 'r+')
    await file.write(Buffer.from('#'), 0, 1, 60)
    await file.close()
    await expect(openWorld(folder, wall)).rejects.toThrow('is damaged')
    await rm(path)
    await rm(join(folder, 'world.json'))
    await rm(join(folder, 'snapshot.json'))
    world = await openWorld(folder, wall)
  })
})

interface Insides {
  journal: {
    journal: {
      file: { appendFile(bytes: Buffer): Promise<void> }
      reserve: { release(n: number): Promise<boolean>; left: number }
    }
  }
}

describe('a disk that is full', () => {
  /** Lets the disk have so many bytes left, those of the reserve beside. */
  function diskWith(room: number) {
    const { file, reserve } = (world as unknown as Insides).journal.journal
    const disk = { room }
    const [append, release] = [file.appendFile.bind(file), reserve.release.bind(reserve)]
    jest.spyOn(file, 'appendFile').mockImplementation(async (bytes) => {
      if (bytes.length > disk.room)
        throw Object.assign(new Error('no space left on device'), { code: 'ENOSPC' })
      disk.room -= bytes.length
      return append(bytes)
    })
    jest.spyOn(reserve, 'release').mockImplementation(async (bytes) => {
      const before = reserve.left
      const could = await release(bytes)
      disk.room += before - reserve.left
      return could
    })
    return { disk, reserve }
  }

  it('takes no new orders, but cancels and fills from what was laid by, until that is used up', async () => {
    const { order: rests } = await world.submit(order('rests', { ordType: 'Limit', price: 1.5 }))
    const { disk, reserve } = diskWith(100)
    // The first that finds it full is kept still; those after it are told.
    await world.submit(order('last'))
    expect(await world.submit(order('x')).catch((error: Error) => error.message)).toContain(
      'The disk is full',
    )
    jest.spyOn(reserve as unknown as { refill(): Promise<void> }, 'refill').mockResolvedValue()
    wall.pass(3)
    await world.tick()
    expect(world.main.orderUnder('last')!.ordStatus).toBe('Filled')
    await world.cancel(rests)
    expect(world.main.orderUnder('rests')!.ordStatus).toBe('Canceled')
    // Once that is used up nothing more can be written: time stands still, and says so.
    disk.room = 0
    reserve.left = 0
    wall.pass(60)
    await world.tick().catch(() => undefined)
    const stood = world.clock.now()
    expect(world.standsStill).toBe(true)
    wall.pass(60)
    await world.tick().catch(() => undefined)
    expect(world.clock.now()).toBe(stood)
    // With room again it goes on by itself.
    disk.room = Infinity
    jest.restoreAllMocks()
    await world.tick()
    wall.pass(10)
    await world.tick()
    expect([world.standsStill, world.clock.now() > stood]).toEqual([false, true])
    expect((await world.submit(order('again'))).refused).toBeUndefined()
  })
})

describe('a start on a full disk', () => {
  it('reads, refuses orders and says so; once there is room it goes on by itself', async () => {
    await lived()
    const before = told(world)
    await world.close()
    const file = await openFile(join(folder, 'probe'), 'w')
    const handles = Object.getPrototypeOf(file) as typeof file
    await file.close()
    const full = () => Promise.reject(Object.assign(new Error('no space left on device'), { code: 'ENOSPC' }))
    jest.spyOn(handles, 'writeFile').mockImplementation(full)
    jest.spyOn(handles, 'appendFile').mockImplementation(full)
    const said: string[] = []
    world = await openWorld(folder, wall, { say: (what) => said.push(what) })
    expect(said.join()).toContain('The disk is full')
    expect(told(world)).toEqual(before)
    await world.tick().catch(() => undefined)
    await expect(world.submit(order('no'))).rejects.toThrow(/disk is full|cannot be written/)
    expect(told(world)).toEqual(before)
    jest.restoreAllMocks()
    await world.tick()
    expect((await world.submit(order('yes'))).refused).toBeUndefined()
  })
})
