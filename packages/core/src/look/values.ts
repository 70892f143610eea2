/** Code values of a picture as its file holds them, and what they are as red, green and blue. */
import type { Rgb } from './lut.ts'

/** How code values are meant: Y′CbCr by a matrix (FFmpeg's names), or red, green and blue; limited or full range; bits. */
export interface CodeKind {
  readonly kind: 'ycbcr' | 'rgb'
  readonly matrix: string
  readonly full: boolean
  readonly depth: number
}

/** Weights of red and blue in luma (BT.601, BT.709, BT.2020). */
const weights: Readonly<Record<string, readonly [number, number]>> = { smpte170m: [0.299, 0.114], bt470bg: [0.299, 0.114], bt2020nc: [0.2627, 0.0593] }

/** Red, green and blue, 0 to 1 from black to white; beyond where the codes lie beyond (BT.2100, table 9). */
export function codesToRgb(codes: Rgb, { kind, matrix, full, depth }: CodeKind): Rgb {
  const unit = 2 ** (depth - 8)
  const top = 2 ** depth - 1
  const level = (v: number): number => (full ? v / top : (v - 16 * unit) / (219 * unit))
  if (kind === 'rgb') return codes.map(level) as unknown as Rgb
  const chroma = (v: number): number => (v - 2 ** (depth - 1)) / (full ? top : 224 * unit)
  const [wr, wb] = weights[matrix] ?? [0.2126, 0.0722]
  const [y, cb, cr] = [level(codes[0]), chroma(codes[1]), chroma(codes[2])]
  const r = y + 2 * (1 - wr) * cr
  const b = y + 2 * (1 - wb) * cb
  return [r, (y - wr * r - wb * b) / (1 - wr - wb), b]
}
