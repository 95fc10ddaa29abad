import { type Unit } from '../../indicators/types'
import { type CandidateName, type MarketName } from '../../market/candidate'
import { type NameWord } from './types'

/** The very order that would be sent: what gates ask about. */
const asked = (name: CandidateName, unit: Unit, doc: string, unknown: string, also: string[]): NameWord => ({
  kind: 'name',
  about: 'order',
  name,
  unit,
  doc,
  source: 'The order and its account, as they are checked',
  also,
  unknown: `no order is being checked${unknown && `, or ${unknown}`}`,
  opposite: { goes: 'neither way' },
  from: { of: 'candidate', what: name },
})

/** How the market stands together: what gates of plans ask about as well. */
const ofMarket = (name: MarketName, unit: Unit, doc: string, also: string[]): NameWord => ({
  ...asked(
    name,
    unit,
    `${doc} Of all stocks of the venue, as its last complete session left them.`,
    '',
    also,
  ),
  unknown: 'how the market stands is not known here: gates of plans ask it',
})

export const CANDIDATE_WORDS: readonly NameWord[] = [
  {
    ...asked(
      'days to report',
      'number',
      'Days of the calendar to the next report of earnings of the company; 0 on its day.',
      '',
      ['days to an event', 'earnings gate'],
    ),
    unknown: 'no date of a coming report is known here: gates of plans ask it',
  },
  ofMarket('breadth', 'percent', 'Share of closes above their average of 50 sessions.', ['market breadth']),
  ofMarket('slow breadth', 'percent', 'Share of closes above their average of 200 sessions.', [
    'market breadth',
    'long term breadth',
  ]),
  ofMarket('advancing share', 'percent', 'Those that rose in percent of those that rose or fell.', [
    'advance decline',
    'advancers',
  ]),
  ofMarket(
    'market lean',
    'number',
    '1 where the market leans up, -1 where it leans down, 0 where it does neither: by new highs of a year against new lows over five sessions.',
    ['lean of the market', 'market direction'],
  ),
  asked('order quantity', 'shares', 'Shares, contracts or units of the order.', '', ['order size']),
  asked(
    'order value',
    'money',
    'What the order comes to where it would likely trade, in the currency of the account; of several legs all of them added.',
    'no price is known',
    ['notional', 'order cost'],
  ),
  asked(
    'price away',
    'percent',
    'How far the price of the order, or its stop price, lies from the last price, either way; 0 at the market.',
    'no price is known',
    ['price collar', 'distance from last'],
  ),
  asked(
    'quoted spread',
    'percent',
    'The ask less the bid, in percent of their middle; of several legs that of their net price.',
    'there is no quote',
    ['spread', 'bid ask spread'],
  ),
  asked(
    'quoted middle',
    'price',
    'The middle of bid and ask; of several legs that of their net price, below 0 where it is received.',
    'there is no quote',
    ['mid', 'midpoint'],
  ),
  asked(
    'order loss',
    'money',
    'What is lost between entry and stop; of bought contracts all that they cost, of a multi-leg order what it keeps.',
    'it has no stop',
    ['largest loss', 'max loss', 'risk'],
  ),
  asked(
    'entries today',
    'number',
    'Opening orders of the security that the account has taken this session, before this one.',
    '',
    ['trades today', 'entries per day'],
  ),
  asked(
    'orders this minute',
    'number',
    'Orders of the account in the last minute of market time, before this one.',
    '',
    ['orders a minute', 'order rate'],
  ),
  asked(
    'minutes since same',
    'number',
    'Minutes since the account has taken an order of the same security, side and quantity; more than any number where there was none this session.',
    '',
    ['same order again', 'duplicate order'],
  ),
  asked(
    'net credit',
    'price',
    'What one unit of several legs brings, option prices a share; below 0 where it is paid. At the limit of the order, else where it would likely trade.',
    'it has not several legs or one of them has no quote',
    ['credit', 'premium received', 'net price'],
  ),
  asked(
    'return on risk',
    'percent',
    'The most that it can gain in percent of the most that it can lose: of several legs until their contracts end, else between target and stop.',
    'one of the two has no bound',
    ['reward to risk', 'max return', 'return on margin'],
  ),
  asked(
    'days to expiry',
    'number',
    'Days of the calendar until the first of its contracts ends.',
    'there is no contract in it',
    ['dte', 'days left'],
  ),
]
