/** Base64 of RFC 4648, section 4, over the bytes of doubles; little-endian, as every machine that runs this. */
const SIGNS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'
const CODES = Uint8Array.from(SIGNS, (sign) => sign.charCodeAt(0))
/** Two signs at a time, by twelve bits. */
const PAIRS = Uint16Array.from({ length: 4096 }, (_, bits) => CODES[bits >> 6] | (CODES[bits & 63] << 8))
/** The six bits of a sign; more than six for what is none. */
const VALUES = new Uint8Array(256).fill(255)
CODES.forEach((code, value) => (VALUES[code] = value))
const PAD = '='.charCodeAt(0)

const latin = new TextDecoder('latin1')
const encoder = new TextEncoder()

/** Room to work in, kept between calls: for so many doubles, their bytes and the signs of those. */
let room = makeRoom(1024)

function makeRoom(n: number) {
  const doubles = new Float64Array(n)
  const signs = new Uint8Array(Math.ceil((n * 8) / 3) * 4)
  return { doubles, bytes: new Uint8Array(doubles.buffer), signs, pairs: new Uint16Array(signs.buffer) }
}

const roomFor = (n: number) => (room.doubles.length >= n ? room : (room = makeRoom(2 * n)))

/** Doubles as text, bit for bit, but that every NaN is the same one. */
export function bitsOf(values: Float64Array): string {
  const size = values.length * 8
  const length = Math.ceil(size / 3) * 4
  const { doubles, bytes, signs: out, pairs } = roomFor(values.length)
  for (let i = 0; i < values.length; i++) {
    const x = values[i]
    doubles[i] = x === x ? x : NaN
  }
  const whole = size - (size % 3)
  out.fill(PAD, (whole / 3) * 4, length)
  let to = 0
  for (let i = 0; i < whole; i += 3) {
    const three = (bytes[i] << 16) | (bytes[i + 1] << 8) | bytes[i + 2]
    pairs[to++] = PAIRS[three >> 12]
    pairs[to++] = PAIRS[three & 4095]
  }
  const left = size - whole
  if (left > 0) {
    const three = (bytes[whole] << 16) | (left > 1 ? bytes[whole + 1] << 8 : 0)
    pairs[to] = PAIRS[three >> 12]
    if (left > 1) out[2 * to + 2] = CODES[(three >> 6) & 63]
  }
  return latin.decode(out.subarray(0, length))
}

/** Puts such text back into doubles of the same number; false, and nothing changed, where it is no such text. */
export function fromBits(text: string, into: Float64Array): boolean {
  const size = into.length * 8
  if (text.length !== Math.ceil(size / 3) * 4) return false
  const { doubles, bytes, signs } = roomFor(into.length)
  // A sign beyond ASCII takes more than one place.
  if (encoder.encodeInto(text, signs).written !== text.length) return false
  const whole = size - (size % 3)
  let wrong = 0
  let at = 0
  for (let to = 0; to < whole; to += 3, at += 4) {
    const a = VALUES[signs[at]]
    const b = VALUES[signs[at + 1]]
    const c = VALUES[signs[at + 2]]
    const d = VALUES[signs[at + 3]]
    wrong |= a | b | c | d
    bytes[to] = (a << 2) | (b >> 4)
    bytes[to + 1] = (b << 4) | (c >> 2)
    bytes[to + 2] = (c << 6) | d
  }
  for (let to = whole, k = 0; to < size; to++, k++) {
    const a = VALUES[signs[at + k]]
    const b = VALUES[signs[at + k + 1]]
    wrong |= a | b
    bytes[to] = k === 0 ? (a << 2) | (b >> 4) : (a << 4) | (b >> 2)
  }
  if (wrong > 63) return false
  into.set(doubles.subarray(0, into.length))
  return true
}
