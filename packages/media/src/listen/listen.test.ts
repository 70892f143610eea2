/** What is read off a whole file, from FFmpeg's own words. */
import { describe, expect, it } from 'vitest'
import { readPeaks, readRates } from './listen.ts'

describe('peaks', () => {
  it('are read a channel a line, silence as the least there is', () => {
    const said =
      '[Parsed_astats_0 @ 0x1] Channel: 1\n[Parsed_astats_0 @ 0x1] Peak level dB: -6.020600\n[x] Peak level dB: -inf\n[x] Peak level dB: 0.000000\n[x] Peak level dB: -240.5\n'
    expect(readPeaks(said)).toEqual([-6.02, -200, 0, -200])
    expect(readPeaks('nothing')).toEqual([])
  })
})

describe('the data rate', () => {
  it('is the bits of every second, each stream by its own clock, counted from the earliest', () => {
    const list =
      '#tb 0: 1/25\n#tb 1: 1/48000\n0, -1, 50, 1, 100, 0x1\n0, 0, 74, 1, 100, 0x2, F=0x0\n0, 1, 75, 1, 300, 0x3\n1, 96000, 96000, 960, 10, 0x4\n1, 240000, 240000, 960, 20, 0x5\n'
    expect(readRates(list)).toEqual([1680, 2400, 0, 160])
    expect(readRates('')).toEqual([])
    // A time that is not told, and one that cannot be.
    const odd =
      '#tb 0: 1/90000\n0, 0, 0, 1, 100, 0x1\n0, 90000, 90000, 1, 10, 0x2\n0, -9223372036854775808, -9223372036854775808, 1, 20, 0x3\n0, 0, 9000000000000, 1, 30, 0x4\n'
    expect(readRates(odd)).toEqual([800, 480])
  })
})
