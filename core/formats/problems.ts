/** What is wrong with a file or message as a whole: a code and its facts; the words are in say.ts. */
export type FileProblem =
  | { code: 'archive_damaged' }
  | { code: 'archive_empty' }
  | { code: 'too_many_files'; files: number; limit: number }
  /** Sizes in bytes; `unpacked` where the file itself is small and what it holds is not. */
  | { code: 'too_large'; bytes: number; limit: number; unpacked: boolean }
  | { code: 'too_many_rows'; rows: number; limit: number }
  /** The line on which a quote is opened that is never closed. */
  | { code: 'quote_open'; line: number }
  | { code: 'no_header'; workbook: boolean }
  /** `columns` are missing; where `known` is there, these are the names that a file of this kind has. */
  | { code: 'columns_missing'; columns: readonly string[]; known?: readonly string[] }
  /** None of these columns is there, and one is needed. */
  | { code: 'no_figures'; columns: readonly string[] }
  | { code: 'old_workbook' }
  | { code: 'workbook_unreadable'; reason: string }
  | { code: 'not_fhb1' }
  | { code: 'cut_off' }
  | { code: 'timeframe_unknown'; every: string }
  | { code: 'price_too_large'; symbol: string; price: number }
  | { code: 'not_json' }
  /** A workspace file of another form: where, and what the schema says. */
  | { code: 'not_workspace'; place: string; reason: string }

/** A file that cannot be read or written as a whole. */
export class FileFailure extends Error {
  constructor(
    readonly problem: FileProblem,
    options?: ErrorOptions,
  ) {
    super(problem.code, options)
    this.name = 'FileFailure'
  }
}

/** Why a line of a file is left out. `field` is what the cell should hold, `text` what stands there. */
export type LineProblem =
  | { code: 'empty'; field: string }
  | { code: 'no_date'; text: string; field?: string; timed: boolean }
  | { code: 'no_clock'; text: string }
  | { code: 'no_number'; field: string; text: string }
  | { code: 'not_above_nought'; field: string; value: number | string }
  | { code: 'below_nought'; field: string; value: number | string }
  | { code: 'neither_yes_nor_no'; field: string; text: string }
  | { code: 'high_below_low'; high: number; low: number }
  | { code: 'high_inside'; high: number }
  | { code: 'low_inside'; low: number }
  /** The same time as an earlier line; of one security among several where `symbol` is there. */
  | { code: 'same_time'; line: number; symbol?: string }
  | { code: 'earlier_file'; symbol: string }
  | { code: 'no_columns'; columns: readonly string[] }

/** A line that is left out, and why. */
export interface BadLine {
  line: number
  problem: LineProblem
}

/** What is wrong with a cell of an orders file. */
export type CellProblem =
  | { code: 'empty'; field: 'symbol' | 'side' | 'quantity' }
  | { code: 'no_symbol'; text: string }
  | { code: 'unlisted' }
  | { code: 'no_side'; text: string }
  | { code: 'no_type'; text: string }
  | { code: 'no_time_in_force'; text: string }
  | { code: 'no_trail'; text: string }
  | { code: 'exits'; why: string }
  /** It waits for a price, and is to trade at once. */
  | { code: 'waits_and_at_once' }
  | { code: 'no_price'; text: string }
  /** The type of order that needs this price, or that alone has it. */
  | { code: 'price_needed'; type: string }
  | { code: 'price_unused'; type: string }
  | { code: 'share_range' }
  | { code: 'not_whole_shares'; text: string }
  | { code: 'no_quantity'; text: string }
  | { code: 'no_exit'; text: string }
  | { code: 'exit_unit'; text: string }
  | { code: 'percent_range' }
  | { code: 'ticks_whole' }
  | { code: 'risk_without_stop' }
  | { code: 'bad_id' }
  | { code: 'repeated_id'; line: number }
  | { code: 'too_long'; limit: number }
  /** What a check of the order says, in its own words. */
  | { code: 'check'; sentence: string }
