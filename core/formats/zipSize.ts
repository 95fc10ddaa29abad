const END = 0x06054b50
const ENTRY = 0x02014b50

/**
 * Bytes that the files of a ZIP archive say they unpack to, from its central directory, so that one which would fill
 * the memory is refused before it is unpacked. NaN where there is no directory, or it is cut off.
 * Source: PKWARE APPNOTE 6.3, sections 4.3.12 and 4.3.16 (ECMA-376 workbooks are such archives).
 */
export function unpackedSize(bytes: Uint8Array): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  let end = bytes.length - 22
  // A comment of at most 65,535 bytes may stand behind the directory's end.
  for (const last = Math.max(0, end - 65_535); end >= last; end--)
    if (view.getUint32(end, true) === END) break
  if (end < 0 || view.getUint32(end, true) !== END) return NaN
  const count = view.getUint16(end + 10, true)
  let at = view.getUint32(end + 16, true)
  let total = 0
  for (let k = 0; k < count; k++) {
    if (at + 46 > bytes.length || view.getUint32(at, true) !== ENTRY) return NaN
    total += view.getUint32(at + 24, true)
    at += 46 + view.getUint16(at + 28, true) + view.getUint16(at + 30, true) + view.getUint16(at + 32, true)
  }
  return total
}
