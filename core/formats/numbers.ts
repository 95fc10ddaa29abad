/**
 * A number as files write it: "1,234.5", "1234.5", "1.234,5", "0,7311"; NaN for anything else, and for an empty cell.
 * A comma before just three digits parts thousands, unless a nought stands before it.
 */
export function readNumber(text: string): number {
  let plain = text.replace(/[\s$€£]/g, '')
  if (
    /^-?\d{1,3}(\.\d{3})+,\d+$/.test(plain) ||
    (/^-?\d+,\d+$/.test(plain) && !/^-?[1-9]\d{0,2},\d{3}$/.test(plain))
  )
    plain = plain.replaceAll('.', '').replace(',', '.')
  else if (/^-?\d{1,3}(,\d{3})+(\.\d+)?$/.test(plain)) plain = plain.replaceAll(',', '')
  return /^-?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain) ? Number(plain) : NaN
}
