/** How many shares to order. */
export type Sizing =
  | { by: 'risk'; percentOfEquity: number }
  | { by: 'shares'; shares: number }
  | { by: 'money'; money: number }
  | { by: 'equity'; percentOfEquity: number }

export type Sized = { quantity: number } | { quantity?: undefined; why: string }

/**
 * Shares to order, rounded down to whole lots. By money: money / entry price. By risk: equity x share / distance from entry to stop (common
 * practice); by equity: equity x share / entry price. All amounts in currency units, shares of equity in
 * percent. Gives the reason where no order comes of it.
 */
export function sizeOrder(
  sizing: Sizing,
  facts: { equity: number; entry: number; stop?: number; lot: number },
): Sized {
  const { equity, entry, stop, lot } = facts
  if (sizing.by === 'shares') return wholeLots(sizing.shares, lot, 'fixed number of shares')
  if (!(entry > 0)) return { why: 'No entry price is known to size by.' }
  if (sizing.by === 'money') return wholeLots(sizing.money / entry, lot, 'amount of money')
  if (!(equity > 0)) return { why: 'The account has no equity to size by.' }
  const amount = (equity * sizing.percentOfEquity) / 100
  if (sizing.by === 'equity') return wholeLots(amount / entry, lot, `${sizing.percentOfEquity} % of equity`)
  if (stop === undefined) return { why: 'Sizing by risk needs a stop: its distance is what is risked.' }
  const distance = Math.abs(entry - stop)
  if (!(distance > 0))
    return { why: 'The stop is at the entry price: the risk of a share is nought. Move the stop away.' }
  return wholeLots(amount / distance, lot, `risk of ${sizing.percentOfEquity} % of equity`)
}

function wholeLots(shares: number, lot: number, what: string): Sized {
  // A hair's breadth, so that 3 reckoned as 2.9999999996 is not taken down to 2.
  const quantity = Math.floor(shares / lot + 1e-9) * lot
  if (quantity > 0) return { quantity }
  return {
    why: `The ${what} comes to less than ${lot === 1 ? 'one share' : `one lot of ${lot}`}. Raise it, or choose a cheaper security.`,
  }
}
