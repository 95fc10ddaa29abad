import { unzipSync } from 'fflate'
import { FileFailure } from './problems'
import { unpackedSize } from './zipSize'

/** Files that one archive may hold, and bytes that they may unpack to. */
const MOST_FILES = 5_000
const MOST_BYTES = 600 * 1024 * 1024

/** Whether bytes begin as a ZIP archive does, as every workbook of ECMA-376 is one. */
export const isZip = (bytes: Uint8Array): boolean => bytes[0] === 0x50 && bytes[1] === 0x4b

/** Whether an archive is a workbook: it holds the list of parts that ECMA-376 asks for. */
export function isWorkbook(bytes: Uint8Array): boolean {
  let found = false
  try {
    unzipSync(bytes, { filter: ({ name }) => ((found ||= name === '[Content_Types].xml'), false) })
  } catch {
    return false
  }
  return found
}

/**
 * The text files of an archive by their names without folders, in order of name; what is hidden, and what is neither
 * CSV nor text, is passed over. Throws FileFailure where it is damaged, holds none, or would fill the memory.
 */
export function unpackTexts(bytes: Uint8Array): { name: string; bytes: Uint8Array }[] {
  const unpacked = unpackedSize(bytes)
  if (Number.isNaN(unpacked)) throw new FileFailure({ code: 'archive_damaged' })
  if (unpacked > MOST_BYTES)
    throw new FileFailure({ code: 'too_large', bytes: unpacked, limit: MOST_BYTES, unpacked: true })
  const files = unzipSync(bytes, {
    filter: ({ name }) => /\.(csv|txt|tsv|prn)$/i.test(name) && !/(^|\/)[._]/.test(name),
  })
  const names = Object.keys(files).sort()
  if (names.length === 0) throw new FileFailure({ code: 'archive_empty' })
  if (names.length > MOST_FILES)
    throw new FileFailure({ code: 'too_many_files', files: names.length, limit: MOST_FILES })
  return names.map((name) => ({ name: name.slice(name.lastIndexOf('/') + 1), bytes: files[name] }))
}
