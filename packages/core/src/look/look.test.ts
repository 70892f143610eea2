import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  applyCdl,
  codesToRgb,
  type Deep,
  histogram,
  lattice,
  type Lut,
  lutOver,
  plainCdl,
  readCube,
  type Rgb,
  vectorscope,
  waveform,
  writeCube,
} from './index.ts'

const unit = fc.double({ min: 0, max: 1, noNaN: true })
const colour = fc.tuple(unit, unit, unit)
const close = (a: Rgb, b: Rgb, within = 1e-6) => {
  for (const [i, v] of a.entries()) expect(Math.abs(v - (b[i] as number))).toBeLessThan(within)
}

describe('a color decision list', () => {
  it('does nothing where it says nothing', () => {
    fc.assert(fc.property(colour, (c) => close(applyCdl(plainCdl, c), c)))
  })
  it('is slope, offset, power, and saturation last', () => {
    const cdl = { slope: [2, 1, 1], offset: [0, 0.1, 0], power: [1, 1, 2], saturation: 1 } as const
    close(applyCdl(cdl, [0.25, 0.25, 0.5]), [0.5, 0.35, 0.25])
    const [r, g, b] = applyCdl({ ...plainCdl, saturation: 0 }, [1, 0, 0])
    close([r, g, b], [0.2126, 0.2126, 0.2126])
  })
  it('stays between 0 and 1', () => {
    const numbers = fc.double({ min: 0.01, max: 4, noNaN: true })
    const triple = fc.tuple(numbers, numbers, numbers)
    fc.assert(
      fc.property(triple, triple, numbers, colour, (slope, power, saturation, c) => {
        for (const v of applyCdl({ slope, offset: [-0.2, 0, 0.3], power, saturation }, c)) {
          expect(v).toBeGreaterThanOrEqual(0)
          expect(v).toBeLessThanOrEqual(1)
        }
      }),
    )
  })
})

const code = fc.integer({ min: 0, max: 65_535 }).map((v) => v / 65_535)
const coded = fc.tuple(code, code, code)
/** What one colour becomes, to a code of 16 bits before and after. */
const through = (lut: Lut, c: Rgb): Rgb => {
  const rgb = Uint16Array.from(c, (v) => Math.round(65_535 * Math.max(0, Math.min(1, v))))
  lutOver(lut)(rgb)
  return [...rgb].map((v) => v / 65_535) as unknown as Rgb
}

describe('a look-up table', () => {
  it('of one curve works on each channel, and holds its ends outside of its domain', () => {
    const { value } = readCube('LUT_1D_SIZE 3\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 2 2\n0 0 0\n0.5 0.25 1\n1 1 1\n')
    close(through(value as Lut, [0.5, 1, 0]), [0.25, 0.25, 0], 3e-5)
    const low = readCube('LUT_1D_SIZE 2\nDOMAIN_MIN 0.25 0.25 0.25\nDOMAIN_MAX 0.75 0.75 0.75\n0.1 0.1 0.1\n0.9 0.9 0.9\n').value
    close(through(low as Lut, [0.5, 0.1, 1]), [0.5, 0.1, 0.9], 3e-5)
  })
  it('of a lattice that changes nothing changes nothing, between its entries too', () => {
    const plain = lattice(9, (c) => c)
    fc.assert(fc.property(coded, (c) => close(through(plain, c), c, 1e-5)))
  })
  it('of a lattice has red change fastest', () => {
    const { value } = readCube('LUT_3D_SIZE 2\n0 0 0\n1 0 0\n0 0 0\n1 0 0\n0 0 0\n1 0 0\n0 0 0\n1 0 0\n')
    close(through(value as Lut, [0.75, 0.5, 0.1]), [0.75, 0, 0], 3e-5)
  })
  it('of a lattice weighs the eight entries around a colour, whatever they and its domain are', () => {
    const number = fc.double({ min: 0, max: 1, noNaN: true })
    const lut = fc.integer({ min: 2, max: 5 }).chain((size) =>
      fc.record({
        values: fc.array(fc.tuple(number, number, number), { minLength: size ** 3, maxLength: size ** 3 }),
        domain: fc.array(fc.tuple(fc.double({ min: 0, max: 0.4, noNaN: true }), fc.double({ min: 0.6, max: 2, noNaN: true })), { minLength: 3, maxLength: 3 }),
        size: fc.constant(size),
      }),
    )
    fc.assert(
      fc.property(lut, coded, ({ size, values, domain }, c) => {
        const [least, most] = [domain.map((d) => d[0]) as unknown as Rgb, domain.map((d) => d[1]) as unknown as Rgb]
        const at = c.map((v, i) => Math.max(0, Math.min(1, (v - (least[i] as number)) / ((most[i] as number) - (least[i] as number)))) * (size - 1))
        const wanted = [0, 0, 0]
        for (let b = 0; b < size; b++)
          for (let g = 0; g < size; g++)
            for (let r = 0; r < size; r++) {
              const share = [r, g, b].reduce((n, p, i) => n * Math.max(0, 1 - Math.abs((at[i] as number) - p)), 1)
              for (let i = 0; i < 3; i++) wanted[i] = (wanted[i] as number) + share * (values[(b * size + g) * size + r]?.[i] as number)
            }
        close(through({ kind: '3d', size, least, most, values }, c), wanted as unknown as Rgb, 1e-5)
      }),
    )
  })
  it('is the same when it is written and read back', () => {
    const lut = lattice(5, (c) => applyCdl({ slope: [1.2, 1, 0.8], offset: [0, 0.05, 0], power: [1, 1.1, 1], saturation: 0.8 }, c))
    const back = readCube(writeCube(lut, 'a "look"'))
    expect(back.problems).toEqual([])
    expect(back.title).toBe('a  look ')
    for (const [i, v] of (back.value?.values ?? []).entries()) close(v, lut.values[i] as Rgb, 1e-6)
  })
  it('that is wrong says in which line', () => {
    expect(readCube('LUT_3D_SIZE 2\n0 0 0\n0 x 0\n').problems).toEqual(['Line 3: "0 x 0" is not three numbers.', 'The table has 1 entries; 8 were announced.'])
    expect(readCube('hello').problems).toEqual(['Neither LUT_1D_SIZE nor LUT_3D_SIZE is in this file.'])
    expect(readCube('LUT_1D_SIZE 1\n0 0 0').problems[0]).toMatch(/size of 1/)
    fc.assert(fc.property(fc.string(), (s) => void readCube(s)))
  })
})

