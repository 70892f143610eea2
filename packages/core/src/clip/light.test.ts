import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { type LightClip, lightCopies, noticesOf, type Technical } from './index.ts'

const technical = (over: Partial<Technical> = {}): Technical =>
  ({ width: 4096, height: 2160, rate: rate(25), codec: 'H.264', dataRate: 100e6, hasPicture: true, fault: null, stamp: null, ...over }) as Technical
const clip = (id: string, over: Partial<LightClip> = {}, t: Partial<Technical> = {}): LightClip => ({
  ...{ id, name: 'A001C001.mp4', start: 90_000, frames: 100 },
  ...over,
  technical: technical(t),
})

describe('a light copy taken in as an original', () => {
  const full = clip('full')
  it('is known by name, first frame and length, and by being smaller', () => {
    expect([...lightCopies([full, clip('light', { name: 'A001C001_proxy.mov' }, { width: 1280, height: 675 })])]).toEqual([['light', 'full']])
    expect([...lightCopies([clip('light', { frames: 101 }, { width: 1280, height: 675 }), full])]).toEqual([['light', 'full']])
  })
  it('or, as large, by its data rate and codec', () => {
    expect(lightCopies([full, clip('light', {}, { codec: 'ProRes 422 Proxy', dataRate: 40e6 })]).get('light')).toBe('full')
    expect(lightCopies([full, clip('same', {}, { dataRate: 40e6 })]).size).toBe(0)
    expect(lightCopies([full, clip('as heavy', {}, { codec: 'ProRes 422', dataRate: 60e6 })]).size).toBe(0)
  })
  it('is none where length, first frame, rate or name differ', () => {
    const small = { width: 1280, height: 675 }
    for (const other of [
      clip('a', { frames: 102 }, small),
      clip('b', { start: 90_001 }, small),
      clip('c', {}, { ...small, rate: rate(50) }),
      clip('d', { name: 'A001C002.mp4' }, small),
    ])
      expect(lightCopies([full, other]).size, other.id).toBe(0)
  })
  it('without timecode needs the very length, and one original only', () => {
    const small = { width: 1280, height: 720 }
    const a = clip('a', { start: null, name: 'CLIP0001.mp4' })
    expect(lightCopies([a, clip('x', { start: null, name: 'CLIP0001.mov' }, small)]).get('x')).toBe('a')
    expect(lightCopies([a, clip('x', { start: null, name: 'CLIP0001.mov', frames: 101 }, small)]).size).toBe(0)
    expect(lightCopies([a, { ...a, id: 'b' }, clip('x', { start: null, name: 'CLIP0001.mov' }, small)]).size).toBe(0)
  })
  it('is noticed, and once it is marked nothing else is said of it', () => {
    const input = { technical: technical({ sequence: null, chroma: '', scan: 'progressive', pixelAspect: 1, rotation: 0 }), reel: null, start: 0, sameNames: 1 }
    const rest = { projectRate: rate(25), projectShape: null, peaks: null }
    expect(noticesOf({ ...input, ...rest, looksLightOf: 'A001/A001C001.mp4' }).map((n) => n.code)).toContain('light-copy')
    expect(noticesOf({ ...input, ...rest, lightOf: 'A001/A001C001.mp4' }).map((n) => n.code)).toEqual(['marked-light'])
  })
})
