/** Where each frame of an event lies in its clip. */
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { CutEvent } from '../cutlist/index.ts'
import { digitsAt, type FrameRange, framesOf, type Rate, rate, stepOf } from '../time/index.ts'
import { frameAt, locate } from './locate.ts'
import type { ClipFacts } from './model.ts'

const rates = [rate(24000, 1001), rate(24), rate(25), rate(30000, 1001), rate(30), rate(50), rate(60000, 1001)]
const anyRate = fc.constantFrom(...rates)
const anySpeed = fc.constantFrom(null, { num: 1, den: 1 }, { num: -1, den: 1 }, { num: 1, den: 2 }, { num: 2, den: 1 }, { num: -3, den: 4 }, { num: 0, den: 1 })
const clipOf = (clipRate: Rate, start: number, frames: number): ClipFacts =>
  ({ id: 'a', name: 'a', place: '', rate: clipRate, frames, start, drop: false, hasPicture: true, hasSound: false, contentId: 'a', away: false }) as never
const eventOf = (facts: Partial<CutEvent>): CutEvent =>
  ({ id: 'e', recordIn: 0, kind: 'camera', clipName: 'a', reel: null, sourceRate: null, media: null, ...facts }) as never

/** The frames that are shown, one by one. */
const shown = (at: Parameters<typeof frameAt>[0], length: number): number[] => Array.from({ length }, (_, n) => frameAt(at, n))
const lies =
  ({ in: a, out: b }: FrameRange) =>
  (f: number) =>
    f >= a && f < b

describe('the position of an event', () => {
  it('shows frames of its range only, from the one it begins with, at every rate and speed', () => {
    fc.assert(
      fc.property(anyRate, anyRate, anySpeed, fc.integer({ min: 1, max: 200 }), fc.integer({ min: 0, max: 400 }), (clipRate, cutRate, speed, length, into) => {
        const start = framesOf({ h: 10, m: 0, s: 0, f: 0, drop: false }, clipRate) as number
        const label = (n: number) => digitsAt(n, cutRate, false)
        const named = framesOf({ h: 10, m: 0, s: 0, f: 0, drop: false }, cutRate) as number
        const sourceIn = label(named + into)
        const event = eventOf({ recordOut: length, speed, sourceIn, sourceOut: label(named + into + length) })
        const found = locate(event, clipOf(clipRate, start, 10_000), cutRate, 'list')
        expect(found).not.toBeNull()
        if (!found) return
        const frames = shown(found.at, length)
        expect(frames.every(lies(found.range))).toBe(true)
        expect(frames[0]).toBe(speed && speed.num < 0 ? found.range.out - 1 : found.range.in)
        // Nothing is left over: the last frame that it shows is less than a step from the end of the range.
        const step = stepOf(clipRate, cutRate, speed ?? undefined)
        const end = speed && speed.num < 0 ? found.range.in : found.range.out - 1
        expect(Math.abs((frames.at(-1) ?? 0) - end)).toBeLessThanOrEqual(Math.ceil(Math.abs(step.num) / step.den))
      }),
    )
  })
  it('counted by an edit copy shows what the copy shows, to the frame, whatever its range rounds to', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 300 }), fc.integer({ min: 1, max: 100 }), fc.integer({ min: 0, max: 30 }), (into, length, first) => {
        // 50 frames a second, copied at 25: each frame of the copy is every other one, from frame `first` on.
        const map = { first, original: rate(50), copy: rate(25) }
        const copy = { start: 0, drop: false, frames: 1000, map }
        const clip: ClipFacts = { ...clipOf(rate(50), 1_800_000, 2100), mapped: [copy as never] }
        const label = (n: number) => digitsAt(n, rate(25), false)
        const found = locate(eventOf({ recordOut: length, speed: null, sourceIn: label(into), sourceOut: label(into + length) }), clip, rate(25))
        expect(found?.countedAt).toBe('copy')
        if (found) expect(shown(found.at, length)).toEqual(Array.from({ length }, (_, n) => first + 2 * (into + n)))
      }),
    )
  })
})
