import { describe, expect, it } from 'vitest'
import { codingOf, specOf } from '../specs/index.ts'
import { aboutTime, bytesText, bytesUnder, pixelsOf, secondsLeft, secondsUnder, anglesByDrive, anglesByMachine, mostAngles, triedHeights } from './index.ts'

describe('estimates', () => {
  const piece = { rate: { num: 25, den: 1 }, frames: 250, size: { width: 1920, height: 1080 }, pixelAspect: 1, channels: 2, seconds: 10 }
  it('of space grow with frames, size and sound', () => {
    const spec = specOf('ProRes proxy 1080')
    if (!spec) throw new Error('no spec')
    const one = bytesUnder(spec, piece)
    expect(bytesUnder(spec, { ...piece, frames: 500, seconds: 20 })).toBeGreaterThan(one * 1.9)
    expect(bytesUnder(spec, { ...piece, channels: 0 })).toBe(one - 10 * 2 * 48000 * 3)
  })
  it('of time left follow what has been done', () => {
    expect(secondsLeft(25, 100, 10)).toBe(30)
    expect(secondsLeft(0, 100, 10)).toBeNull()
  })
  it('are read in decimal units', () => expect([999, 1_300_000_000, 42_800_000].map(bytesText)).toEqual(['999 B', '1.3 GB', '42.8 MB']))
  it('of time count the pixels read and made, at the speed that was measured or at a first guess', () => {
    const spec = specOf('h264-proxy-720')
    if (!spec) throw new Error('no spec')
    expect(pixelsOf(spec, piece)).toBe(250 * (1920 * 1080 + 1280 * 720))
    const guess = secondsUnder(spec, [piece, piece], null)
    expect(guess).toBe(Math.ceil((2 * pixelsOf(spec, piece)) / codingOf(spec.coding).pixelsPerSecond))
    expect(secondsUnder(spec, [piece, piece], { pixelsPerSecond: codingOf(spec.coding).pixelsPerSecond / 2 })).toBeGreaterThanOrEqual(guess * 2 - 1)
    expect(secondsUnder(spec, [], null)).toBe(0)
  })
  it('are said roughly, as they are meant', () =>
    expect([1, 12, 49, 50, 100, 3599, 3600, 5400].map(aboutTime)).toEqual([
      'about 1 s',
      'about 10 s',
      'about 50 s',
      'about 1 min',
      'about 2 min',
      'about 60 min',
      'about 1 h 0 min',
      'about 1 h 30 min',
    ]))
})

describe('streams at once', () => {
  it('are what machine and drive keep up with, a part of both kept for everything else', () => {
    expect([anglesByMachine(250, { num: 25, den: 1 }), anglesByMachine(20, { num: 25, den: 1 }), anglesByMachine(1e6, { num: 24000, den: 1001 })]).toEqual([
      8,
      0,
      mostAngles,
    ])
    expect([anglesByDrive(100e6, 10e6), anglesByDrive(1e6, 10e6), anglesByDrive(1e6, 0)]).toEqual([8, 0, mostAngles])
  })
  it('are tried at sizes no larger than the picture', () => expect([triedHeights(1080), triedHeights(300)]).toEqual([[1080, 720, 540, 360], []]))
})
