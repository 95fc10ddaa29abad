import { unzipSync } from 'fflate'

/**
 * Bytes that the files of a ZIP archive (every workbook of ECMA-376 is one) say they unpack to, so that one which would
 * fill the memory is refused before it is unpacked. NaN where the bytes are no archive, or are cut off.
 */
export function unpackedSize(bytes: Uint8Array): number {
  let total = 0
  try {
    unzipSync(bytes, { filter: ({ originalSize }) => ((total += originalSize), false) })
  } catch {
    return NaN
  }
  return total
}
