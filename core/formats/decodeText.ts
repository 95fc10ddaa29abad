/** The encoding that a byte order mark names; undefined without one. Source: Unicode Standard, section 23.8. */
function marked(bytes: Uint8Array): string | undefined {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le'
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be'
  return undefined
}

/**
 * Text of a file: UTF-8, UTF-16 where its mark says so, and where the bytes are no UTF-8 the usual single-byte form of
 * older programs (windows-1252). The mark itself is left out.
 */
export function decodeText(bytes: Uint8Array): string {
  const encoding = marked(bytes)
  if (encoding) return new TextDecoder(encoding).decode(bytes)
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}
