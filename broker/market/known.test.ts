import { describe, expect, it } from '@jest/globals'
import { type Action } from '@/core/market/adjust'
import { type Listed } from './listing'
import { Markets } from './markets'

/** What the stand-in tells, and when: nothing before it is known. */

const markets = new Markets('test', '2021-03-15', '2026-12-31')
const NOW = Date.parse('2026-12-01T12:00:00-04:00')
const DAY = { count: 1, unit: 'day' } as const
const MINUTE = 60_000
const stocks = markets.listing.filter(({ kind }) => kind === 'Stock')

const of = (listed: Listed, kind: Action['kind']) =>
  markets.actionsOf(listed, NOW).filter((action) => action.kind === kind)

describe('dividends', () => {
  const daily = (listed: Listed, prices: 'as-traded' | 'over-splits-and-dividends') =>
    markets.bars(listed, DAY, NOW, { limit: 5_000, soFar: false, prices })
  const nights = stocks.flatMap((listed) => {
    const [raw, adjusted] = [daily(listed, 'as-traded'), daily(listed, 'over-splits-and-dividends')]
    const dates = [...raw.time].map((time) => new Date(time).toISOString().slice(0, 10))
    return of(listed, 'Dividend').flatMap((action) => {
      const row = dates.indexOf(action.exDate)
      if (row < 1 || action.kind !== 'Dividend') return []
      return {
        night: raw.open[row] / raw.close[row - 1] - 1,
        adjusted: adjusted.open[row] / adjusted.close[row - 1] - 1,
        yield: action.amount / raw.close[row - 1],
      }
    })
  })
  const mean = (values: number[]) => values.reduce((sum, one) => sum + one, 0) / values.length

  it('are gone from the open of the ex-date: the mean night loses what is paid', () => {
    expect(nights.length).toBeGreaterThan(1_000)
    const paid = mean(nights.map((one) => one.yield))
    // A night of one stock moves by about 1.1 %, so that the mean of so many is good to 0.03 %.
    expect(Math.abs(mean(nights.map((one) => one.night)) + paid)).toBeLessThan(0.0012)
    expect(paid).toBeGreaterThan(0.005)
  })

  it('adjusted bars go on over them as over any night', () => {
    expect(Math.abs(mean(nights.map((one) => one.adjusted)))).toBeLessThan(0.0012)
  })

  it('to come are priced by options: a call costs less and a put more than without', () => {
    const market = markets.home
    const payer = stocks.find(
      (one) => one.venue === market.venue.mic && one.usualVolume > 150_000 && of(one, 'Dividend').length > 3,
    )!
    const ex = of(payer, 'Dividend').at(-1)!
    const open = market.allSessions().find(({ date }) => date === ex.exDate)!.open
    const at = open - 4 * 86_400_000
    const [bid, ask] = (({ bid, ask }) => [bid, ask])(markets.quoteAt(payer, at))
    const spot = (bid + ask) / 2
    // Put-call parity with a dividend: call − put is below the price less the strike by about the dividend (common practice).
    const pairs = market.chains.chainOf(payer, at).filter(({ option }) => option!.maturityDate > ex.exDate)
    const near = pairs.filter(
      ({ option }) =>
        option!.putOrCall === 'Call' && Math.abs(option!.strikePrice * 10_000 - spot) < spot * 0.04,
    )
    expect(near.length).toBeGreaterThan(1)
    for (const call of near) {
      const put = market.find(call.symbol.replace(/C(\d{8})$/, 'P$1'))!
      const middle = (listed: Listed) => {
        const quote = markets.quoteAt(listed, at)
        return (quote.bid + quote.ask) / 2
      }
      const years = (market.chains.endOf(call.option!.maturityDate) - at) / (365 * 86_400_000)
      const strike = call.option!.strikePrice * 10_000 * Math.exp(-0.03 * years)
      const dividend = spot - strike - (middle(call) - middle(put))
      const paid = ex.kind === 'Dividend' ? ex.amount * 10_000 : 0
      // Each middle is off by at most a step and a half.
      expect(Math.abs(dividend - paid)).toBeLessThan(0.15 * paid + 1_500)
    }
  })
})

describe('splits', () => {
  const split = stocks.flatMap((listed) =>
    of(listed, 'Split').flatMap((action) => (action.kind === 'Split' ? { listed, ...action } : [])),
  )
  /** Three hours before the close before an ex-date, and an hour into its session. */
  const about = ({ listed, exDate }: (typeof split)[number]) => {
    const sessions = markets.of(listed).allSessions()
    const row = sessions.findIndex(({ date }) => date === exDate)
    return { before: sessions[row - 1].close - 180 * MINUTE, after: sessions[row].open + 60 * MINUTE }
  }

  it('there are some in the past of the market, and some since', () => {
    expect(split.filter(({ exDate }) => exDate < '2026-03-01').length).toBeGreaterThan(7)
    expect(split.filter(({ exDate }) => exDate >= '2026-03-01').length).toBeGreaterThan(4)
  })

  it('bars as traded are the same whenever they are asked for', () => {
    for (const one of split) {
      const { before, after } = about(one)
      const told = (now: number) =>
        markets.bars(one.listed, DAY, now, {
          limit: 20,
          soFar: false,
          to: before - 86_400_000,
          prices: 'as-traded',
        })
      expect([...told(after).close]).toEqual([...told(before).close])
      expect([...told(after).volume]).toEqual([...told(before).volume])
    }
  })

  it('take the quote down to a part of it, and the shares up', () => {
    for (const one of split) {
      const { before, after } = about(one)
      const ratio = markets.quoteAt(one.listed, before).last / markets.quoteAt(one.listed, after).last
      expect(Math.abs(ratio / one.ratio - 1)).toBeLessThan(0.2)
      const shares = (at: number) => markets.reportsOf(one.listed, at).find((r) => r.sharesOutstanding)
      const [then, now] = [shares(before)!, shares(after)!]
      expect(now.sharesOutstanding! / then.sharesOutstanding!).toBeCloseTo(one.ratio, 6)
      expect(markets.actionsOf(one.listed, before)).not.toContainEqual(
        expect.objectContaining({ exDate: one.exDate }),
      )
    }
  })
})

