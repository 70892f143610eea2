import { describe, expect, it } from 'vitest'
import { rate } from '../time/index.ts'
import { joined, oneRecording, type PartFacts, splitNames, type Technical } from './index.ts'

/** A part of 10 s at 25 frames, written right on after the one before. */
const part = (n: number, over: Partial<Technical> = {}, size = 1000, late = 0): PartFacts => ({
  technical: {
    wrapper: 'mov',
    longGop: true,
    codec: 'H.264',
    width: 1920,
    height: 1080,
    rate: rate(25),
    drop: false,
    sound: null,
    frames: 250,
    start: 90_000 + 250 * n,
    fault: null,
    ...over,
  } as Technical,
  size,
  modified: (n + 1) * 10_000 + late,
})

describe('names like parts of one recording', () => {
  it('are numbered from 0 or 1 behind a name with a number of its own', () => {
    expect(splitNames(['A002C005_002.mov', 'A002C005_001.mov', 'A002C006_001.mov', 'B001C001.mov'])).toEqual([['A002C005_001.mov', 'A002C005_002.mov']])
    expect(splitNames(['CLIP0001-00.mp4', 'CLIP0001-01.mp4'])).toHaveLength(1)
  })
  it('are not takes, gaps, or numbers alone', () => {
    expect(splitNames(['A001C001.mov', 'A001C002.mov'])).toEqual([])
    expect(splitNames(['A002C005_001.mov', 'A002C005_003.mov'])).toEqual([])
    expect(splitNames(['A002C005_002.mov', 'A002C005_003.mov'])).toEqual([])
    expect(splitNames(['moon_001.mov', 'moon_002.mov'])).toEqual([])
    expect(splitNames(['A002C005_001.mov', 'A002C005_002.mp4'])).toEqual([])
  })
})

describe('parts', () => {
  it('are one recording where each begins at the frame, and the moment, at which the one before ended', () => {
    expect(oneRecording([part(0), part(1), part(2)])).toBe(true)
    expect(oneRecording([part(0), part(1, { start: 90_251 })])).toBe(false)
    expect(oneRecording([part(0), part(1, {}, 1000, 4000)])).toBe(false)
  })
  it('or were ended by their size, whenever they were written', () => {
    const four = 2 ** 32
    expect(oneRecording([part(0, {}, four * 0.995), part(1, {}, 1000, 99_000)])).toBe(true)
    expect(oneRecording([part(0, {}, 5000), part(1, {}, 5010, 9000), part(2, {}, 800, 99_000)])).toBe(true)
    expect(oneRecording([part(0, {}, 5000), part(1, {}, 800, 99_000)])).toBe(false)
  })
  it('may have their number within their names, before that of the clip', () => {
    expect(splitNames(['GH010034.MP4', 'GH020034.MP4', 'GH010035.MP4', 'GH030034.MP4', 'A0010001.MOV'])).toEqual([
      ['GH010034.MP4', 'GH020034.MP4', 'GH030034.MP4'],
    ])
    expect(splitNames(['GH020034.MP4', 'GH030034.MP4'])).toEqual([])
  })
  it('are none where they are unlike, without timecode, or damaged', () => {
    expect(oneRecording([part(0), part(1, { width: 1280 })])).toBe(false)
    expect(oneRecording([part(0), part(1, { rate: rate(24) })])).toBe(false)
    expect(oneRecording([part(0, { start: null }), part(1, { start: null })])).toBe(false)
    expect(oneRecording([part(0), part(1, { fault: 'x' })])).toBe(false)
    const counted = { reading: { how: 'count', offset: 0, margin: 0 } } as const
    expect(oneRecording([part(0, counted), part(1, counted)])).toBe(false)
    expect(oneRecording([part(0)])).toBe(false)
  })
  it('count together', () => {
    expect(joined([part(0), part(1, { frames: 50 })], ['a', 'b'])).toMatchObject({
      frames: 300,
      start: 90_000,
      parts: [
        { name: 'a', frames: 250 },
        { name: 'b', frames: 50 },
      ],
      dataRate: Math.round((2000 * 8) / 12),
    })
  })
})
