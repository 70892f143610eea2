/** By how much one picture lies beside another. */
import { lumaBytes, sampleSize } from './sample.ts'

/**
 * How far `made` lies to the right of and below `expected`, as shares of the picture's width and height. Both are samples (`sampleSize`) of
 * the same frame; it is right for shifts below about a hundredth. Null where the picture has too little in it to tell.
 * Method: the least squares of brightness against its slopes (gradient-based registration).
 */
export function displacement(made: Uint8Array, expected: Uint8Array): { readonly x: number; readonly y: number } | null {
  const { width, height } = sampleSize
  if (made.length !== expected.length || made.length < lumaBytes) return null
  const at = (p: Uint8Array, x: number, y: number): number => p[y * width + x] ?? 0
  // A difference in brightness alone is no movement.
  let lift = 0
  for (let i = 0; i < lumaBytes; i++) lift += (made[i] ?? 0) - (expected[i] ?? 0)
  lift /= lumaBytes
  let [xx, xy, yy, xt, yt] = [0, 0, 0, 0, 0]
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      // Slopes of the mean of both: the estimate is then right to the second order.
      const gx = (at(expected, x + 1, y) - at(expected, x - 1, y) + at(made, x + 1, y) - at(made, x - 1, y)) / 4
      const gy = (at(expected, x, y + 1) - at(expected, x, y - 1) + at(made, x, y + 1) - at(made, x, y - 1)) / 4
      const t = at(expected, x, y) - at(made, x, y) + lift
      xx += gx * gx
      xy += gx * gy
      yy += gy * gy
      xt += gx * t
      yt += gy * t
    }
  const det = xx * yy - xy * xy
  const cells = (width - 2) * (height - 2)
  // Edges in one direction only, or hardly any.
  if (Math.min(xx, yy) / cells < 4 || det < 0.1 * xx * yy) return null
  return { x: (yy * xt - xy * yt) / det / width, y: (xx * yt - xy * xt) / det / height }
}
