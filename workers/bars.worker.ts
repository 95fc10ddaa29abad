import { isZip, unpackTexts } from '@/core/formats/archive'
import { NO_COLUMNS } from '@/core/formats/barColumns'
import { columnsOf, firstLines, openBarsText, type ReadFile, readFiles } from '@/core/formats/barFiles'
import { decodeText } from '@/core/formats/decodeText'
import { FileFailure } from '@/core/formats/problems'
import { problemOf } from './problems'
import { type BarsAnswer, type BarsRequest, type Opened } from './bars.protocol'

/** Reads bars from CSV files away from the page; the text stays here, only columns of numbers go back. */

let files: ReadFile[] = []

async function open(chosen: (File | ReadFile)[], rowLimit: number): Promise<Opened> {
  files = []
  const failed: Opened['failed'] = []
  for (const file of chosen) {
    try {
      for (const part of 'grid' in file
        ? [file]
        : textsOf(file.name, new Uint8Array(await file.arrayBuffer()))) {
        const one = 'grid' in part ? part : openBarsText(part.name, decodeText(part.bytes))
        const rows = one.grid.rows.length
        if (rows > rowLimit) throw new FileFailure({ code: 'too_many_rows', rows, limit: rowLimit })
        files.push(one)
      }
    } catch (error) {
      failed.push({ file: file.name, problem: problemOf(error) })
    }
  }
  const [first] = files
  return {
    names: files.map((file) => file.name),
    columns: first?.grid.columns ?? [],
    map: first ? columnsOf(first) : { ...NO_COLUMNS },
    headed: first?.headed ?? true,
    first: first ? firstLines(first) : [],
    failed,
  }
}

/** The texts that a file holds: itself, or those of an archive. */
const textsOf = (name: string, bytes: Uint8Array) => (isZip(bytes) ? unpackTexts(bytes) : [{ name, bytes }])

async function handle(request: BarsRequest): Promise<BarsAnswer> {
  const { id } = request
  if (request.ask === 'open') return { id, ok: true, value: await open(request.files, request.rowLimit) }
  return { id, ok: true, value: readFiles(files, request.map, request.zone) }
}

globalThis.onmessage = async (event: MessageEvent<BarsRequest>) => {
  try {
    postMessage(await handle(event.data))
  } catch (error) {
    postMessage({ id: event.data.id, ok: false, problem: problemOf(error) } satisfies BarsAnswer)
  }
}
