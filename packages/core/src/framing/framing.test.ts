import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { byHeight, enlargement, fit } from './index.ts'

describe('framing', () => {
  it('fits the whole picture, centred and even', () => {
    expect(fit({ width: 4096, height: 2160 }, { width: 1920, height: 1080 })).toEqual({ width: 1920, height: 1012, x: 0, y: 34 })
    expect(fit({ width: 720, height: 576 }, { width: 1920, height: 1080 }, 64 / 45)).toEqual({ width: 1920, height: 1080, x: 0, y: 0 })
    expect(byHeight({ width: 4096, height: 2160 }, 720)).toEqual({ width: 1366, height: 720 })
    expect(byHeight({ width: 640, height: 360 }, 720)).toEqual({ width: 640, height: 360 })
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
