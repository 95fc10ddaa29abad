/** Base64 of RFC 4648, section 4, over the bytes of doubles; little-endian, as every machine that runs this. */
const SIGNS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'
const CODES = Uint8Array.from(SIGNS, (sign) => sign.charCodeAt(0))
const VALUES = new Uint8Array(128).fill(255)
CODES.forEach((code, value) => (VALUES[code] = value))
const PAD = '='.charCodeAt(0)

const latin = new TextDecoder('latin1')

/** Doubles as text, bit for bit, but that every NaN is the same one. */
export function bitsOf(values: Float64Array): string {
  const copy = values.slice()
  for (let i = 0; i < copy.length; i++) if (copy[i] !== copy[i]) copy[i] = NaN
  const bytes = new Uint8Array(copy.buffer)
  const out = new Uint8Array(Math.ceil(bytes.length / 3) * 4).fill(PAD)
  let to = 0
  for (let i = 0; i < bytes.length; i += 3) {
    const left = bytes.length - i
    const three = (bytes[i] << 16) | (left > 1 ? bytes[i + 1] << 8 : 0) | (left > 2 ? bytes[i + 2] : 0)
    out[to++] = CODES[three >> 18]
    out[to++] = CODES[(three >> 12) & 63]
    if (left > 1) out[to++] = CODES[(three >> 6) & 63]
    if (left > 2) out[to++] = CODES[three & 63]
  }
  return latin.decode(out)
}

/** Puts such text back into doubles of the same number; false, and nothing changed, where it is no such text. */
export function fromBits(text: string, into: Float64Array): boolean {
  const { length } = into
  if (text.length !== Math.ceil((length * 8) / 3) * 4) return false
  const bytes = new Uint8Array(length * 8)
  for (let i = 0, to = 0; to < bytes.length; i += 4) {
    let four = 0
    for (let k = 0; k < 4; k++) {
      const code = text.charCodeAt(i + k)
      const value = code < 128 ? VALUES[code] : 255
      if (value === 255 && !(code === PAD && i + k >= text.length - 2)) return false
      four = (four << 6) | (value === 255 ? 0 : value)
    }
    bytes[to++] = four >> 16
    if (to < bytes.length) bytes[to++] = (four >> 8) & 255
    if (to < bytes.length) bytes[to++] = four & 255
  }
  into.set(new Float64Array(bytes.buffer))
  return true
}
