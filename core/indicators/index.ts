import { atr } from './atr'
import { ema, sma, wma } from './averages'
import { bollinger } from './bollinger'
import { donchian, ichimoku, keltner, truerange } from './channels'
import { beta, correlation, hedge, strength, volatility } from './compared'
import { highest, lowest, newHigh, newLow } from './extremes'
import { accumulation, chaikin, moneyFlow } from './flow'
import { macd, ppo } from './macd'
import { obv } from './obv'
import { opening } from './opening'
import { cci, momentum, stochastic, stochasticRsi, williams } from './oscillators'
import { makeRegistry } from './registry'
import { deviation, regression, zscore } from './regression'
import { roc } from './roc'
import { rsi } from './rsi'
import { gap, gapDown, gapUp, pivots, prior, vwap } from './session'
import { dema, hull, kaufman, tema, wilder } from './smoothed'
import { resistance, support, swing, trend, trendDown, trendSideways, trendUp } from './swings'
import { adx, aroon, parabolic } from './trend'
import { relvolume, usualVolume } from './usualVolume'

/** Every indicator that rule text knows. */
export const INDICATORS = makeRegistry([
  ...[sma, ema, wma, wilder, hull, kaufman, dema, tema],
  ...[regression, deviation, zscore],
  ...[bollinger, keltner, donchian, ichimoku],
  ...[truerange, atr, adx, aroon, parabolic],
  ...[rsi, stochastic, stochasticRsi, macd, ppo, roc, momentum, cci, williams],
  ...[obv, accumulation, chaikin, moneyFlow],
  ...[highest, lowest, newHigh, newLow, volatility],
  ...[vwap, prior, pivots, opening, gap, gapUp, gapDown, relvolume, usualVolume],
  ...[swing, support, resistance, trend, trendUp, trendDown, trendSideways],
  ...[correlation, beta, strength, hedge],
])
