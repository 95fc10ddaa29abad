import { type World } from '../world'
import { type Bearer } from '../keys/tokens'
import { Problem } from './problems'

/** Streams that one key may have open at once. Streams that share a connection count one by one. */
export const MOST_STREAMS = 64

/** How often open streams are checked for keys that are no longer valid, in real milliseconds. */
const LOOKED_EVERY = 400

/** One open stream. */
export interface Follower {
  world: World
  bearer: Bearer
  remote: string | undefined
  /** Ends the stream; `why` is a sentence. */
  end(why: string): void
}

/** All open streams: ends each one with its key or its world, and keeps any key from having too many. */
export class OpenStreams {
  private readonly open = new Set<Follower>()
  private timer: NodeJS.Timeout | undefined

  /** `isOver` says why a stream must end; undefined if it may go on. */
  constructor(private readonly isOver: (follower: Follower) => string | undefined) {}

  /** Throws Problem if the key has no stream left. */
  check(keyId: string): void {
    const count = [...this.open].filter(({ bearer }) => bearer.keyId === keyId).length
    if (count < MOST_STREAMS) return
    throw new Problem(
      'too-many-streams',
      `The key ${keyId} has ${MOST_STREAMS} streams open, as many as a key may.`,
      'End one first, or follow more securities in one stream.',
    )
  }

  /** Registers a stream; returns a function that removes it. */
  add(follower: Follower): () => void {
    this.open.add(follower)
    this.timer ??= setInterval(() => this.look(), LOOKED_EVERY).unref()
    return () => {
      this.open.delete(follower)
      if (this.open.size > 0) return
      clearInterval(this.timer)
      this.timer = undefined
    }
  }

  /** How many streams of a world are open. */
  countOf = (world: World): number => [...this.open].filter((one) => one.world === world).length

  /** Ends the streams whose key is no longer valid, or whose world is gone. */
  private look(): void {
    for (const follower of [...this.open]) {
      const why = this.isOver(follower)
      if (why !== undefined) follower.end(why)
    }
  }
}
