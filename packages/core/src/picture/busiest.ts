/** Where in a picture there is most to see. */
import { sampleSize } from './likeness.ts'

/** The middle (as shares of width and height) of the part of a sample, of such shares of its width and height, whose neighbouring pixels differ most. */
export function busiest(sample: Uint8Array, part: { readonly width: number; readonly height: number }): { readonly x: number; readonly y: number } {
  const { width, height } = sampleSize
  const size = (share: number, all: number): number => Math.max(3, Math.min(all - 2, Math.round(share * all)))
  const [w, h] = [size(part.width, width), size(part.height, height)]
  const slope = (x: number, y: number): number => {
    const at = sample[y * width + x] ?? 0
    return Math.abs(at - (sample[y * width + x + 1] ?? at)) + Math.abs(at - (sample[(y + 1) * width + x] ?? at))
  }
  let best = { x: 0.5, y: 0.5, sum: -1 }
  // The edges show less of what a coding does.
  for (let top = 1; top + h < height; top += 2)
    for (let left = 1; left + w < width; left += 2) {
      let sum = 0
      for (let y = top; y < top + h - 1; y++) for (let x = left; x < left + w - 1; x++) sum += slope(x, y)
      if (sum > best.sum) best = { x: (left + w / 2) / width, y: (top + h / 2) / height, sum }
    }
  return { x: best.x, y: best.y }
}
