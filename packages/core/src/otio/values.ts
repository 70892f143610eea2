/** The small values of OpenTimelineIO: schema names, times at rates, speeds. */
import type { Cdl } from '../look/index.ts'
import { nominal, parseRate, type Rate, type Step } from '../time/index.ts'
import type { JsonObject, JsonValue } from './json.ts'

export const objectOf = (v: JsonValue | undefined): JsonObject | null => (v !== null && typeof v === 'object' && !Array.isArray(v) ? v : null)
export const listOf = (v: JsonValue | undefined): JsonValue[] => (Array.isArray(v) ? v : [])
export const textOf = (v: JsonValue | undefined): string | null => (typeof v === 'string' && v.trim() !== '' ? v : null)

/** `Clip` of `Clip.2`; empty where none is given. */
export const schemaOf = (o: JsonObject | null): string => textOf(o?.OTIO_SCHEMA)?.replace(/\.\d+$/, '') ?? ''

/** A RationalTime: a value at a rate as the file gives it, and that rate exactly where it is a frame rate. */
export interface Time {
  readonly value: number
  readonly perSecond: number
  readonly rate: Rate | null
}

/** Longer than any cut: ten days at 120 frames a second. */
const longest = 10 * 86_400 * 120

/** Null where it is no time: not a number, no rate, or beyond ten days. */
export function timeOf(v: JsonValue | undefined): Time | null {
  const o = objectOf(v)
  const [value, perSecond] = [o?.value, o?.rate]
  if (typeof value !== 'number' || typeof perSecond !== 'number') return null
  if (!Number.isFinite(value) || !Number.isFinite(perSecond) || perSecond <= 0 || perSecond > 1e7) return null
  if (Math.abs(value / perSecond) * 120 > longest) return null
  return { value, perSecond, rate: perSecond <= 120 ? parseRate(String(perSecond)) : null }
}

/** A stretch of time, as long as it says from where it starts. */
export interface TimeRange {
  readonly start: Time
  readonly duration: Time
}
export function rangeOf(v: JsonValue | undefined): TimeRange | null {
  const o = objectOf(v)
  const [start, duration] = [timeOf(o?.start_time), timeOf(o?.duration)]
  return start && duration && duration.value >= 0 ? { start, duration } : null
}

/** Frames at `r`, perhaps not whole. A time at the same whole count as `r` (24 for 23.976) counts frame for frame. */
export function framesAt(t: Time, r: Rate): number {
  if (t.rate && nominal(t.rate) === nominal(r)) return t.value
  return t.rate ? (t.value * t.rate.den * r.num) / (t.rate.num * r.den) : (t.value * r.num) / (r.den * t.perSecond)
}

/** A decimal as the simplest fraction within a millionth of it, by continued fractions; null beyond a factor of 1,000. */
export function fractionOf(x: number): Step | null {
  if (!Number.isFinite(x) || Math.abs(x) > 1000) return null
  let [a, b, c, d] = [0, 1, 1, 0]
  let rest = Math.abs(x)
  for (let i = 0; i < 20; i++) {
    const whole = Math.floor(rest)
    ;[a, b, c, d] = [c, d, a + whole * c, b + whole * d]
    if (Math.abs(c / d - Math.abs(x)) < 1e-6 || rest - whole < 1e-9) break
    rest = 1 / (rest - whole)
  }
  return { num: c === 0 ? 0 : x < 0 ? -c : c, den: d }
}

const reelKey = /^(source_?)?(reel|tape)([\s_]?(name|id))?$/i

/** A reel among metadata, at most four levels down. */
export function reelIn(v: JsonValue | undefined, depth = 0): string | null {
  const o = objectOf(v)
  if (!o || depth > 4) return null
  for (const [key, inner] of Object.entries(o)) if (reelKey.test(key) && textOf(inner)) return textOf(inner)
  for (const inner of Object.values(o)) {
    const found = reelIn(inner, depth + 1)
    if (found) return found
  }
  return null
}

/** A correction among metadata, as OTIO's adapter for lists keeps it (`cdl`: `asc_sop`, `asc_sat`); null where there is none that can be used. */
export function cdlIn(v: JsonValue | undefined): Cdl | null {
  const o = objectOf(objectOf(v)?.cdl)
  if (!o) return null
  const sop = objectOf(o.asc_sop)
  const triple = (name: string, plain: number): number[] | null => {
    const list = sop?.[name]
    if (list === undefined) return [plain, plain, plain]
    const numbers = listOf(list).filter((n) => typeof n === 'number' && Number.isFinite(n)) as number[]
    return numbers.length === 3 ? numbers : null
  }
  const [slope, offset, power] = [triple('slope', 1), triple('offset', 0), triple('power', 1)]
  const saturation = o.asc_sat === undefined ? 1 : o.asc_sat
  if (!slope || !offset || !power || typeof saturation !== 'number' || !(saturation >= 0)) return null
  if (slope.some((n) => n < 0) || power.some((n) => n <= 0)) return null
  return { slope, offset, power, saturation } as unknown as Cdl
}