describe('what is not known yet', () => {
  const session = markets.home.allSessions().find(({ date }) => date === '2026-03-16')!
  const listed = markets.find('OSPRY')!

  it('the option volume of a day grows with it', () => {
    const told = (at: number) =>
      markets.bars(listed, DAY, at, { limit: 1, soFar: true, extras: ['optionvolume'] }).optionvolume!.at(-1)!
    const way = [1, 60, 200, 380].map((minutes) => told(session.open + minutes * MINUTE))
    expect(way).toEqual([...way].sort((a, b) => a - b))
    expect(way[0]).toBeLessThan(way[3] / 10)
    expect(told(session.close)).toBeGreaterThanOrEqual(way[3])
    expect(told(session.close - 1000)).toBe(told(session.close))
  })

  it('the volume of a minute does not follow from its first second', () => {
    const minute = { count: 1, unit: 'min' } as const
    const off = Array.from({ length: 100 }, (_, k) => {
      const start = session.open + k * MINUTE
      const volume = (at: number) =>
        markets.bars(listed, minute, at, { limit: 1, soFar: true }).volume.at(-1)!
      return volume(start) / (volume(start + 59_000) / 60)
    })
    expect(off.filter((one) => Math.abs(one - 1) < 0.1).length).toBeLessThan(25)
    expect(markets.bars(listed, minute, session.open + 59_000, { limit: 1, soFar: false }).volume[0]).toBe(
      markets.bars(listed, minute, session.open + 600_000, { limit: 10, soFar: false }).volume[0],
    )
  })

  it('the seconds so far of a minute do not tell where it goes on', () => {
    const of = markets.find('GANET')!
    const price = (second: number) => markets.quoteAt(of, session.open + second * 1000).last
    const [so, then]: [number[], number[]] = [[], []]
    for (let minute = 0; minute < 380; minute++) {
      so.push(price(60 * minute + 4) - price(60 * minute))
      then.push(price(60 * minute + 20) - price(60 * minute + 4))
    }
    // Of 380 independent pairs the coefficient has a standard deviation of 0.05.
    expect(Math.abs(correlation(so, then))).toBeLessThan(0.2)
  })

  it('earnings that are told before the open owe nothing to that day', () => {
    // Two markets that are alike up to a day's open and differ from there on would be needed; what the sum is made of shows it too.
    const growth = stocks.flatMap((one) => {
      const { close, open } = markets.of(one).dailyOf(one)
      const sessions = markets.of(one).allSessions()
      return markets
        .reportsOf(one, NOW)
        .filter((report) => report.beforeOpen && report.eps !== undefined && report.epsGrowth !== undefined)
        .flatMap((report) => {
          const row = sessions.findIndex((session) => session.open === report.known)
          const year = markets.reportsOf(one, report.known - 1).findLast((r) => r.eps !== undefined)
          if (row < 300 || !year?.eps || !report.eps || year.eps <= 0) return []
          return { told: report.eps / year.eps - 1, day: Math.log(close[row] / open[row]) }
        })
    })
    expect(growth.length).toBeGreaterThan(400)
    expect(
      Math.abs(
        correlation(
          growth.map((g) => g.told),
          growth.map((g) => g.day),
        ),
      ),
    ).toBeLessThan(0.12)
  })

  it('some estimated dates of reports move, and some are confirmed late', () => {
    let [moved, late, all] = [0, 0, 0]
    for (const one of stocks) {
      const reports = markets.reportsOf(one, NOW)
      const dates = markets.of(one).dates()
      reports.forEach((report, i) => {
        const before = reports[i - 1]
        if (!report.confirmed || !before?.nextEarnings || before.confirmed) return
        all++
        const [row, guess] = [dates.indexOf(report.nextEarnings!), dates.indexOf(before.nextEarnings)]
        if (guess !== row) moved++
        expect(Math.abs(guess - row)).toBeLessThanOrEqual(4)
        const known = markets.of(one).sessionsBegunBy(report.known).length - 1
        if (row - known < 10) late++
      })
    }
    expect(all).toBeGreaterThan(2_000)
    expect(moved / all).toBeGreaterThan(0.2)
    expect(moved / all).toBeLessThan(0.4)
    expect(late / all).toBeGreaterThan(0.1)
    expect(late / all).toBeLessThan(0.2)
  })
})

/** Pearson's coefficient of correlation. Source: definition. */
function correlation(xs: number[], ys: number[]): number {
  const mean = (values: number[]) => values.reduce((sum, one) => sum + one, 0) / values.length
  const [mx, my] = [mean(xs), mean(ys)]
  const sum = (of: (i: number) => number) => xs.reduce((total, _, i) => total + of(i), 0)
  return (
    sum((i) => (xs[i] - mx) * (ys[i] - my)) /
    Math.sqrt(sum((i) => (xs[i] - mx) ** 2) * sum((i) => (ys[i] - my) ** 2))
  )
}
