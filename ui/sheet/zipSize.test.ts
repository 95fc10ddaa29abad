import { cases } from '@/tests/cases'
import { describe, expect, it } from '@jest/globals'
import fc from 'fast-check'
import { readFile } from './readFile'
import { workbook } from '../table/exportTable'
import { unpackedSize } from '@/core/formats/zipSize'
import { sayFailure } from '@/workers/say'

const bytesOf = async (rows: number) =>
  new Uint8Array(
    await (await workbook('orders', ['symbol'], Array<[string]>(rows).fill(['TARN']))).arrayBuffer(),
  )

/** The archive with its first file said to unpack to so many bytes. */
function claiming(archive: Uint8Array, size: number): Uint8Array {
  const out = archive.slice()
  const view = new DataView(out.buffer)
  for (let at = 0; at < out.length - 46; at++)
    if (view.getUint32(at, true) === 0x02014b50) {
      view.setUint32(at + 24, size, true)
      return out
    }
  throw new Error('no directory')
}

describe('what an archive unpacks to', () => {
  it('is told from its directory', async () => {
    const [one, many] = [unpackedSize(await bytesOf(1)), unpackedSize(await bytesOf(2_000))]
    expect(one).toBeGreaterThan(500)
    expect(many).toBeGreaterThan(one + 2_000 * 20)
  })

  it('is unknown of anything else, however it is cut', async () => {
    const archive = await bytesOf(3)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: archive.length - 1 }), (length) => {
        expect(unpackedSize(archive.slice(0, length))).toBeNaN()
      }),
      { numRuns: cases(30) },
    )
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), (noise) => void expect(unpackedSize(noise)).toBeNaN()),
    )
  })

  it('a workbook that would unpack to gigabytes is refused before it is unpacked, with the mend', async () => {
    const file = new File([claiming(await bytesOf(3), 3_000_000_000) as Uint8Array<ArrayBuffer>], 'bomb.xlsx')
    const wrong: unknown = await readFile(file).catch((error: unknown) => error)
    expect(sayFailure(wrong)).toMatch(/would unpack to 2861 MB.*Split it/)
  })
})
