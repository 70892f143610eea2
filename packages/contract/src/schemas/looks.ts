/** Looks that are tried, and what scopes and pixels say. */
import { z } from 'zod'
import { Id, Viewing } from './basics.ts'

export const LookRow = z.object({ id: Id, name: z.string(), kind: z.enum(['1d', '3d', 'cdl']) })
export type LookRow = z.infer<typeof LookRow>
/** A `.cube`, `.cdl`, `.ccc` or `.cc` file. */
export const LookFile = z.object({ name: z.string().min(1).max(300), base64: z.string().max(80_000_000) })

export const FrameAsk = z.object({
  frame: z.coerce.number<number>().int().min(0),
  viewing: Viewing.default('originals'),
  look: Id.optional(),
  /** This edit copy, whatever is viewed otherwise. */
  copy: Id.optional(),
  /** Tells apart what would be asked for in the same words. */
  as: z.string().max(200).optional(),
})
export type FrameAsk = z.infer<typeof FrameAsk>
const Trace = z.object({ width: z.int(), height: z.int(), counts: z.base64() }).describe('Counts as 0 to 255, row by row from the bottom up')
/** Scopes of one frame: `waveform` of luma, `parade` of red, green and blue, `vector` with Cb to the right and Cr upwards. */
export const Scopes = z.object({
  waveform: Trace,
  parade: z.array(Trace).length(3),
  vector: Trace,
  histogram: z.array(z.array(z.number())).length(4),
})
export type Scopes = z.infer<typeof Scopes>
/** A part of a frame at the pixels of its original, as it is seen: of a copy the same part, brought to the same size. */
export const DetailAsk = FrameAsk.pick({ frame: true, copy: true, as: true }).extend({
  x: z.coerce.number<number>().int().min(0),
  y: z.coerce.number<number>().int().min(0),
  width: z.coerce.number<number>().int().min(16).max(16384),
  height: z.coerce.number<number>().int().min(16).max(16384),
  /** Pixels across at most; what is larger is made smaller. */
  most: z.coerce.number<number>().int().min(16).max(2048).default(2048),
})
export type DetailAsk = z.infer<typeof DetailAsk>
export const PixelAsk = FrameAsk.extend({ x: z.coerce.number<number>().min(0).max(1), y: z.coerce.number<number>().min(0).max(1) })
/** A pixel as its file holds it, and as shares of white. */
export const Pixel = z.object({
  x: z.int(),
  y: z.int(),
  names: z.array(z.string()).length(3),
  codes: z.array(z.int()).length(3),
  depth: z.int(),
  rgb: z.array(z.number()).length(3),
})
export type Pixel = z.infer<typeof Pixel>
