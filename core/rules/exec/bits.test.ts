import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { bitsOf, fromBits } from './bits'

const doubles = fc.array(fc.double(), { maxLength: 12 }).map((all) => Float64Array.from(all))

describe('what is kept, as text', () => {
  it('is base64 as everyone reads it (RFC 4648; Node’s Buffer)', () => {
    fc.assert(
      fc.property(doubles, (values) =>
        expect(bitsOf(values)).toBe(Buffer.from(values.buffer).toString('base64')),
      ),
    )
  })

  it('comes back to the bit, the sign of nought and infinities too', () => {
    fc.assert(
      fc.property(doubles, (values) => {
        const back = new Float64Array(values.length)
        expect(fromBits(bitsOf(values), back)).toBe(true)
        expect(back.every((x, i) => Object.is(x, values[i]))).toBe(true)
      }),
    )
  })

  it('changed, cut or of another length is refused, and nothing is written', () => {
    const good = bitsOf(Float64Array.of(1, 2))
    fc.assert(
      fc.property(fc.nat(good.length - 3), fc.constantFrom('!', '=', ' ', 'é', '-'), (at, sign) => {
        const into = Float64Array.of(7, 8)
        expect(fromBits(good.slice(0, at) + sign + good.slice(at + 1), into)).toBe(false)
        expect([...into]).toEqual([7, 8])
      }),
    )
    expect(fromBits(good.slice(4), new Float64Array(2))).toBe(false)
    expect(fromBits(good, new Float64Array(3))).toBe(false)
  })
})
