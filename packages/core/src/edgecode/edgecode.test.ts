import fc from 'fast-check'
import { expect, it } from 'vitest'
import { edgeCode, edgeStrip, readEdgeCode } from './index.ts'

it('edge codes are read back at any size, place and contrast', () => {
  fc.assert(
    fc.property(
      fc.nat(1023),
      fc.nat(16383),
      fc.constantFrom(320, 640, 1366, 1920),
      fc.constantFrom(0, 34),
      fc.integer({ min: 0, max: 40 }),
      (clip, frame, width, y, lift) => {
        const height = Math.round((width * 9) / 32) * 2
        const strip = edgeStrip(width, height)
        const grey = new Uint8Array(width * (height + y)).fill(128)
        edgeCode(clip, frame).forEach((bit, b) => {
          for (let row = y + strip.y; row < y + strip.y + strip.height; row++)
            for (let x = Math.floor(strip.x + (strip.width * b) / 32); x < strip.x + (strip.width * (b + 1)) / 32; x++)
              grey[row * width + x] = bit ? 235 - lift : 16 + lift
        })
        expect(readEdgeCode(grey, width, { x: 0, y, width, height })).toEqual({ clip, frame })
      },
    ),
    { numRuns: 60 },
  )
  expect(readEdgeCode(new Uint8Array(320 * 180).fill(90), 320, { x: 0, y: 0, width: 320, height: 180 })).toBeNull()
})
