import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  balanceFactors,
  blackBody,
  decodeWords,
  displayed,
  inverse,
  lightColour,
  lightOf,
  multipliers,
  neutralUnder,
  plainDecode,
  readDng,
  saturationRows,
  temperatureOf,
} from './index.ts'

/** From CIE XYZ (D65) to linear BT.709. */
const toBt709 = [3.2404542, -1.5371385, -0.4985314, -0.969266, 1.8760108, 0.041556, 0.0556434, -0.2040259, 1.0572252]

describe('light', () => {
  it('of a black body has the colours that CIE gives', () => {
    // Illuminant A is a black body of 2,856 K.
    const a = blackBody(2856)
    expect(Math.abs(a.x - 0.44758)).toBeLessThan(0.001)
    expect(Math.abs(a.y - 0.40745)).toBeLessThan(0.001)
    const d = blackBody(6504)
    expect(d.x).toBeCloseTo(0.3135, 3)
  })
  it('as temperature and tint is the same read back', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2000, max: 15_000 }), fc.integer({ min: -20, max: 20 }), (kelvin, tint) => {
        const back = temperatureOf(lightColour(kelvin, tint))
        expect(Math.abs(back.kelvin / kelvin - 1)).toBeLessThan(0.01)
        expect(Math.abs(back.tint - tint)).toBeLessThan(0.3)
      }),
    )
  })
  it('is turned into a neutral of the camera, and back', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2500, max: 10_000 }), (kelvin) => {
        const light = lightColour(kelvin, 0)
        const back = lightOf(neutralUnder(light, toBt709), toBt709)
        expect(back?.x).toBeCloseTo(light.x, 6)
        expect(back?.y).toBeCloseTo(light.y, 6)
      }),
    )
    expect(lightOf([1, 1, 1], [1, 0, 0, 1, 0, 0, 1, 0, 0])).toBeNull()
  })
  it('makes grey equal in red, green and blue without losing anything', () => {
    expect(multipliers([0.5, 1, 0.8])).toEqual([2, 1, 1.25])
    expect(multipliers([2, 1, 1])).toEqual([1, 2, 2])
    expect(balanceFactors({ kind: 'as-shot' }, { toCamera: null, neutral: null })).toBeNull()
    expect(balanceFactors({ kind: 'picked', neutral: [0.5, 1, 1] }, { toCamera: null, neutral: null })).toEqual([2, 1, 1])
    // Without a matrix a temperature means nothing: as shot.
    expect(balanceFactors({ kind: 'temperature', kelvin: 4000, tint: 0 }, { toCamera: null, neutral: [0.5, 1, 1] })).toEqual([2, 1, 1])
  })
  it('turns a matrix round', () => {
    const back = inverse(toBt709) as number[]
    // The middle row is the brightness of BT.709 (BT.709, 3.2).
    expect(back.slice(3, 6).map((v) => Number(v.toFixed(4)))).toEqual([0.2127, 0.7152, 0.0722])
    expect(inverse([1, 2, 3, 2, 4, 6, 0, 0, 1])).toBeNull()
  })
})

describe('the display transform', () => {
  it('is BT.1886 turned round, black at black and white at white', () => {
    expect(displayed(0, plainDecode, 'screen')).toBe(0)
    expect(displayed(1, plainDecode, 'screen')).toBe(1)
    expect(displayed(0.5 ** 2.4, plainDecode, 'screen')).toBeCloseTo(0.5, 9)
  })
  it('never falls where light rises, whatever the settings', () => {
    const numbers = fc.record({ exposure: fc.double({ min: -5, max: 5, noNaN: true }), contrast: fc.double({ min: 0.5, max: 2, noNaN: true }) })
    fc.assert(
      fc.property(numbers, fc.constantFrom('screen' as const, 'soft' as const), (s, kind) => {
        let last = 0
        for (let i = 0; i <= 100; i++) {
          const now = displayed(i / 100, s, kind)
          expect(now).toBeGreaterThanOrEqual(last)
          expect(now).toBeLessThanOrEqual(1)
          last = now
        }
      }),
    )
  })
  it('leaves grey light as it is, whatever the saturation, and brightness too', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 2, noNaN: true }), (saturation) => {
        const rows = saturationRows(saturation)
        for (const row of rows) expect(row[0] + row[1] + row[2]).toBeCloseTo(1, 12)
        // The brightness of each pure colour is what BT.709 gives it (BT.709, 3.2).
        for (const [c, w] of [0.2126, 0.7152, 0.0722].entries())
          expect(0.2126 * (rows[0][c] as number) + 0.7152 * (rows[1][c] as number) + 0.0722 * (rows[2][c] as number)).toBeCloseTo(w, 12)
      }),
    )
    expect(saturationRows(1)).toEqual([
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ])
  })
})

describe('settings', () => {
  it('are said in words', () => {
    expect(decodeWords(plainDecode)).toBe('as shot')
    expect(decodeWords({ balance: { kind: 'temperature', kelvin: 3200, tint: -5 }, exposure: 1, contrast: 1.2, saturation: 1, size: 'half' })).toBe(
      '3200 K, tint −5, +1 stop, contrast 1.2, half size',
    )
  })
})

describe('a file that is no DNG', () => {
  it('is null, and never fails, however it is damaged', () => {
    expect(readDng(new Uint8Array([0x49, 0x49, 42, 0, 8, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]))).toBeNull()
    const head = fc.constantFrom([0x49, 0x49, 42, 0], [0x4d, 0x4d, 0, 42])
    fc.assert(fc.property(head, fc.uint8Array({ maxLength: 400 }), (h, rest) => void readDng(Uint8Array.from([...h, 8, 0, 0, 0, ...rest]))))
  })
})
