import { type Graph } from './graph'
import { type LiveBar } from './liveBar'
import { type Asked } from './sources'
import { askedOf, type LiveAbout, type Snapshot, StepMachine } from './steps'
import { bitsOf, fromBits } from './bits'

/** Slots up to which securities take turns: more are dearer to exchange than a machine of one's own. */
const MOST_SLOTS = 600

/**
 * One graph run step by step for many securities in turn: they share one machine, and each has its own memory, a short row of
 * numbers that is exchanged. Ten thousand machines do not fit where a processor is fast; ten thousand such rows do.
 */
export class Turns {
  private readonly machine: StepMachine
  private readonly fresh: Float64Array
  private holder: Turn | undefined

  /** Throws RangeError for what cannot be followed step by step. */
  constructor(
    readonly graph: Graph,
    private readonly zone: string,
    besideOf?: LiveAbout['besideOf'],
  ) {
    this.machine = new StepMachine(graph, { zone, besideOf })
    this.fresh = this.machine.slots.slice()
  }

  /** One more security, which remembers nothing yet. */
  join(about: Omit<LiveAbout, 'zone'>): Turn {
    const { graph, zone } = this
    // Days of another zone begin at other hours: it is followed by a machine of its own.
    const strange = graph.frames.some(
      ({ beside }) => beside !== undefined && (about.besideOf?.(beside)?.zone ?? zone) !== zone,
    )
    if (!strange && this.fresh.length <= MOST_SLOTS) return new Turn(this, this.fresh.slice(), askedOf(about))
    const own = new Turns(graph, zone, about.besideOf)
    return new Turn(own, own.fresh.slice(), askedOf(about))
  }

  /** The machine with the memory of a security. */
  holding(turn: Turn): StepMachine {
    const { holder, machine } = this
    if (holder === turn) return machine
    holder?.keep(machine.slots)
    machine.goOn(turn.memory, turn.asked)
    this.holder = turn
    return machine
  }
}

/** One security of those that take turns. */
export class Turn {
  private changed = false

  constructor(
    private readonly turns: Turns,
    readonly memory: Float64Array,
    readonly asked: Asked,
  ) {}

  /** Takes the next bar, or tries a tick of the growing one: see StepMachine. What was tried holds until another's turn. */
  feed(bar: LiveBar, keep: boolean, beside?: string): void {
    this.turns.holding(this).feed(bar, keep, beside)
    if (keep) this.changed = true
  }

  /** Value of a measure, or answer of a rule, by its place among the trees. */
  value(which: number): number {
    return this.turns.holding(this).value(which)
  }

  /** Called before another's turn: what has become of its memory. */
  keep(slots: Float64Array): void {
    if (!this.changed) return
    this.memory.set(slots)
    this.changed = false
  }

  save(): Snapshot {
    this.keep(this.turns.holding(this).slots)
    return { graph: this.turns.graph.fingerprint, slots: bitsOf(this.memory) }
  }

  /** Puts back what another of the same graph kept; false, and nothing changed, where it is of another. */
  restore({ graph, slots }: Snapshot): boolean {
    const { fingerprint } = this.turns.graph
    const machine = this.turns.holding(this)
    if (graph !== fingerprint || !fromBits(slots, this.memory)) return false
    this.changed = false
    machine.goOn(this.memory, this.asked)
    return true
  }
}
