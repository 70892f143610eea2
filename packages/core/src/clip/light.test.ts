import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { type LightClip, lightCopies, noticesOf, type Technical } from './index.ts'

const technical = (over: Partial<Technical> = {}): Technical =>
  ({
    ...{ width: 4096, height: 2160, rate: rate(25), codec: 'H.264', dataRate: 100e6, hasPicture: true, fault: null, stamp: null, sequence: null },
    ...over,
  }) as Technical
const clip = (id: string, over: Partial<LightClip> = {}, t: Partial<Technical> = {}): LightClip => ({
  ...{ id, name: 'A001C001.mp4', start: 90_000, frames: 100, contentId: `content ${id}`, lightOf: null, keptOriginal: false, lightVerdicts: [] },
  ...over,
  technical: technical(t),
})
/** Which clip each is held to be a copy of, and how surely. */
const told = (...clips: LightClip[]): string[] => [...lightCopies(clips)].map(([id, l]) => `${id} ${l.standing} ${l.of}`)
const small = { width: 1280, height: 675 }

describe('a light copy taken in as an original', () => {
  const full = clip('full')
  it('is suspected by name, first frame and length, and by fewer pixels, whichever came first', () => {
    expect(told(full, clip('light', { name: 'A001C001_proxy.mov' }, small))).toEqual(['light suspected full'])
    expect(told(clip('light', { frames: 101 }, small), full)).toEqual(['light suspected full'])
    expect(told(full, clip('light', {}, { width: 4096, height: 2158 }))).toEqual(['light suspected full'])
  })
  it('or, with as many pixels, by less than half the data rate, whatever the codec', () => {
    expect(told(full, clip('light', {}, { codec: 'ProRes 422 Proxy', dataRate: 40e6 }))).toEqual(['light suspected full'])
    expect(told(full, clip('light', {}, { dataRate: 40e6 }))).toEqual(['light suspected full'])
    expect(told(full, clip('as heavy', {}, { codec: 'ProRes 422', dataRate: 60e6 }))).toEqual([])
    // More pixels are never the lighter ones, at whatever data rate.
    expect(told(full, clip('heavy', {}, { ...small, dataRate: 900e6 }))).toEqual(['heavy suspected full'])
  })
  it('is none where length, first frame, rate or name differ', () => {
    for (const other of [
      clip('a', { frames: 102 }, small),
      clip('b', { start: 90_001 }, small),
      clip('c', {}, { ...small, rate: rate(50) }),
      clip('d', { name: 'A001C002.mp4' }, small),
    ])
      expect(told(full, other), other.id).toEqual([])
  })
  it('without timecode needs the very length; of several larger ones with its name each comes into question', () => {
    const a = clip('a', { start: null, name: 'CLIP0001.mp4' })
    const light = clip('x', { start: 0, name: 'CLIP0001.mov' }, { width: 1280, height: 720 })
    expect(told(a, light)).toEqual(['x suspected a'])
    expect(told(a, { ...light, frames: 101 })).toEqual([])
    expect(lightCopies([a, { ...a, id: 'b' }, light]).get('x')?.untold).toEqual(['a', 'b'])
  })
  it('may be one of numbered pictures, which are called by what stands before their numbers', () => {
    const sequence = { base: 'A001C001.', ext: 'dng', digits: 6, first: 0, last: 99, missing: [] }
    expect(told(clip('raw', { name: 'A001C001.[0–99].dng' }, { sequence, dataRate: 900e6 }), clip('light', { name: 'A001C001.mov' }))).toEqual([
      'light suspected raw',
    ])
  })
  it('is proven by its pictures, and cleared by them, as long as both files are the same', () => {
    const light = clip('light', { lightVerdicts: [{ own: 'content light', of: 'content full', says: 'alike', likeness: 0.99 }] }, small)
    expect(told(full, light)).toEqual(['light proven full'])
    expect(told(clip('full', { contentId: 'another' }), light)).toEqual(['light suspected full'])
    const other = { ...light, lightVerdicts: [{ own: 'content light', of: 'content full', says: 'unlike' as const, likeness: 0.4 }] }
    expect(told(full, other)).toEqual([])
    const unsure = { ...light, lightVerdicts: [{ own: 'content light', of: 'content full', says: 'unsure' as const, likeness: 0.9 }] }
    expect(lightCopies([full, unsure]).get('light')).toEqual({ standing: 'suspected', of: 'full', untold: [] })
  })
  it('is what a person says it is', () => {
    expect(told(full, clip('light', { lightOf: 'full' }, small))).toEqual(['light marked full'])
    const alike = [{ own: 'content light', of: 'content full', says: 'alike' as const, likeness: 0.99 }]
    expect(told(full, clip('light', { keptOriginal: true, lightVerdicts: alike }, small))).toEqual([])
    // A marked one is no original that others could be copies of.
    expect(told(clip('full', { lightOf: 'elsewhere' }), clip('light', {}, small))).toEqual(['full marked elsewhere'])
  })
  it('with a stamp is proven, though the original that it names may not be here', () => {
    expect(told(full, clip('made here', {}, { ...small, stamp: 'content full' }))).toEqual(['made here proven full'])
    expect(told(clip('made here', {}, { ...small, stamp: 'x' }))).toEqual(['made here proven null'])
  })
  it('never takes every clip of a group, and points at one that is larger, in any order', () =>
    fc.assert(
      fc.property(
        fc.array(fc.record({ width: fc.integer({ min: 100, max: 400 }), dataRate: fc.integer({ min: 1, max: 40 }) }), { minLength: 2, maxLength: 8 }),
        fc.integer(),
        (list, by) => {
          const clips = list.map((t, i) => clip(`${i}`, {}, { height: 200, ...t }))
          const light = lightCopies(clips)
          expect(light.size).toBeLessThan(clips.length)
          const key = (c: LightClip | undefined) => (c?.technical.width ?? 0) * 1000 + (c?.technical.dataRate ?? 0)
          for (const [id, l] of light) expect(key(clips.find((c) => c.id === l.of))).toBeGreaterThan(key(clips.find((c) => c.id === id)))
          const turned = [...clips.slice(Math.abs(by) % clips.length), ...clips.slice(0, Math.abs(by) % clips.length)]
          expect([...lightCopies(turned)].sort()).toEqual([...light].sort())
        },
      ),
    ))
  it('is noticed; once a person or its pictures told, nothing else is said of it', () => {
    const input = { technical: technical({ chroma: '', scan: 'progressive', pixelAspect: 1, rotation: 0 }), reel: null, start: 0, sameNames: 1 }
    const rest = { projectRate: rate(25), projectShape: null, peaks: null }
    const notices = (standing: 'suspected' | 'marked' | 'proven') => noticesOf({ ...input, ...rest, light: { standing, of: 'A001/A001C001.mp4' } })
    expect(notices('suspected').map((n) => n.code)).toContain('light-copy')
    expect(notices('marked').map((n) => [n.code, n.text])).toEqual([['marked-light', expect.stringMatching(/^Marked as a light copy of A001/)]])
    expect(notices('proven').map((n) => [n.code, n.text])).toEqual([['marked-light', expect.stringMatching(/^Its pictures are those of A001/)]])
  })
})
