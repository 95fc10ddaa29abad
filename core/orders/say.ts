import { decimal, dollars, priceText } from '../market/money'
import { isOption } from '../options/osi'
import { netText, securityText } from '../options/words'
import { type Finding, type Why } from './findings'
import { type Check } from './checks'

/** The words of findings: the only place where there are any. `mend` says what to do where one fails. */
interface Words {
  sentence: string
  mend?: string
}

/** A finding as it is told. */
export const sayFinding = (finding: Finding): Check => {
  const { code, verdict, value, limit } = finding
  return { code, verdict, ...wordsOf(finding), ...(value ? { value } : {}), ...(limit ? { limit } : {}) }
}

const text = (level: number | undefined): string => (level === undefined ? '' : priceText(level))

function wordsOf(finding: Finding): Words {
  switch (finding.code) {
    case 'client-order-id':
      return finding.why === 'new'
        ? { sentence: `client order id ${finding.clOrdId} is new` }
        : {
            sentence: `The client order id ${finding.clOrdId} stands for an earlier order.`,
            mend: 'Nothing was sent twice. Use a new id for a new order.',
          }
    case 'security':
      return ofSecurity(finding)
    case 'orderable':
      return ofOrderable(finding)
    case 'quantity':
      return ofQuantity(finding)
    case 'tick':
      return ofTick(finding)
    case 'market-open':
      return ofSession(finding)
    case 'expiry':
      return finding.why === 'ends'
        ? { sentence: `good until the session of ${finding.date}` }
        : {
            sentence: `No session is left until ${finding.date || 'the day that is asked for'}.`,
            mend: 'Give a day on which a session lies ahead.',
          }
    case 'exit-side':
      return ofExits(finding)
    case 'trigger':
      return ofTrigger(finding)
    case 'locate':
      return ofLocate(finding)
    case 'legs':
      return ofLegs(finding)
    case 'option-level':
      return ofLevel(finding)
    case 'shares-held':
      return ofShares(finding)
    case 'standing-down':
      return finding.why === 'closes'
        ? { sentence: 'it closes, which passes while the account stands down' }
        : {
            sentence: `The account stands down${finding.why === 'security' ? ` from ${finding.symbol}` : ''}: orders that open something are refused.`,
            mend: 'Lift it by hand, in the application, or send an order that closes.',
          }
    case 'gate':
      return ofGate(finding)
    case 'price':
      return ofPrice(finding)
    case 'buying-power':
      return ofPower(finding)
  }
}

type Of<C extends Why['code']> = Extract<Finding, { code: C }>

function ofSecurity(finding: Of<'security'>): Words {
  const { symbol } = finding
  if (finding.why === 'listed')
    return {
      sentence: `${isOption(symbol) ? securityText(symbol) : `${symbol} is ${finding.name},`} listed on ${finding.venue}${finding.rate === 1 ? '' : `, traded in ${finding.traded} at ${finding.rate}`}`,
    }
  return {
    sentence: `${symbol} is not listed on any venue here.`,
    mend:
      finding.near.length > 0 ? `Did you mean ${finding.near.join(' or ')}?` : 'Search for it by its name.',
  }
}

const ofOrderable = ({ symbol }: Of<'orderable'>): Words => ({
  sentence: `${symbol} is an index and cannot be ordered.`,
  mend: 'Order a security that is a member of it.',
})

function ofQuantity(finding: Of<'quantity'>): Words {
  const [asked, lot] = [finding.value!.amount, finding.limit!.amount]
  if (finding.why === 'too little money')
    return {
      sentence: `${dollars(asked)} buy less than ${finding.lot === 1 ? 'one' : `a lot of ${finding.lot}`}, which comes to ${dollars(lot)}.`,
      mend: `Give at least ${dollars(lot)}, or a quantity.`,
    }
  const { why, use } = finding
  if (why === 'whole lots') return { sentence: `${asked} is a whole number of lots of ${lot}` }
  return why === 'not whole'
    ? {
        sentence: `The quantity ${asked} is not whole.`,
        mend: `Use ${use} or another whole number of shares.`,
      }
    : { sentence: `The quantity ${asked} is not a multiple of the lot of ${lot}.`, mend: `Use ${use}.` }
}

function ofTick(finding: Of<'tick'>): Words {
  if (finding.why === 'on the tick')
    return {
      sentence:
        finding.prices.length === 0
          ? 'a Market order names no price'
          : finding.net
            ? `${netText(finding.prices[0])}, in whole cents`
            : `${finding.prices.map(priceText).join(', ')} on the tick`,
    }
  const { field, value, limit, down, up } = finding
  return {
    sentence: `${field} ${value!.amount} is off the tick: prices here move in steps of ${limit!.amount}.`,
    mend: `Use ${priceText(down)} or ${priceText(up)}.`,
  }
}

