import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { codingOf, specOf } from '../specs/index.ts'
import {
  aboutTime,
  bytesText,
  bytesUnder,
  firstGuess,
  handlingSeconds,
  secondsLeft,
  shareDone,
  type WorkNow,
  workLeft,
  anglesByDrive,
  anglesByMachine,
  mostAngles,
  ownReserve,
  targetReserve,
  triedHeights,
} from './index.ts'

describe('estimates', () => {
  const piece = { rate: { num: 25, den: 1 }, frames: 250, size: { width: 1920, height: 1080 }, pixelAspect: 1, channels: 2, seconds: 10 }
  it('of space grow with frames, size and sound', () => {
    const spec = specOf('ProRes proxy 1080')
    if (!spec) throw new Error('no spec')
    const one = bytesUnder(spec, piece)
    expect(bytesUnder(spec, { ...piece, frames: 500, seconds: 20 })).toBeGreaterThan(one * 1.9)
    expect(bytesUnder(spec, { ...piece, channels: 0 })).toBe(one - 10 * 2 * 48000 * 3)
  })
  it('leave room to others: a hundredth of a disk for them, a twentieth for what this works with', () => {
    expect([targetReserve(50e9), targetReserve(4e12), targetReserve(4_000_000)]).toEqual([500_000_000, 1e9, 40_000])
    expect([ownReserve(20e9), ownReserve(4e12)]).toEqual([1e9, 2e9])
  })
  it('of time left follow what has been done', () => {
    expect(secondsLeft(25, 100, 10)).toBe(30)
    expect(secondsLeft(0, 100, 10)).toBeNull()
  })
  it('are read in decimal units', () => expect([999, 1_300_000_000, 42_800_000].map(bytesText)).toEqual(['999 B', '1.3 GB', '42.8 MB']))
  it('of time count handling, the pixels read, and those made at the speed of the coding', () => {
    const [h264, prores, rewrap] = ['h264-proxy-720', 'prores-proxy-1080', 'rewrapped'].map(specOf)
    if (!h264 || !prores || !rewrap) throw new Error('no spec')
    const of = (spec: typeof h264, p: object = {}) => firstGuess([{ spec, piece: { ...piece, ...p } }])[0] ?? 0
    const made = (250 * 1280 * 720) / codingOf(h264.coding).pixelsPerSecond
    expect(of(h264, { size: { width: 3840, height: 2160 } }) - of(h264)).toBeCloseTo((of(h264) - made - handlingSeconds) * 3, 6)
    // What is raw takes far longer to read; what is only moved goes by its bytes.
    expect(of(h264, { raw: true })).toBeGreaterThan(10 * of(h264))
    expect(of(rewrap, { dataRate: 1e9 }) - handlingSeconds).toBeGreaterThan(5 * (of(rewrap, { dataRate: 1e8 }) - handlingSeconds))
    // Two copies from one decode read the original once.
    const [a = 0, b = 0] = firstGuess([h264, prores].map((spec) => ({ spec, piece })))
    const read = of(h264) - made - handlingSeconds
    expect(a + b).toBeCloseTo(of(h264) + of(prores) - read, 6)
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

describe('the time left of a batch', () => {
  const batch = (more: Partial<WorkNow>): WorkNow => ({ cost: 100, ended: 0, made: 0, spent: 0, inHand: [], handled: false, ...more })
  const task = (share: number, spent: number, beside: number | null = 1, cost = 10) => ({ cost, share, spent, beside })

  it('goes by what its work took, not by how many tasks there are', () => {
    // Twice as slow as guessed: 20 of 100 are made, 80 are left, and take 160 seconds.
    expect(workLeft(batch({ ended: 15, made: 15, spent: 30, inHand: [task(0.5, 10)] }))).toBeCloseTo(160)
  })
  it('does not take what failed for made', () => {
    expect(workLeft(batch({ ended: 60, made: 15, spent: 30, inHand: [task(0.5, 10)] }))).toBeCloseTo(70)
  })
  it('is halved by a second machine, and doubled by work of others on the same one', () => {
    const one = workLeft(batch({ ended: 50, made: 50, spent: 50, inHand: [task(0.5, 5)] })) ?? 0
    expect(workLeft(batch({ ended: 50, made: 50, spent: 50, inHand: [task(0.25, 2.5), task(0.25, 2.5)] }))).toBeCloseTo(one / 2)
    expect(workLeft(batch({ ended: 50, made: 50, spent: 50, inHand: [task(0.5, 5, 2)] }))).toBeCloseTo(one * 2)
  })
  it('is not said before anything is made, or while everything is held', () => {
    expect(workLeft(batch({ inHand: [task(0, 3)] }))).toBeNull()
    expect(workLeft(batch({ made: 50, ended: 50, spent: 50, inHand: [task(0.5, 5, null)] }))).toBeNull()
    expect(workLeft(batch({ made: 50, ended: 50, spent: 50 }))).toBeNull()
  })
  it('keeps a part of a copy for its check', () => {
    expect(shareDone(batch({ cost: 10, inHand: [task(1, 5)] }))).toBe(1)
    expect(shareDone(batch({ cost: 10, inHand: [task(1, 5)], handled: true }))).toBeCloseTo(1 - handlingSeconds / 10)
  })
  it('is right all along where the guesses are right but for one factor, whatever the tasks are', () => {
    const costs = fc.array(fc.double({ min: 0.5, max: 500, noNaN: true }), { minLength: 2, maxLength: 30 })
    fc.assert(
      fc.property(costs, fc.double({ min: 0.1, max: 10, noNaN: true }), fc.double({ min: 0.05, max: 0.95, noNaN: true }), (list, factor, at) => {
        const cost = list.reduce((a, b) => a + b, 0)
        // One after another: where the batch is at a part of its way.
        let [ended, i] = [0, 0]
        while (ended + (list[i] ?? 0) < at * cost) ended += list[i++] ?? 0
        const here = list[i] ?? 0
        const share = (at * cost - ended) / here
        const now = batch({ cost, ended, made: ended, spent: factor * ended, inHand: [task(share, factor * share * here, 1, here)] })
        const left = workLeft(now)
        if (factor * at * cost < 0.5) expect(left).toBeNull()
        else expect(left).toBeCloseTo(factor * (1 - at) * cost, 3)
        expect(shareDone(now)).toBeCloseTo(at, 6)
      }),
    )
  })
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
