/** Exact frame rates as whole-number fractions; nothing here rounds. */

/** Frames per second as `num`/`den`, in lowest terms, both positive. */
export interface Rate {
  readonly num: number
  readonly den: number
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b))

/** A rate in lowest terms. Throws a RangeError unless both parts are positive whole numbers. */
export function rate(num: number, den = 1): Rate {
  if (!Number.isInteger(num) || !Number.isInteger(den) || num <= 0 || den <= 0) throw new RangeError(`Not a frame rate: ${num}/${den}`)
  const g = gcd(num, den)
  return { num: num / g, den: den / g }
}

/**
 * Reads `25`, `24000/1001`, `23.976`, `29.97`: decimals within 0.005 of a rate times 1000/1001 become that rate.
 * Returns null for anything else, zero included (ffprobe writes 0/0 for "unknown").
 */
export function parseRate(text: string): Rate | null {
  const fraction = /^\s*(\d+)\s*\/\s*(\d+)\s*$/.exec(text)
  if (fraction) {
    const num = Number(fraction[1])
    const den = Number(fraction[2])
    return num > 0 && den > 0 ? rate(num, den) : null
  }
  if (!/^\s*\d+(\.\d+)?\s*$/.test(text)) return null
  const value = Number(text)
  if (!(value > 0) || value > 1000) return null
  if (Number.isInteger(value)) return rate(value)
  const nominal = Math.ceil(value)
  if (Math.abs((nominal * 1000) / 1001 - value) < 0.005) return rate(nominal * 1000, 1001)
  return rate(Math.round(value * 1000), 1000)
}

/** Reads a rate as a person types it: from 1 to 1000 frames per second, as parts that fit into 31 bits. Null for anything else. */
export function typedRate(text: string): Rate | null {
  const r = parseRate(text)
  return r && r.num >= r.den && r.num <= 1000 * r.den && r.num < 2 ** 31 ? r : null
}

/** The whole number of frames that timecode counts in a second: 24 for 24000/1001 (ST 12-1, 5.1). */
export const nominal = (r: Rate): number => Math.ceil(r.num / r.den)

export const sameRate = (a: Rate, b: Rate): boolean => a.num * b.den === b.num * a.den

/** Frames per second for display only: `25`, `23.976`. */
export const rateText = (r: Rate): string => (r.den === 1 ? String(r.num) : String(Math.round((r.num / r.den) * 1000) / 1000))

/** The rate as `num/den`, for files and commands. */
export const rateFraction = (r: Rate): string => `${r.num}/${r.den}`

/** Drop-frame counting exists at multiples of 30000/1001 (ST 12-1, 5.2.2; ST 12-3 for the higher ones). */
export const dropPossible = (r: Rate): boolean => r.den === 1001 && r.num % 30000 === 0

/** floor(a·b/c) in exact integers; b and c positive. */
export function mulDivFloor(a: number, b: number, c: number): number {
  const direct = a * b
  if (Number.isSafeInteger(direct)) return Math.floor(direct / c)
  const x = BigInt(a) * BigInt(b)
  const q = x / BigInt(c)
  return Number(x < 0n && q * BigInt(c) !== x ? q - 1n : q)
}

/** ceil(a·b/c) in exact integers; b and c positive. */
export const mulDivCeil = (a: number, b: number, c: number): number => 0 - mulDivFloor(-a, b, c)

/** The frame at `to` that is shown at the moment frame `frame` at `from` begins (at or before it). */
export const rescaleFloor = (frame: number, from: Rate, to: Rate): number => mulDivFloor(frame, to.num * from.den, to.den * from.num)

/** Seconds that `frames` last: for display and for command arguments, never for sums. */
export const seconds = (frames: number, r: Rate): number => (frames * r.den) / r.num
