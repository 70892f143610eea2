/** Where in a picture there is most to see. */
import { sampleSize } from './sample.ts'

/**
 * The middle (as shares of width and height) of the part, of such shares of the picture's width and height, that holds most detail. `map`: how much
 * detail there is, a byte for each field of a grid of the size of samples (`sampleSize`), taken from the picture at its own pixels: what is fine is
 * even in a small sample.
 */
export function busiest(map: Uint8Array, part: { readonly width: number; readonly height: number }): { readonly x: number; readonly y: number } {
  const { width, height } = sampleSize
  const size = (share: number, all: number): number => Math.max(3, Math.min(all - 2, Math.round(share * all)))
  const [w, h] = [size(part.width, width), size(part.height, height)]
  let best = { x: 0.5, y: 0.5, sum: -1 }
  // The edges show less of what a coding does.
  for (let top = 1; top + h < height; top++)
    for (let left = 1; left + w < width; left++) {
      let sum = 0
      for (let y = top; y < top + h; y++) for (let x = left; x < left + w; x++) sum += map[y * width + x] ?? 0
      if (sum > best.sum) best = { x: (left + w / 2) / width, y: (top + h / 2) / height, sum }
    }
  return { x: best.x, y: best.y }
}
