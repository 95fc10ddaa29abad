import { cases } from '@/tests/cases'
import { expect, it } from '@jest/globals'
import fc from 'fast-check'
import { Statement } from '@/core/book/statement'
import { openWorld, reportsOf, tempDir, Wall } from '@/tests/broker'
import { type World } from '../world'

/** Securities of both venues, whose hours overlap: the northern one closes three and a half hours before the other. */
const SYMBOLS = ['OSPRY', 'GANET', 'SUVAN', 'RYEKO'] as const

interface Wish {
  account: 'PAPER-1' | 'NORTH-1'
  symbol: (typeof SYMBOLS)[number]
  /** Minutes since the wish before. */
  after: number
  buys: boolean
  quantity: number
}

const wish: fc.Arbitrary<Wish> = fc.record({
  account: fc.constantFrom('PAPER-1', 'NORTH-1'),
  symbol: fc.constantFrom(...SYMBOLS),
  after: fc.integer({ min: 1, max: 900 }),
  buys: fc.boolean(),
  quantity: fc.integer({ min: 1, max: 40 }),
})

/** Lives through some days of trading, Easter among them, which the venues keep on different days. */
async function lived(world: World, wishes: readonly Wish[]): Promise<void> {
  await world.newAccount('NORTH-1', 60_000, { currency: 'EUR', margin: true, short: true, optionLevel: 0 })
  let at = Date.parse('2026-03-31T10:00:00-03:00')
  for (const [n, { account, symbol, after, buys, quantity }] of wishes.entries()) {
    at += after * 60_000
    await world.setClock({ moveTo: at })
    const held = world.accounts.get(account)!.book.holdings[symbol]?.quantity ?? 0
    const side = buys ? 'Buy' : held > 0 ? 'Sell' : 'SellShort'
    const orderQty =
      side === 'Sell' ? Math.min(quantity, held) : held < 0 && buys ? Math.min(quantity, -held) : quantity
    await world.submit(
      { clOrdId: `w${n}`, symbol, side, orderQty, ordType: 'Market', timeInForce: 'Day' },
      account,
    )
    await world.tick()
  }
  await world.setClock({ moveTo: at + 4 * 86_400_000 })
}

it('every day of an account of either currency adds up: cash, equity, profit, currency gain, commission', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(wish, { minLength: 25, maxLength: 40 }), async (wishes) => {
      const dir = await tempDir()
      const world = await openWorld(dir.path, new Wall(), {})
      try {
        await lived(world, wishes)
        for (const { name, book, opened, reports } of world.accounts.values()) {
          const lines = new Statement(opened.cash, book.bookings, {})
          const told =
            name === 'PAPER-1'
              ? reportsOf(world)
              : Array.from({ length: reports.length }, (_, i) => reports.get(i + 1))
          for (const report of told) lines.take(report)
          lines.bookUpTo(Infinity)
          const of = (date: string, upTo = false) =>
            lines.lines.filter(
              (line) => line.kind !== 'Opening' && (upTo ? line.date <= date : line.date === date),
            )
          const sum = (values: (number | undefined)[]) =>
            values.reduce<number>((total, one) => total + (one ?? 0), 0)
          let before = { equity: opened.cash, unrealized: 0, date: '' }
          for (const day of book.days) {
            expect([name, day.date > before.date]).toEqual([name, true])
            const today = of(day.date)
            const same = (figure: number, sum: number) =>
              expect([name, day.date, Math.abs(figure - sum) < 0.001]).toEqual([name, day.date, true])
            same(day.cash, opened.cash + sum(of(day.date, true).map(({ amount }) => amount)))
            same(day.commission, sum(today.map(({ commission }) => commission)))
            const booked = today.filter(({ kind }) => kind === 'Dividend' || kind === 'Interest')
            same(day.booked, sum(booked.map(({ amount }) => amount)))
            const gained = day.realized + day.unrealized - before.unrealized + day.booked - day.commission
            same(day.equity - before.equity, gained)
            before = day
          }
          // No trade falls on a date that has no row.
          const dates = new Set(book.days.map(({ date }) => date))
          for (const line of lines.lines.slice(1))
            expect([name, line.date, dates.has(line.date)]).toEqual([name, line.date, true])
          // In the account's own currency nothing comes of rates.
          const own = new Set(
            told
              .filter(({ settlCurrFxRate }) => settlCurrFxRate !== undefined)
              .map(({ tradeDate }) => tradeDate),
          )
          if (own.size === 0)
            for (const day of book.days) expect([day.currencyGain, day.currencyRealized]).toEqual([0, 0])
        }
      } finally {
        await world.close()
        await dir.remove()
      }
    }),
    { numRuns: cases(3) },
  )
})
