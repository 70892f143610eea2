import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { enlargement, fit, largestCrop, layout, partOf } from './index.ts'

describe('framing', () => {
  it('fits the whole picture, centred and even', () => {
    expect(fit({ width: 4096, height: 2160 }, { width: 1920, height: 1080 })).toEqual({ width: 1920, height: 1012, x: 0, y: 34 })
    expect(fit({ width: 720, height: 576 }, { width: 1920, height: 1080 }, 64 / 45)).toEqual({ width: 1920, height: 1080, x: 0, y: 0 })
    expect(enlargement({ width: 1280, height: 720 }, { width: 1920, height: 1080 })).toBe(150)
  })
  it('stays inside its target', () => {
    const size = fc.record({ width: fc.integer({ min: 16, max: 8000 }), height: fc.integer({ min: 16, max: 8000 }) })
    fc.assert(
      fc.property(
        size,
        size.map((s) => ({ width: s.width * 2, height: s.height * 2 })),
        (a, b) => {
          const p = fit(a, b)
          expect(p.x >= 0 && p.y >= 0 && p.x + p.width <= b.width && p.y + p.height <= b.height && p.width % 2 === 0 && p.x % 2 === 0).toBe(true)
        },
      ),
    )
  })
})

describe('a layout', () => {
  const hd = { width: 1920, height: 1080 }
  const wide = { width: 4096, height: 2160, pixelAspect: 1 }
  it('fits all of the picture, or fills the raster, or bends it, or takes the middle pixel by pixel', () => {
    expect(layout(wide, hd, 'fit', false)).toMatchObject({
      take: { x: 0, y: 0, width: 4096, height: 2160 },
      place: { x: 0, y: 34, width: 1920, height: 1012 },
      scale: 47,
    })
    // 2160 rows become 1080; of 4096 columns 3840 are seen, 128 left out on either side.
    expect(layout(wide, hd, 'fill', false)).toMatchObject({ take: { x: 128, y: 0, width: 3840, height: 2160 }, place: { x: 0, y: 0, ...hd } })
    expect(layout(wide, hd, 'stretch', false)).toMatchObject({ take: { width: 4096 }, place: { x: 0, y: 0, ...hd } })
    expect(layout(wide, hd, 'centre', false)).toMatchObject({ take: { x: 1088, y: 540, ...hd }, place: { x: 0, y: 0, ...hd }, scale: 100 })
  })
  it('makes nothing larger than it was shot, unless told', () => {
    const small = { width: 640, height: 360, pixelAspect: 1 }
    for (const framing of ['fit', 'fill', 'stretch'] as const) {
      expect(layout(small, hd, framing, false).place).toEqual({ x: 640, y: 360, width: 640, height: 360 })
      expect(layout(small, hd, framing, true).place).toEqual({ x: 0, y: 0, ...hd })
    }
    expect(layout(small, hd, 'fit', true).scale).toBe(300)
  })
  it('gives pixels that are not square their shape', () => {
    expect(layout({ width: 1440, height: 1080, pixelAspect: 4 / 3 }, hd, 'fit', false).place).toEqual({ x: 0, y: 0, ...hd })
    // Into a raster that is itself of wide pixels nothing is scaled.
    expect(layout({ ...hd, pixelAspect: 1 }, { width: 1440, height: 1080 }, 'fit', false, 4 / 3).place).toEqual({ x: 0, y: 0, width: 1440, height: 1080 })
  })
  it('takes a crop inside of the picture, even, of fields in whole pairs', () => {
    expect(partOf({ ...hd, pixelAspect: 1, crop: { x: 101, y: 51, width: 401, height: 301 } })).toEqual({ x: 100, y: 50, width: 402, height: 302 })
    expect(partOf({ ...hd, pixelAspect: 1, crop: { x: 1900, y: 1070, width: 400, height: 400 } })).toEqual({ x: 1900, y: 1070, width: 20, height: 10 })
    expect(partOf({ ...hd, pixelAspect: 1, fields: true, crop: { x: 0, y: 50, width: 400, height: 300 } }).y).toBe(48)
    expect(largestCrop({ ...hd, pixelAspect: 1 }, 1)).toEqual({ x: 420, y: 0, width: 1080, height: 1080 })
    expect(largestCrop({ ...hd, pixelAspect: 1 }, 2.39)).toEqual({ x: 0, y: 138, width: 1920, height: 802 })
  })
  it('always lies inside both, even, whatever is asked', () => {
    const side = fc.integer({ min: 16, max: 6000 })
    const size = fc.record({ width: side, height: side })
    const framing = fc.constantFrom('fit', 'fill', 'stretch', 'centre')
    const crop = fc.option(fc.record({ x: side, y: side, width: side, height: side }))
    fc.assert(
      fc.property(
        size,
        size,
        framing,
        fc.boolean(),
        fc.constantFrom(1, 64 / 45, 4 / 3, 8 / 9),
        crop,
        fc.boolean(),
        (s, r, f, enlarge, pixelAspect, c, fields) => {
          const raster = { width: r.width - (r.width % 2), height: r.height - (r.height % 2) }
          const { take: t, place: p, scale } = layout({ ...s, pixelAspect, crop: c, fields }, raster, f as 'fit', enlarge)
          expect(t.x >= 0 && t.y >= 0 && t.x + t.width <= s.width && t.y + t.height <= s.height && t.x % 2 === 0).toBe(true)
          expect(p.x >= 0 && p.y >= 0 && p.x + p.width <= raster.width && p.y + p.height <= raster.height && p.x % 2 === 0 && p.y % 2 === 0).toBe(true)
          if (!enlarge) expect(scale).toBeLessThanOrEqual(Math.ceil(100 + 200 / t.height))
        },
      ),
    )
  })
})
