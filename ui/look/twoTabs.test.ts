import '@/tests/indexedDb'
import { beforeEach, describe, expect, it } from '@jest/globals'
import { db, HeronDb } from '@/store/db'
import { USUAL_STEPS } from './dragging'
import { keepDrawing } from './DrawTools'
import { barsOf } from '@/tests/bars'
import { changeLayout, freeName } from './useLayout'

beforeEach(() => db.layouts.clear())

const bars = barsOf([10, 11, 12, 11])

describe('a chart open in two tabs', () => {
  it('keeps what either draws, however close together, each under a name of its own', async () => {
    const draw = (price: number) =>
      changeLayout('TARN', ({ drawings }) => ({
        drawings: [
          ...drawings,
          { id: String(price), kind: 'level', name: freeName('level', drawings), price },
        ],
      }))
    await Promise.all(Array.from({ length: 20 }, (_, k) => draw(k)))
    const { drawings } = (await db.layouts.get('TARN'))!
    expect(new Set(drawings.map((d) => d.id)).size).toBe(20)
    expect(new Set(drawings.map((d) => d.name)).size).toBe(20)
  })

  it('one that closes in the middle of a change leaves the layout as it was', async () => {
    await keepDrawing('TARN', bars, 'level', [{ row: 1, price: 11.005 }], USUAL_STEPS)
    const before = await db.layouts.get('TARN')
    const other = new HeronDb()
    const under = other.transaction('rw', other.layouts, async () => {
      await other.layouts.put({ ...before!, drawings: [] })
      throw new Error('the tab was closed')
    })
    await expect(under).rejects.toThrow('the tab was closed')
    other.close()
    expect(await db.layouts.get('TARN')).toEqual(before)
  })
})

describe('what is drawn with the mouse', () => {
  const drawings = async () => (await db.layouts.get('TARN'))?.drawings ?? []

  it('is kept on the security’s own price steps, a zone with its edges in order, a line by the times of its bars', async () => {
    await keepDrawing('TARN', bars, 'level', [{ row: 0, price: 11.23456 }], USUAL_STEPS)
    await keepDrawing(
      'TARN',
      bars,
      'zone',
      [
        { row: 0, price: 9.999 },
        { row: 2, price: 12.501 },
      ],
      USUAL_STEPS,
    )
    await keepDrawing(
      'TARN',
      bars,
      'line',
      [
        { row: 0, price: 10 },
        { row: 3, price: 11 },
      ],
      USUAL_STEPS,
    )
    expect((await drawings()).map(({ id: _, ...rest }) => rest)).toEqual([
      { kind: 'level', name: 'level 1', price: 11.23 },
      { kind: 'zone', name: 'zone 1', lower: 10, upper: 12.5 },
      {
        kind: 'line',
        name: 'line 1',
        from: { time: bars.time[0], price: 10 },
        to: { time: bars.time[3], price: 11 },
      },
    ])
  })

  it('dividers leave nothing behind', async () => {
    await keepDrawing(
      'TARN',
      bars,
      'dividers',
      [
        { row: 0, price: 10 },
        { row: 3, price: 11 },
      ],
      USUAL_STEPS,
    )
    expect(await drawings()).toEqual([])
  })
})
