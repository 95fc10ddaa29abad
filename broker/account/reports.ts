import { orderAfter } from '@/core/book/orderAfter'
import { numberOf } from '@/core/book/working'
import { type ExecutionReport, type Order } from '@/core/orders/model'

/** Reports of an account that are held in memory at least; those before are read from the disk where they are asked for. */
const TAIL = 20_000

/** Numbers that grow in number. */
class Growing {
  constructor(
    private values: Float64Array = new Float64Array(1024),
    public length = 0,
  ) {}

  static of = (list: Float64Array): Growing => new Growing(list, list.length)

  get = (i: number): number => (i < this.length ? this.values[i] : 0)

  set(i: number, value: number): void {
    if (i >= this.values.length) {
      const more = new Float64Array(Math.max(1024, 2 * i))
      more.set(this.values)
      this.values = more
    }
    this.values[i] = value
    this.length = Math.max(this.length, i + 1)
  }

  list = (): Float64Array => this.values.slice(0, this.length)
}

/**
 * All reports of an account, in order: the last ones in memory, where each lies in the journal, and which are of one
 * order, so that an order of the past is put together from the disk when it is asked for.
 */
export class Reports {
  private tail: ExecutionReport[] = []
  /** By seq: where it begins in the journal, and the report of the same order that came before (0: none). */
  private places = new Growing()
  private before = new Growing()
  /** By order number: the seq of its last report. */
  private last = new Growing()

  constructor(private readonly readAt: (place: number) => ExecutionReport) {}

  get length(): number {
    return this.places.length === 0 ? 0 : this.places.length - 1
  }

  /** The last report that came; undefined where none did. */
  get newest(): ExecutionReport | undefined {
    return this.length === 0 ? undefined : this.get(this.length)
  }

  /** Takes the next report. Throws RangeError for any other: readers are told reports in the order of their numbers. */
  push(report: ExecutionReport, place: number): void {
    const { seq } = report
    if (seq !== this.length + 1) throw new RangeError(`Report ${seq} came after report ${this.length}`)
    const number = numberOf(report.orderId)
    this.places.set(seq, place)
    this.before.set(seq, this.last.get(number))
    this.last.set(number, seq)
    this.tail.push(report)
    if (this.tail.length > 2 * TAIL) this.tail = this.tail.slice(-TAIL)
  }

  /** A report by its seq. */
  get(seq: number): ExecutionReport {
    const first = this.length - this.tail.length + 1
    return seq >= first ? this.tail[seq - first] : this.readAt(this.places.get(seq))
  }

  /** An order as its reports tell it; undefined where there is none of that number. */
  order(number: number): Order | undefined {
    const seqs: number[] = []
    for (let seq = this.last.get(number); seq > 0; seq = this.before.get(seq)) seqs.unshift(seq)
    return seqs.reduce<Order | undefined>((order, seq) => orderAfter(order, this.get(seq)), undefined)
  }

  /** What a snapshot keeps of it. */
  lists = (): Float64Array[] => [this.places, this.before, this.last].map((one) => one.list())

  restore([places, before, last]: readonly Float64Array[]): void {
    this.tail = []
    ;[this.places, this.before, this.last] = [places, before, last].map(Growing.of)
  }
}