describe('scopes', () => {
  const flat = (...pixels: Rgb[]): Deep => ({ width: pixels.length, height: 1, rgb: Uint16Array.from(pixels.flat().map((v) => Math.round(v * 65_535))) })
  it('show how bright each column is', () => {
    const t = waveform(flat([0, 0, 0], [0.5, 0.5, 0.5], [1, 1, 1]), 3, 'luma')
    const high = (x: number) => Array.from({ length: t.height }, (_, y) => t.counts[y * 3 + x] as number).findIndex((c) => c > 0)
    expect([high(0), high(1), high(2)]).toEqual([0, 64, 127])
    expect(waveform(flat([1, 0, 0]), 1, 0).counts.at(-1)).toBeGreaterThan(0)
    expect(waveform(flat([1, 0, 0]), 1, 1).counts[0]).toBeGreaterThan(0)
  })
  it('show grey in the middle, red above it and blue to its right', () => {
    const at = (c: Rgb) => {
      const i = vectorscope(flat(c), 101).counts.findIndex((n) => n > 0)
      return [i % 101, Math.floor(i / 101)]
    }
    expect(at([0.4, 0.4, 0.4])).toEqual([50, 50])
    expect(at([1, 0, 0])[1]).toBeGreaterThan(95)
    expect(at([0, 0, 1])[0]).toBeGreaterThan(95)
  })
  it('count every pixel', () => {
    const [r, , , y] = histogram(flat([0, 0, 0], [0, 0, 0], [1, 1, 1]))
    expect([r[0], r.at(-1), y[0]]).toEqual([1, 0.5, 1])
  })
})

describe('code values', () => {
  const kind = { kind: 'ycbcr', matrix: 'bt709', full: false, depth: 10 } as const
  it('of black, white and the bars of BT.709 are red, green and blue', () => {
    close(codesToRgb([64, 512, 512], kind), [0, 0, 0])
    close(codesToRgb([940, 512, 512], kind), [1, 1, 1])
    // Red of full brightness: Y′ 250, Cb 409, Cr 960 in ten bits.
    close(codesToRgb([250, 409, 960], kind), [1, 0, 0], 0.002)
    close(codesToRgb([235, 128, 128], { ...kind, depth: 8 }), [1, 1, 1])
  })
  it('in full range reach from 0 to the top, and RGB is as it is', () => {
    close(codesToRgb([255, 128, 128], { ...kind, full: true, depth: 8 }), [1, 1, 1])
    close(codesToRgb([0, 32_768, 65_535], { kind: 'rgb', matrix: 'gbr', full: true, depth: 16 }), [0, 0.5000076, 1], 1e-5)
  })
  it('beyond white stay beyond', () => expect(codesToRgb([1019, 512, 512], kind)[0]).toBeGreaterThan(1.08))
})
