import { describe, expect, it } from 'vitest'
import { lossesUnder, sizeUnder, specOf, specs } from './index.ts'

describe('specs', () => {
  it('never enlarge, and say what is lost', () => {
    for (const s of specs) expect(sizeUnder(s, { width: 640, height: 360 })).toEqual({ width: 640, height: 360 })
    expect(lossesUnder(specs[0] as (typeof specs)[number], { depth: 10, chroma: '4:2:2' })).toEqual([
      '8 bit, the original has 10',
      '4:2:0 colour, the original has 4:2:2',
    ])
  })
  it('are found by code and by name in any case, and by nothing else', () => {
    for (const s of specs) expect([specOf(s.code), specOf(s.name.toUpperCase())]).toEqual([s, s])
    expect(specOf('h264')).toBeNull()
  })
  it('keep the shape of the picture: of wide ones, of tall ones, of pixels that are not square', () => {
    const proxy = specOf('h264-proxy-720')
    if (!proxy) throw new Error('no spec')
    expect(sizeUnder(proxy, { width: 4096, height: 2160 })).toEqual({ width: 1366, height: 720 })
    expect(sizeUnder(proxy, { width: 1080, height: 1920 })).toEqual({ width: 406, height: 720 })
    expect(sizeUnder(proxy, { width: 1440, height: 1080 }, 4 / 3)).toEqual({ width: 1280, height: 720 })
  })
  it('give up nothing where they hold as much as the original', () => {
    const pull = specOf('pull-dnxhr-hqx')
    if (!pull) throw new Error('no spec')
    expect(lossesUnder(pull, { depth: 10, chroma: '4:2:2' })).toEqual([])
    expect(lossesUnder(pull, { depth: 12, chroma: '4:4:4' })).toEqual(['10 bit, the original has 12', '4:2:2 colour, the original has 4:4:4'])
  })
})
