import { type CellProblem, type FileProblem, type LineProblem } from './problems'

const MB = 1024 * 1024
const megabytes = (bytes: number): string => `${Math.round(bytes / MB)} MB`
const count = (n: number): string => n.toLocaleString('en-US')
const quoted = (text: string): string => `"${text.slice(0, 30)}"`

/** A sentence about a file as a whole: what is wrong, and what mends it. */
export function sayFile(problem: FileProblem): string {
  switch (problem.code) {
    case 'archive_damaged':
      return 'The archive is damaged. Pack it again.'
    case 'archive_empty':
      return 'The archive holds no CSV or text files.'
    case 'too_many_files':
      return `It holds ${count(problem.files)} files; at most ${count(problem.limit)} are read. Split it.`
    case 'too_large':
      return `It ${problem.unpacked ? 'would unpack to' : 'has'} ${megabytes(problem.bytes)}; at most ${megabytes(problem.limit)} are read. Split it.`
    case 'too_many_rows':
      return `It has ${count(problem.rows)} rows; at most ${count(problem.limit)} are read. Split it.`
    case 'quote_open':
      return `A quote that is opened on line ${problem.line} is never closed. Close it and read the file again.`
    case 'no_header':
      return problem.workbook
        ? 'Its first sheet has no header row. Name the columns in row 1.'
        : 'The file has no header line. Name the columns on its first line.'
    case 'columns_missing': {
      const missing = problem.columns.map((column) => `"${column}"`).join(' and no ')
      return `The file has no column ${missing}. ${
        problem.known
          ? `Name its columns as in the template: ${problem.known.join(', ')}.`
          : 'Name one so on its first line.'
      }`
    }
    case 'no_figures': {
      const [last, ...others] = problem.columns.map((column) => `"${column}"`).reverse()
      return `The file has no column of figures. Name some ${others.reverse().join(', ')} or ${last}.`
    }
    case 'old_workbook':
      return 'It is a workbook of the old binary form. Save it as .xlsx or .csv.'
    case 'workbook_unreadable':
      return `It cannot be read as a workbook: ${problem.reason}. Save it again as .xlsx, or as .csv.`
    case 'not_fhb1':
      return 'These are not bars in the FHB1 form'
    case 'cut_off':
      return 'The bars were cut off on the way; ask again'
    case 'timeframe_unknown':
      return `The bars name an unknown timeframe, "${problem.every}"`
    case 'not_json':
      return 'This is not a workspace file: it is not JSON. Choose a file that "Save the workspace" made.'
    case 'not_workspace':
      return `This is not a workspace file: ${problem.place || 'the file'}: ${problem.reason}. Nothing was changed.`
    case 'price_too_large':
      return `${problem.symbol}: a price of ${problem.price} does not fit this form; ask for JSON`
  }
}

/** Why a line is left out, as the end of a sentence. */
export function sayLine(problem: LineProblem): string {
  switch (problem.code) {
    case 'empty':
      return problem.field === 'symbol' || problem.field === 'date' || problem.field === 'time'
        ? `the ${problem.field} is empty`
        : `${problem.field} is empty`
    case 'no_date':
      return `${problem.field ? `${problem.field} ` : ''}${quoted(problem.text)} is not a date${problem.timed ? ' or time' : '; write it as 2026-03-02'}`
    case 'no_clock':
      return `${quoted(problem.text)} is not a time of day`
    case 'no_number':
      return `${problem.field} ${quoted(problem.text)} is not a number`
    case 'not_above_nought':
      return `${problem.field} ${problem.value} is not above nought`
    case 'below_nought':
      return `${problem.field} ${problem.value} is below nought`
    case 'neither_yes_nor_no':
      return `${problem.field} ${quoted(problem.text)} is neither yes nor no`
    case 'high_below_low':
      return `high ${problem.high} is below low ${problem.low}`
    case 'high_inside':
      return `high ${problem.high} is below the open or close`
    case 'low_inside':
      return `low ${problem.low} is above the open or close`
    case 'same_time':
      return `the same time as line ${problem.line}${problem.symbol ? ` for ${problem.symbol}` : ''}; the first is kept`
    case 'earlier_file':
      return `${problem.symbol} came in an earlier file already; the first is kept`
    case 'no_columns':
      return `no column for ${problem.columns.join(', ')}`
  }
}

/** What is wrong with a cell of an orders file, and how to write it. */
export function sayCell(problem: CellProblem): string {
  switch (problem.code) {
    case 'empty':
      return problem.field === 'side' ? 'say buy, sell or sell short' : `the ${problem.field} is empty`
    case 'no_symbol':
      return `"${problem.text}" is no symbol`
    case 'unlisted':
      return 'not listed on any venue here'
    case 'no_side':
      return `"${problem.text}" is not buy, sell or sell short`
    case 'no_type':
      return `"${problem.text}" is not market, limit, stop, stop limit or trailing stop`
    case 'no_time_in_force':
      return `"${problem.text}" is not day, GoodTillCancel, a date, 5 sessions, ImmediateOrCancel, FillOrKill, at the opening or at the close`
    case 'no_trail':
      return `"${problem.text}": how far does it stay behind? Write 2% or 0.45`
    case 'exits':
      return problem.why
    case 'waits_and_at_once':
      return 'a stop waits for its price: say day, GoodTillCancel or a date'
    case 'no_price':
      return `"${problem.text}" is not a price`
    case 'price_needed':
      return `a ${problem.type.toLowerCase()} order needs this price`
    case 'price_unused':
      return `only a ${problem.type.toLowerCase()} order has this price; empty it or change the type`
    case 'share_range':
      return 'the share must be above 0 and at most 100 %'
    case 'not_whole_shares':
      return `${problem.text} is not a whole number of shares`
    case 'no_quantity':
      return `"${problem.text}": write 100, 0.8% risk or 10% equity`
    case 'no_exit':
      return `"${problem.text}": write 3%, 40 ticks, $47.80, 0.75 a share, 150 in all, trailing 3% (stop) or 2.5R (target)`
    case 'exit_unit':
      return `${problem.text} of what? Write ${problem.text}%, ${problem.text} ticks, ${problem.text} a share or $${problem.text}`
    case 'percent_range':
      return 'a distance in percent is below 100'
    case 'ticks_whole':
      return 'ticks are whole'
    case 'risk_without_stop':
      return 'sizing by risk needs a stop'
    case 'bad_id':
      return 'use 1 to 64 letters, digits or . _ : -'
    case 'repeated_id':
      return `the same id as line ${problem.line}`
    case 'too_long':
      return `at most ${problem.limit} characters`
    case 'check':
      return problem.sentence
  }
}
