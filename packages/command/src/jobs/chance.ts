/** Chance that comes out the same for the same seed. */
export interface Chance {
  /** A whole number from `from` to `to`, both included. */
  whole(from: number, to: number): number
  /** True in one of `n` cases. */
  once(n: number): boolean
  one<T>(list: readonly T[]): T
}

export function chance(seed: number): Chance {
  let state = (seed ^ 0x9e3779b9) >>> 0
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32
  }
  const whole = (from: number, to: number) => from + Math.floor(next() * (to - from + 1))
  return { whole, once: (n) => whole(1, n) === 1, one: (list) => list[whole(0, list.length - 1)] as (typeof list)[number] }
}
