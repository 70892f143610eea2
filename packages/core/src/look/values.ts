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

/** How codes of a kind become shares of white: black, white and the range of chroma, and the weights of red and blue in luma. */
function scale({ matrix, full, depth }: CodeKind) {
  const unit = 2 ** (depth - 8)
  const top = 2 ** depth - 1
  const [wr, wb] = weights[matrix] ?? [0.2126, 0.0722]
  return { black: full ? 0 : 16 * unit, white: full ? top : 219 * unit, middle: 2 ** (depth - 1), chroma: full ? top : 224 * unit, wr, wb }
}

/** Red, green and blue, 0 to 1 from black to white; beyond where the codes lie beyond (BT.2100, table 9). */
export function codesToRgb(codes: Rgb, kind: CodeKind): Rgb {
  const { black, white, middle, chroma, wr, wb } = scale(kind)
  if (kind.kind === 'rgb') return codes.map((v) => (v - black) / white) as unknown as Rgb
  const y = (codes[0] - black) / white
  const r = y + 2 * (1 - wr) * ((codes[2] - middle) / chroma)
  const b = y + 2 * (1 - wb) * ((codes[1] - middle) / chroma)
  return [r, (y - wr * r - wb * b) / (1 - wr - wb), b]
}

/** The same of `n` pixels in three planes of codes, one plane after another: red, green and blue of each pixel in turn, 0 to 65,535, cut off beyond. */
export function planesToRgb(planes: Uint16Array, n: number, kind: CodeKind): Uint16Array {
  const { black, white, middle, chroma, wr, wb } = scale(kind)
  const out = new Uint16Array(n * 3)
  const put = (at: number, v: number) => {
    out[at] = Math.round(65_535 * Math.max(0, Math.min(1, v)))
  }
  for (let i = 0; i < n; i++) {
    const [first, second, third] = [planes[i] as number, planes[n + i] as number, planes[2 * n + i] as number]
    const y = (first - black) / white
    if (kind.kind === 'rgb') {
      put(3 * i, y)
      put(3 * i + 1, (second - black) / white)
      put(3 * i + 2, (third - black) / white)
      continue
    }
    const r = y + 2 * (1 - wr) * ((third - middle) / chroma)
    const b = y + 2 * (1 - wb) * ((second - middle) / chroma)
    put(3 * i, r)
    put(3 * i + 1, (y - wr * r - wb * b) / (1 - wr - wb))
    put(3 * i + 2, b)
  }
  return out
}
