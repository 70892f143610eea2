/** The ASC color decision list, version 1.2: slope, offset and power for each channel, then saturation. */
import type { Rgb } from './lut.ts'

export interface Cdl {
  readonly slope: Rgb
  readonly offset: Rgb
  readonly power: Rgb
  readonly saturation: number
}
export const plainCdl: Cdl = { slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 1 }

const clamp = (x: number): number => Math.max(0, Math.min(1, x))

/** One colour, 0 to 1 in each channel; clamped to that before the power and at the end. Saturation weighs as BT.709 has it. */
export function applyCdl({ slope, offset, power, saturation }: Cdl, c: Rgb): Rgb {
  const [r, g, b] = c.map((v, i) => clamp(v * (slope[i] as number) + (offset[i] as number)) ** (power[i] as number)) as [number, number, number]
  const luma = 0.2126 * r + 0.7152 * g + 0.0722 * b
  return [r, g, b].map((v) => clamp(luma + saturation * (v - luma))) as [number, number, number]
}