function ofPrice(finding: Of<'price'>): Words {
  const limit = finding.value!.amount
  if (finding.why === 'far through')
    return {
      sentence: `The limit of ${priceText(limit)} lies ${decimal(finding.percent, 1)} % beyond the ${finding.side} of ${priceText(finding.limit!.amount)}.`,
      mend: 'Correct the limit, or send the order all the same if you mean it.',
    }
  const { mid, natural } = finding
  const now = `These legs ${comesTo(natural)} at the quotes and ${comesTo(mid)} at the middle.`
  const asked =
    limit === 0
      ? 'An even net price'
      : `A net price of ${decimal(Math.abs(limit), 2)} ${limit > 0 ? 'paid' : 'received'}`
  const what = {
    'brings a credit': 'gives their credit away.',
    'gives away': 'is worse than the quotes.',
    'hardly trades': 'lies far from the market and will hardly trade.',
  }[finding.why]
  return {
    sentence: `${asked} ${what} ${now}`,
    mend: 'Correct the net price, or send the order all the same if you mean it.',
  }
}

const comesTo = (net: number): string =>
  net === 0 ? 'come to nothing' : `${net > 0 ? 'cost' : 'bring'} ${decimal(Math.abs(net), 2)}`

function ofSession({ why, venue, opens }: Of<'market-open'>): Words {
  if (why === 'open') return { sentence: `${venue} is open` }
  if (why === 'halted') return { sentence: 'trading in it is halted: the order rests until it goes on' }
  if (why === 'rests') return { sentence: `the order rests until ${venue} opens, ${opens}` }
  return {
    sentence: `${venue} is closed until ${opens}.`,
    mend: 'Wait for the open, or send a Limit or Stop order that is GoodTillCancel: it rests until then.',
  }
}

function ofExits(finding: Of<'exit-side'>): Words {
  const entry = text(finding.limit?.amount)
  if (finding.why === 'no exits') return { sentence: 'no exits attached' }
  if (finding.why === 'no price') return { sentence: 'no price is known to measure the exits from' }
  if (finding.why === 'right side') {
    const names = finding.roles.map((role) => role.toLowerCase()).join(' and ')
    return { sentence: `${names} on the right side of ${entry}, held at the broker` }
  }
  const { role, side, value } = finding
  return {
    sentence: `The ${role.toLowerCase()} at ${text(value?.amount)} is not ${side} the entry at ${entry}.`,
    mend: `Set it ${side} ${entry}.`,
  }
}

function ofTrigger({ why, clOrdId }: Of<'trigger'>): Words {
  if (why === 'works') return { sentence: `waits until ${clOrdId} is filled` }
  return why === 'over'
    ? {
        sentence: `The order ${clOrdId} is over; nothing would set this one off.`,
        mend: 'Send it without triggerClOrdId.',
      }
    : { sentence: `No order ${clOrdId} stands that could set this one off.`, mend: 'Send that one first.' }
}

function ofLocate({ why, symbol, value, limit }: Of<'locate'>): Words {
  if (why === 'easy') return { sentence: `${symbol} is easy to borrow` }
  const [asked, most] = [value!.amount, limit!.amount]
  if (why === 'located') return { sentence: `${asked} ${symbol} can be borrowed today, of ${most}` }
  return {
    sentence: `${asked} ${symbol} cannot be borrowed: there are ${most} to be had today.`,
    mend: most > 0 ? `Sell short at most ${most}.` : 'Try on another day, or buy a put.',
  }
}

function ofLegs(finding: Of<'legs'>): Words {
  const { symbol } = finding
  switch (finding.why) {
    case 'one underlying':
      return { sentence: `${finding.count} legs of ${symbol}, filled together or not at all` }
    case 'other underlying':
      return {
        sentence: `The leg ${finding.leg} is not of ${symbol}.`,
        mend: `Name the underlying as symbol, and take all legs from it; securities of different companies are sent as orders of their own.`,
      }
    case 'odd shares':
      return {
        sentence: `The leg of ${finding.ratio} ${symbol} is no multiple of the 100 shares that a contract is about.`,
        mend: 'Make its legRatioQty a multiple of 100.',
      }
    case 'no auction':
      return {
        sentence: `${symbol} is an option; there is no auction of it.`,
        mend: 'Send it Day, or with a price of its own.',
      }
  }
}

/** What accounts of each option level may hold. */
export const LEVELS = [
  'no options',
  'covered calls and cash-secured puts',
  'bought options',
  'spreads',
  'uncovered options',
]

