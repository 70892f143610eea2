/** Chance that comes again. */

/** A repeatable stream of numbers from -1 to 1. */
export function chance(seed: number): () => number {
  let x = (seed * 2654435761) >>> 0 || 1
  return () => {
    x ^= x << 13
    x ^= x >>> 17
    x ^= x << 5
    return (x >>> 0) / 2 ** 31 - 1
  }
}
