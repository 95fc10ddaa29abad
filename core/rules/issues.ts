import { type Span } from './tree'

/** What is wrong with a rule, as data; the words are in say.ts. */
export type Issue = { at: Span } & (
  | { code: 'empty' }
  | { code: 'unknown_sign'; sign: string }
  | { code: 'unexpected'; found: string; wanted: string }
  | { code: 'too_deep'; limit: number }
  | { code: 'too_long'; limit: number }
  | { code: 'bad_time'; text: string }
  | { code: 'bad_count'; text: string }
  | { code: 'bad_date'; text: string }
  | { code: 'chained_comparison' }
  | { code: 'unknown_name'; name: string; near: string[] }
  | { code: 'needs_arguments'; name: string; usage: string }
  | { code: 'argument_count'; name: string; usage: string; given: number }
  | { code: 'wants_plain_number'; name: string; parameter: string; usage: string }
  | { code: 'wants_minutes'; name: string; parameter: string; usage: string }
  | { code: 'parameter_range'; name: string; parameter: string; min: number; max: number; whole: boolean }
  | { code: 'wants_duration'; name: string; usage: string; barsOnly: boolean }
  | { code: 'wants_timeframe'; usage: string }
  | { code: 'finer_than_bars'; asked: string; bars: string }
  | { code: 'unknown_output'; name: string; output: string; outputs: string[] }
  | { code: 'wants_yes_no'; found: string }
  | { code: 'wants_number'; found: string }
  | { code: 'unit_mismatch'; doing: 'add' | 'compare'; left: string; right: string; percentOf?: string }
  | { code: 'currency_mismatch'; left: string; right: string }
  | { code: 'misplaced_literal'; what: 'duration' | 'time' | 'text' }
  | { code: 'wants_text'; name: string; usage: string; what: 'symbol' | 'drawn' }
  | { code: 'unknown_symbol'; symbol: string; near: string[] }
  | { code: 'unknown_drawing'; drawing: string; names: string[] }
  | { code: 'no_arithmetic'; unit: string }
  | { code: 'too_far_back'; bars: number; limit: number }
)
