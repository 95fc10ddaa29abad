import { type ReadFile } from '@/core/formats/barFiles'
import { type ColumnMap } from '@/core/formats/barColumns'
import { type BarsRequest, type Opened, type ReadBarFiles } from './bars.protocol'
import { Requests } from './requests'

/** Files of bars that lie open in a worker, to be read as often as the choice of columns changes. */
export class BarsReader {
  private readonly requests = new Requests<BarsRequest>(
    () => new Worker(new URL('./bars.worker.ts', import.meta.url), { type: 'module' }),
  )

  open = (files: (File | ReadFile)[], rowLimit: number) =>
    this.requests.ask<Opened>({ ask: 'open', files, rowLimit })

  read = (map: ColumnMap, zone: string) => this.requests.ask<ReadBarFiles>({ ask: 'read', map, zone })

  /** Lets go of the files. */
  close = (): void => this.requests.end()
}
