/** Where in a picture there is most to see. */
import { sampleSize } from './likeness.ts'

/** The middle (as shares of width and height) of the part of a sample, a third as wide and high, whose neighbouring pixels differ most. */
export function busiest(sample: Uint8Array): { readonly x: number; readonly y: number } {
  const { width, height } = sampleSize
  const [w, h] = [Math.floor(width / 3), Math.floor(height / 3)]
  const slope = (x: number, y: number): number => {
    const at = sample[y * width + x] ?? 0
    return Math.abs(at - (sample[y * width + x + 1] ?? at)) + Math.abs(at - (sample[(y + 1) * width + x] ?? at))
  }
  let best = { x: 0.5, y: 0.5, sum: -1 }
  // The edges show less of what a coding does.
  for (let top = 0; top + h < height; top += 3)
    for (let left = 0; left + w < width; left += 3) {
      let sum = 0
      for (let y = top; y < top + h - 1; y++) for (let x = left; x < left + w - 1; x++) sum += slope(x, y)
      if (sum > best.sum) best = { x: (left + w / 2) / width, y: (top + h / 2) / height, sum }
    }
  return { x: best.x, y: best.y }
}
