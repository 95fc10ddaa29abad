import { type ReadFile, readFiles } from '@/core/formats/barFiles'
import { matchColumns } from '@/core/formats/barsCsv'
import { readCsv } from '@/core/formats/csv'
import { type BarsAnswer, type BarsRequest, type Opened } from './bars.protocol'

/** Reads bars from CSV files away from the page; the text stays here, only columns of numbers go back. */

let files: ReadFile[] = []

async function open(chosen: (File | ReadFile)[], rowLimit: number): Promise<Opened> {
  files = []
  const failed: string[] = []
  for (const file of chosen) {
    try {
      const grid = 'grid' in file ? file.grid : readCsv(await file.text())
      const rows = grid.rows.length
      if (rows > rowLimit)
        throw new RangeError(
          `${rows.toLocaleString('en-US')} rows; at most ${rowLimit.toLocaleString('en-US')} are read. Split it.`,
        )
      files.push({ name: file.name, grid })
    } catch (error) {
      failed.push(`${file.name}: ${(error as Error).message}`)
    }
  }
  const columns = files[0]?.grid.columns ?? []
  return { names: files.map((file) => file.name), columns, map: matchColumns(columns), failed }
}

async function handle(request: BarsRequest): Promise<BarsAnswer> {
  const { id } = request
  if (request.ask === 'open') return { id, ok: true, value: await open(request.files, request.rowLimit) }
  return { id, ok: true, value: readFiles(files, request.map, request.zone) }
}

onmessage = async (event: MessageEvent<BarsRequest>) => {
  try {
    postMessage(await handle(event.data))
  } catch (error) {
    postMessage({ id: event.data.id, ok: false, problem: (error as Error).message } satisfies BarsAnswer)
  }
}
