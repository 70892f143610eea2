/** How a crop is drawn, nudged and typed. */
import type { Crop } from '@naranja/core/framing'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { aspectOf, type Cropped, dragged, isWhole, nudged, ofAspect, typed, wholeOf } from './cropping.ts'

const hd: Cropped = { width: 1920, height: 1080, pixelAspect: 1 }
const sd: Cropped = { width: 720, height: 576, pixelAspect: 64 / 45 }
const key = (name: string, more: { shiftKey?: boolean; altKey?: boolean } = {}) => ({ key: name, shiftKey: false, altKey: false, ...more })
const shapeOf = (of: Cropped, c: Crop) => (c.width * of.pixelAspect) / c.height

describe('an aspect', () => {
  it.each([
    ['free', null],
    ['as shot', 1.5],
    ['2.39', 2.39],
    ['16:9', 16 / 9],
    ['9:16', 9 / 16],
  ] as const)('%s is %s', (a, wanted) => expect(aspectOf(a, 1.5)).toBe(wanted))
  it('is had by the largest crop of it, in the middle; a free one leaves the crop as it is', () => {
    expect(ofAspect(hd, wholeOf(hd), 1)).toEqual({ x: 420, y: 0, width: 1080, height: 1080 })
    const c = { x: 2, y: 4, width: 100, height: 50 }
    expect(ofAspect(hd, c, null)).toBe(c)
    expect(shapeOf(sd, ofAspect(sd, wholeOf(sd), 16 / 9))).toBeCloseTo(16 / 9, 1)
  })
})

describe('a crop', () => {
  const c = { x: 400, y: 200, width: 800, height: 400 }
  it('is moved by arrows, and changed in size with Alt', () => {
    expect(nudged(hd, c, key('ArrowLeft'), null)).toEqual({ ...c, x: 398 })
    expect(nudged(hd, c, key('ArrowDown', { shiftKey: true }), null)).toEqual({ ...c, y: 220 })
    expect(nudged(hd, c, key('ArrowRight', { altKey: true }), null)).toEqual({ ...c, width: 802 })
    expect(nudged(hd, c, key('ArrowRight', { altKey: true }), 2)).toEqual({ ...c, width: 802, height: 402 })
    expect(nudged(hd, c, key('Enter'), null)).toBeNull()
  })
  it('is typed number by number, and keeps the aspect that is held', () => {
    expect(typed(hd, c, 'x', 11, 2)).toEqual({ ...c, x: 10 })
    expect(typed(hd, c, 'width', 600, 2)).toEqual({ ...c, width: 600, height: 300 })
    expect(typed(hd, c, 'height', 300, 2)).toEqual({ ...c, width: 600, height: 300 })
    expect(typed(hd, c, 'height', 300, null)).toEqual({ ...c, height: 300 })
  })
  it('is drawn at a corner while the opposite one stays, with an aspect too', () => {
    expect(dragged(hd, c, 'se', 100, 50, null)).toEqual({ ...c, width: 900, height: 450 })
    expect(dragged(hd, c, 'nw', 100, 50, null)).toEqual({ x: 500, y: 250, width: 700, height: 350 })
    expect(dragged(hd, c, 'nw', 100, 0, 2)).toEqual({ x: 500, y: 250, width: 700, height: 350 })
    expect(dragged(hd, c, 'ne', -2000, 0, null)).toEqual({ ...c, width: 16 })
    expect(dragged(hd, c, 'move', -1000, 5000, null)).toEqual({ ...c, x: 0, y: 680 })
  })
  it('is all of a picture but for rounding', () => expect([isWhole(hd, wholeOf(hd)), isWhole(hd, { ...wholeOf(hd), width: 1918 })]).toEqual([true, false]))
  it('stays inside its picture on even pixels whatever is done to it', () => {
    const does = fc.record({
      grip: fc.constantFrom('move', 'nw', 'ne', 'sw', 'se') as fc.Arbitrary<'move' | 'nw' | 'ne' | 'sw' | 'se'>,
      dx: fc.integer({ min: -3000, max: 3000 }),
      dy: fc.integer({ min: -3000, max: 3000 }),
      arrow: fc.constantFrom('ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown'),
      field: fc.constantFrom('x', 'y', 'width', 'height') as fc.Arbitrary<keyof Crop>,
      value: fc.nat(4000),
      how: fc.nat(2),
      altKey: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.constantFrom(hd, sd), fc.constantFrom(null, 1, 2.39, 9 / 16), fc.array(does, { maxLength: 12 }), (of, aspect, list) => {
        let crop = ofAspect(of, wholeOf(of), aspect)
        for (const d of list) {
          if (d.how === 0) crop = dragged(of, crop, d.grip, d.dx, d.dy, aspect)
          else if (d.how === 1) crop = nudged(of, crop, { key: d.arrow, shiftKey: true, altKey: d.altKey }, aspect) ?? crop
          else crop = typed(of, crop, d.field, d.value, aspect)
          expect([crop.x >= 0, crop.y >= 0, crop.width >= 2, crop.height >= 2]).toEqual([true, true, true, true])
          expect([crop.x + crop.width <= of.width, crop.y + crop.height <= of.height]).toEqual([true, true])
          expect([crop.x % 2, crop.y % 2, crop.width % 2, crop.height % 2]).toEqual([0, 0, 0, 0])
        }
      }),
    )
  })
  it('drawn at a corner keeps the one opposite and the aspect that is held, but for rounding to even pixels', () => {
    const corner = fc.constantFrom('nw', 'ne', 'sw', 'se') as fc.Arbitrary<'nw' | 'ne' | 'sw' | 'se'>
    fc.assert(
      fc.property(fc.constantFrom(hd, sd), fc.constantFrom(1, 2.39, 16 / 9, 9 / 16), corner, fc.integer({ min: -900, max: 900 }), (of, aspect, grip, dx) => {
        const all = ofAspect(of, wholeOf(of), aspect)
        const from = typed(of, { ...all, x: all.x + 40, y: all.y + 40 }, 'width', all.width / 2, aspect)
        const c = dragged(of, from, grip, dx, 0, aspect)
        const opposite = (r: Crop) => [grip.endsWith('w') ? r.x + r.width : r.x, grip.startsWith('n') ? r.y + r.height : r.y]
        for (const [i, v] of opposite(c).entries()) expect(Math.abs(v - (opposite(from)[i] ?? 0))).toBeLessThanOrEqual(4)
        expect(Math.abs((c.width * of.pixelAspect) / aspect - c.height)).toBeLessThanOrEqual(2 + 2 / aspect)
      }),
    )
  })
})
