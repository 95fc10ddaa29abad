import { ENTRIES, type Entry } from './catalogue'

/** What measures are also called, by their name in rule text: usual abbreviations and names of the trade. */
const ALSO: Record<string, readonly string[]> = {
  sma: ['simple moving average', 'ma', 'moving average', 'mean', 'average'],
  ema: ['exponential moving average', 'ewma', 'average'],
  wma: ['weighted moving average', 'linear weighted', 'average'],
  wilder: ['rma', 'smma', 'smoothed moving average'],
  hull: ['hma', 'hull moving average'],
  kaufman: ['kama', 'adaptive moving average'],
  dema: ['double exponential'],
  tema: ['triple exponential'],
  regression: ['linear regression', 'trend line', 'least squares', 'slope', 'r squared', 'linreg'],
  deviation: ['standard deviation', 'stdev', 'std', 'sigma'],
  zscore: ['z score', 'standard score'],
  bollinger: ['bollinger bands', 'bb', 'bands'],
  keltner: ['keltner channel', 'kc'],
  donchian: ['donchian channel', 'price channel', 'breakout channel'],
  ichimoku: ['cloud', 'kumo', 'tenkan', 'kijun', 'senkou'],
  truerange: ['tr', 'true range'],
  atr: ['average true range', 'volatility'],
  adx: ['average directional index', 'dmi', 'directional movement', '+di', '-di'],
  aroon: ['aroon oscillator'],
  parabolic: ['sar', 'psar', 'stop and reverse'],
  rsi: ['relative strength index', 'overbought', 'oversold'],
  stochastic: ['%k', '%d', 'stochastics', 'kd'],
  stochrsi: ['stochastic rsi'],
  macd: ['moving average convergence divergence', 'convergence', 'divergence'],
  ppo: ['percentage price oscillator'],
  roc: ['rate of change', 'percent change', 'change', 'return'],
  momentum: ['mom', 'difference'],
  cci: ['commodity channel index'],
  williams: ['%r', 'percent r', 'williams r'],
  obv: ['on balance volume'],
  accumulation: ['ad', 'a/d', 'accumulation distribution', 'adl'],
  chaikin: ['cmf', 'chaikin money flow'],
  moneyflow: ['mfi', 'money flow index'],
  highest: ['max', 'maximum', 'hhv'],
  lowest: ['min', 'minimum', 'llv'],
  'new high': ['52 week high', 'year high', 'breakout'],
  'new low': ['52 week low', 'year low', 'breakdown'],
  volatility: ['historical volatility', 'hv', 'realised volatility', 'annualised'],
  vwap: ['volume weighted average price'],
  vwapsince: ['anchored vwap', 'avwap'],
  prior: ['previous day', 'yesterday', 'session before'],
  pivots: ['pivot points', 'floor pivots', 'support', 'resistance'],
  opening: ['opening range', 'orb', 'first minutes'],
  gap: ['gap percent', 'overnight'],
  relvolume: ['relative volume', 'rvol'],
  usualvolume: ['relative volume at time', 'rvol', 'time of day volume'],
  swing: ['zigzag', 'turning points', 'fractal', 'pivots high low'],
  support: ['support level'],
  resistance: ['resistance level'],
  trend: ['dow theory', 'higher highs'],
  correlation: ['pearson', 'corr'],
  strength: ['relative strength', 'outperformance', 'rs'],
  hedge: ['pair', 'spread', 'cointegration', 'half life'],
  earlier: ['ref', 'lag', 'previous', 'ago', 'offset'],
  on: ['timeframe', 'higher timeframe', 'weekly'],
  beside: ['other symbol', 'index', 'benchmark'],
  least: ['min', 'minimum'],
  greatest: ['max', 'maximum'],
  abs: ['absolute'],
  'market value': ['market cap', 'capitalisation'],
  'shares outstanding': ['shares'],
  'earnings per share': ['eps'],
  'days to earnings': ['earnings date', 'next report'],
}

const plain = (text: string): string => text.toLowerCase().replace(/[-_.]/g, ' ').trim()

/** How well a name fits what is asked for; smaller is better, undefined where it does not. */
function fit(entry: Entry, asked: string): number | undefined {
  const name = plain(entry.name)
  if (name === asked) return 0
  if (name.startsWith(asked)) return 1
  const also = ALSO[entry.name] ?? []
  if (also.includes(asked)) return 2
  if (also.some((one) => one.startsWith(asked) || one.includes(` ${asked}`))) return 3
  if (name.includes(asked)) return 4
  if (asked.length < 3) return undefined
  if (also.some((one) => one.includes(asked))) return 5
  return plain(entry.doc).includes(asked) ? 6 : undefined
}

/** Names of rule text that fit a word: by their name, by what they are also called, by part of their explanation. */
export function search(word: string, entries: readonly Entry[] = ENTRIES): Entry[] {
  const asked = plain(word)
  if (asked === '') return [...entries]
  return entries
    .map((entry) => ({ entry, far: fit(entry, asked) }))
    .filter((one): one is { entry: Entry; far: number } => one.far !== undefined)
    .sort((a, b) => a.far - b.far)
    .map(({ entry }) => entry)
}
