import { readSync } from 'node:fs'
import { type FileHandle } from 'node:fs/promises'
import { crc32 } from 'node:zlib'

/**
 * How records lie in the journal: a head of 27 bytes (length of the document in bytes, its CRC-32, and the CRC-32 of the 17
 * bytes before, each as eight hexadecimal digits with a blank behind), the JSON document, a line feed. Any text tool shows
 * it. A record that ends with the file before its stated length was cut off in mid-write and never acknowledged; one of
 * full length whose checksum is wrong is damage. The head has a checksum of its own, so that a length that was damaged is not
 * taken for a record that was cut off.
 */
export const HEAD = 27

const hex = (value: number): string => value.toString(16).padStart(8, '0')

/** A record as it stands in the file. */
export function recordOf(entry: unknown): Buffer {
  const json = JSON.stringify(entry)
  const length = Buffer.byteLength(json)
  const record = Buffer.allocUnsafe(HEAD + length + 1)
  record.write(json, HEAD)
  const head = `${hex(length)} ${hex(crc32(record.subarray(HEAD, HEAD + length)))}`
  record.write(`${head} ${hex(crc32(head))} `, 'latin1')
  record[HEAD + length] = 10
  return record
}

/** What is wrong in a journal, and where. */
export class Damage extends Error {
  constructor(
    /** Its place among the records, from 1. */
    readonly record: number,
    /** Where it begins, in bytes. */
    readonly at: number,
    what: string,
  ) {
    super(what)
    this.name = 'Damage'
  }
}

/** Bytes that are read at once. */
const PIECE = 4 << 20

/**
 * Length of a file without the NULs at its end. A power cut can leave a file longer than what was written to it. No record
 * contains a NUL and each ends with a line feed, so a record that runs into NULs was never acknowledged.
 */
async function writtenLength(file: FileHandle): Promise<number> {
  let { size } = await file.stat()
  const piece = Buffer.allocUnsafe(64 * 1024)
  while (size > 0) {
    const { bytesRead } = await file.read(
      piece,
      0,
      Math.min(piece.length, size),
      Math.max(0, size - piece.length),
    )
    let last = bytesRead - 1
    while (last >= 0 && piece[last] === 0) last--
    if (last >= 0) return size - (bytesRead - 1 - last)
    size -= bytesRead
  }
  return 0
}

/**
 * Reads records from the beginning of a file, in pieces. Hands each to `take` with where it begins; gives where the last
 * whole one ends. Of those before `from` only the checksums are read. NULs at the end of the file are not read (see
 * `writtenLength`). Throws Damage at the first record that is damaged.
 */
export async function readRecords(
  file: FileHandle,
  take: (entry: unknown, at: number) => void,
  from = 0,
): Promise<number> {
  const end = await writtenLength(file)
  let [have, at, record] = [Buffer.alloc(0), 0, 1]
  for (let position = 0; ;) {
    const room = Buffer.allocUnsafe(have.length + PIECE)
    have.copy(room)
    const { bytesRead } = await file.read(room, have.length, Math.min(PIECE, end - position), position)
    if (bytesRead === 0) return at
    position += bytesRead
    const whole = room.subarray(0, have.length + bytesRead)
    let begin = 0
    for (;;) {
      const length = wholeLength(whole, begin, record, at)
      if (length === undefined) break
      const json = checkedOf(whole, begin, length, record, at)
      if (at >= from) take(JSON.parse(json.toString()), at)
      begin += length
      at += length
      record++
    }
    have = whole.subarray(begin)
  }
}

const text = (bytes: Buffer, at: number): string => bytes.toString('latin1', at, at + 8)

/** Bytes of the record that begins at a place in some bytes; undefined where not all of it is there. */
function wholeLength(bytes: Buffer, begin: number, record: number, at: number): number | undefined {
  if (bytes.length - begin < HEAD) return undefined
  const blanks = bytes[begin + 8] === 32 && bytes[begin + 17] === 32 && bytes[begin + 26] === 32
  if (!blanks || text(bytes, begin + 18) !== hex(crc32(bytes.subarray(begin, begin + 17))))
    throw new Damage(record, at, 'its head does not match its checksum')
  const length = HEAD + Number.parseInt(text(bytes, begin), 16) + 1
  return bytes.length - begin < length ? undefined : length
}

/** Reads the record that begins at a place, without waiting; it was read or written whole before. Throws Damage. */
export function recordAt(fd: number, at: number): unknown {
  const head = Buffer.alloc(HEAD)
  readSync(fd, head, 0, HEAD, at)
  const length = HEAD + Number.parseInt(head.toString('latin1', 0, 8), 16) + 1
  const bytes = Buffer.alloc(length)
  readSync(fd, bytes, 0, length, at)
  if (wholeLength(bytes, 0, 0, at) !== length) throw new Damage(0, at, 'it is not where it was')
  return JSON.parse(checkedOf(bytes, 0, length, 0, at).toString()) as unknown
}

/** The document of a record as bytes. Throws Damage where it is damaged. */
function checkedOf(bytes: Buffer, begin: number, length: number, record: number, at: number): Buffer {
  const end = begin + length - 1
  const json = bytes.subarray(begin + HEAD, end)
  if (hex(crc32(json)) !== text(bytes, begin + 9))
    throw new Damage(record, at, 'its content does not match its checksum')
  if (bytes[end] !== 10) throw new Damage(record, at, 'it does not end with a line feed')
  return json
}