function ofLevel(finding: Of<'option-level'>): Words {
  const { level, allowed } = finding
  if (finding.why === 'allowed')
    return { sentence: `needs option level ${level} (${LEVELS[level]}); the account has ${allowed}` }
  return {
    sentence: `What would be held of ${finding.symbol} needs option level ${level} (${LEVELS[level]}); the account has ${allowed}.`,
    mend:
      level > 3
        ? 'Buy what limits its loss in the same order, or use an account of that level.'
        : 'Use an account of that level.',
  }
}

function ofShares({ why, symbol: of, held, promised, value, limit }: Of<'shares-held'>): Words {
  const symbol = securityText(of)
  const [asked, free] = [value?.amount ?? 0, limit?.amount ?? 0]
  switch (why) {
    case 'free to sell':
      return { sentence: `${held} ${symbol} held, ${free} free to sell` }
    case 'promised to sales':
      return {
        sentence: `Of ${held} ${symbol} held, ${promised} are promised to working sell orders.`,
        mend: 'Cancel those first, or sell less.',
      }
    case 'too few held':
      return {
        sentence: `${held > 0 ? held : 'No'} ${symbol} held; cannot sell ${asked}.`,
        mend: held > 0 ? `Sell at most ${held}.` : 'To open a short position use SellShort.',
      }
    case 'none long':
      return { sentence: `no long position in ${symbol} in the way` }
    case 'crossed by purchases':
      return {
        sentence: `Working orders buy ${promised} ${symbol}; what is sold short would be crossed by them.`,
        mend: 'Cancel those first.',
      }
    case 'no such lot':
      return {
        sentence: `No lot of that id is held of ${symbol}.`,
        mend: 'Take an id from lots, or leave lot out: the oldest are closed first.',
      }
    case 'sells nothing short':
      return {
        sentence: `This account may not sell short, and ${held === 0 ? 'no' : held} ${symbol} are held.`,
        mend: 'Use an account that may sell short, or send a Sell of what is held.',
      }
    case 'held long':
      return {
        sentence: `${held} ${symbol} are held long; a short sale would cross them.`,
        mend: 'Sell the long position first.',
      }
    case 'needs none':
      return { sentence: 'buying needs no shares' }
    case 'crossed by short sales':
      return {
        sentence: `A working order offers ${promised} ${symbol} short; what is bought would be crossed by it.`,
        mend: 'Cancel that order first.',
      }
    case 'promised to purchases':
      return {
        sentence: `Of ${-held} ${symbol} held short, ${promised} are promised to working buy orders.`,
        mend: 'Cancel those first, or buy less.',
      }
    case 'crosses to long':
      return {
        sentence: `${-held} ${symbol} are held short; a Buy of ${asked} would cross to the long side.`,
        mend: `Buy ${-held} to close the short position, and what is to be held long after that.`,
      }
    case 'closes with exits':
      return {
        sentence: `This Buy closes a short position in ${symbol}; a stop or target beside it would open one again.`,
        mend: 'Send it without stop and target.',
      }
    case 'nothing to close':
      return {
        sentence: `${held > 0 ? 'Nothing is' : `No ${symbol} are`} held short that it would close.`,
        mend: 'Leave positionEffect out to open a position.',
      }
    case 'closes':
      return { sentence: `closes ${asked} of ${-held} ${symbol} held short` }
  }
}

function ofGate({ why, gate, rule, sentence }: Of<'gate'>): Words {
  if (why === 'passes') return { sentence: `${gate}: ${sentence}` }
  if (why === 'asks first')
    return { sentence: `${gate}: it waits until another key approves it, since ${sentence}` }
  return {
    sentence: `The gate “${gate}” of the account stops it: ${sentence}.`,
    mend: `Change the order so that ${rule}, or change the gate by hand.`,
  }
}

function ofPower(finding: Of<'buying-power'>): Words {
  if (finding.why === 'no price') return { sentence: 'no price is known to reckon the cost with' }
  if (finding.why === 'closes') return { sentence: 'closes a position: needs no buying power' }
  if (finding.why === 'brings') return { sentence: 'it brings money or sets some free' }
  const [needs, power] = [dollars(finding.value!.amount), dollars(finding.limit!.amount)]
  if (finding.why === 'enough') return { sentence: `needs ${needs} of ${power} buying power` }
  if (finding.why === 'enough cash') return { sentence: `needs ${needs} of ${power} that are free` }
  if (finding.why === 'not enough cash')
    return {
      sentence: `Not enough money: the order needs ${needs}, of which ${power} are free.`,
      mend: 'Order fewer, cancel a working order or close a position first.',
    }
  return {
    sentence: `Not enough buying power: the order needs ${needs}, there are ${power}.`,
    mend:
      finding.most > 0
        ? `Order at most ${finding.most}.`
        : 'Cancel a working order or close a position first.',
  }
}
