import { type Origin } from '../orders/model'
import { sha256 } from '@noble/hashes/sha2.js'
import { utf8ToBytes } from '@noble/hashes/utils.js'

/** What an order of a plan is for. The plan's version is no part of it: a mended one cannot double an order. */
export interface OrderParts {
  planId: string
  symbol: string
  /** Session date of the venue. */
  date: string
  /** Start of the bar in which the condition began, with an ordinal: "2026-03-16T10:30:00-03:00 1". */
  signal: string
  /** From 0. */
  leg: number
  role: 'entry' | 'out' | 'move'
}

/** Letters that an order can tell of its signal; its id is made of the whole. */
const MOST_SIGNAL = 80
/** And of its rule. */
const MOST_RULE = 400

/** What led to an order of a plan, as the order tells it: by this the plan knows it again. */
export function originOf(
  { id, name, version }: { id: string; name: string; version: number },
  role: OrderParts['role'],
  signal: string,
  rule?: string,
): Origin {
  const own = `${id} ${role} ${signal}`
  const origin: Origin = {
    from: 'Plan',
    name,
    version: String(version),
    signal: own.length > MOST_SIGNAL ? own.slice(0, MOST_SIGNAL) : own,
  }
  if (rule !== undefined) origin.rule = rule.length > MOST_RULE ? rule.slice(0, MOST_RULE) : rule
  return origin
}

/** The plan, the part and the signal that an order was sent for; undefined where it is of no plan. */
export function sentFor(
  origin: Origin | undefined,
): { planId: string; role: 'entry' | 'out'; signal: string } | undefined {
  const [, planId, role, signal] = /^([a-z0-9-]+) (entry|out) (.*)$/.exec(origin?.signal ?? '') ?? []
  return origin?.from === 'Plan' && planId ? { planId, role: role as 'entry' | 'out', signal } : undefined
}

/** RFC 4648, small letters. */
const BASE32 = 'abcdefghijklmnopqrstuvwxyz234567'
const LENGTH = 26

/** The client order id of a plan's order: the same parts give the same id, so that a restart, a second tab or a replay cannot double it. */
export function planOrderId({ planId, symbol, date, signal, leg, role }: OrderParts): string {
  const bytes = sha256(utf8ToBytes(JSON.stringify([planId, symbol, date, signal, leg, role])))
  let [text, bits, held] = ['', 0, 0]
  for (const byte of bytes) {
    held = (held << 8) | byte
    bits += 8
    for (; bits >= 5 && text.length < LENGTH; bits -= 5) text += BASE32[(held >> (bits - 5)) & 31]
    held &= (1 << bits) - 1
  }
  return `p.${text}`
}
