/**
 * The edge code of made-up media: a strip of blocks along the lower edge of the picture that holds a clip number and a frame
 * number, so that tests and people can read which frame they see.
 *
 * From left to right: white, black; 10 bits of clip number; 14 bits of frame number, most significant first; 4 bits of check
 * sum; black, white. A one is white. The strip spans the middle 80 % of the width and the lowest 1/36 of the height.
 */
import type { Placement } from '../framing/index.ts'

export const edgeBlocks = 32
const clipBits = 10
const frameBits = 14

const checksum = (clip: number, frame: number): number => {
  let sum = 9
  for (let v = clip * 2 ** frameBits + frame; v > 0; v = Math.floor(v / 16)) sum = (sum * 3 + (v % 16)) % 16
  return sum
}

const bits = (value: number, count: number): number[] => Array.from({ length: count }, (_, i) => Math.floor(value / 2 ** (count - 1 - i)) % 2)

/** The blocks of one frame, 1 for white. */
export function edgeCode(clip: number, frame: number): number[] {
  return [1, 0, ...bits(clip, clipBits), ...bits(frame, frameBits), ...bits(checksum(clip, frame), 4), 0, 1]
}

/** Where the strip lies in a picture of this size, in pixels. */
export function edgeStrip(width: number, height: number): Placement {
  const h = Math.max(2, Math.round(height / 72) * 2)
  const w = Math.round((width * 0.8) / 2) * 2
  return { x: Math.round((width - w) / 4) * 2, y: height - h, width: w, height: h }
}

/**
 * Reads the strip from a grey picture (one byte a pixel, `stride` bytes a row) whose own picture lies at `place` in it.
 * Null where no strip is readable.
 */
export function readEdgeCode(grey: Uint8Array, stride: number, place: Placement): { clip: number; frame: number } | null {
  const strip = edgeStrip(place.width, place.height)
  const values: number[] = []
  for (let b = 0; b < edgeBlocks; b++) {
    let sum = 0
    let n = 0
    for (let y = Math.round(place.y + strip.y + strip.height * 0.4); y < place.y + strip.y + strip.height * 0.75; y++)
      for (let q = 0.35; q <= 0.65; q += 0.1) {
        sum += grey[y * stride + Math.round(place.x + strip.x + (strip.width * (b + q)) / edgeBlocks)] ?? 0
        n++
      }
    values.push(sum / n)
  }
  const [white = 0, black = 255] = values
  if (white - black < 60) return null
  const middle = (white + black) / 2
  const on = values.map((v): number => (v > middle ? 1 : 0))
  const number = (from: number, count: number) => on.slice(from, from + count).reduce((v, bit) => v * 2 + bit, 0)
  const clip = number(2, clipBits)
  const frame = number(2 + clipBits, frameBits)
  const sum = number(2 + clipBits + frameBits, 4)
  return sum === checksum(clip, frame) && on[30] === 0 && on[31] === 1 ? { clip, frame } : null
}
