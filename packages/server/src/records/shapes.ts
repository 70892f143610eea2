/** Parts that several documents share. */
import { z } from 'zod'

export const rate = z.object({ num: z.number(), den: z.number() })
export const digits = z.object({ h: z.number(), m: z.number(), s: z.number(), f: z.number(), drop: z.boolean() })
export const texts = z.array(z.string())
export const numbers = z.array(z.number())
export const sequence = z.object({ base: z.string(), ext: z.string(), digits: z.number(), first: z.number(), last: z.number(), missing: numbers })
export const triple = z.tuple([z.number(), z.number(), z.number()])
export const crop = z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() })
export const decode = z.object({
  balance: z.union([
    z.object({ kind: z.literal('as-shot') }),
    z.object({ kind: z.literal('temperature'), kelvin: z.number(), tint: z.number() }),
    z.object({ kind: z.literal('picked'), neutral: triple }),
  ]),
  exposure: z.number(),
  contrast: z.number(),
  saturation: z.number(),
  size: z.enum(['full', 'half']),
})
export const copyReport = z.object({
  frames: z.number(),
  framesExpected: z.number(),
  points: z.array(
    z.object({
      frame: z.number(),
      likeness: z.number(),
      offset: z.number(),
      unprovable: z.boolean(),
      level: z.number(),
      otherColours: z.literal(true).optional(),
      passed: z.boolean(),
    }),
  ),
  hashes: texts.optional(),
  faults: texts,
})
const from = z.enum(['file', 'side-file', 'rule', 'typed', 'table'])
export const fact = <T extends z.ZodType>(value: T) => z.object({ value, from })
export const technical = z.object({
  form: z.string().nullable().optional(),
  wrapper: z.string(),
  codec: z.string(),
  width: z.number(),
  height: z.number(),
  pixelAspect: z.number(),
  rotation: z.number(),
  rate,
  recordedOn: z.string().optional(),
  rateGiven: z.boolean().optional(),
  captured: z.object({ rate, from: z.enum(['file', 'side-file']) }).optional(),
  variable: z.boolean(),
  frames: z.number(),
  start: z.number().nullable(),
  drop: z.boolean(),
  depth: z.number(),
  chroma: z.string(),
  scan: z.string(),
  colour: z.object({ primaries: z.string(), transfer: z.string(), matrix: z.string(), range: z.string() }),
  longGop: z.boolean(),
  reel: z.string().nullable(),
  stamp: z.string().nullable(),
  sound: z.object({ channels: z.number(), sampleRate: z.number(), codec: z.string(), depth: z.number(), streams: numbers.optional() }).nullable(),
  parts: z.array(z.object({ name: z.string(), frames: z.number() })),
  channelFiles: texts,
  heard: z.object({ start: z.number(), channel: z.number() }).nullable(),
  sampleOffset: z.number(),
  hasPicture: z.boolean(),
  dataRate: z.number(),
  sequence: sequence.nullable(),
  reading: z.object({ how: z.enum(['time', 'early', 'count', 'uneven']), offset: z.number(), margin: z.number(), pictures: z.number().optional() }).optional(),
  raw: z.object({ toCamera: numbers.nullable(), neutral: triple.nullable(), camera: z.string().nullable() }).nullable(),
  fault: z.string().nullable(),
})
export const described = z.object({
  scene: fact(z.string()).optional(),
  take: fact(z.string()).optional(),
  angle: fact(z.string()).optional(),
  camera: fact(z.string()).optional(),
  plain: fact(z.string()).optional(),
  notes: fact(z.string()).optional(),
  circled: fact(z.boolean()).optional(),
  tracks: fact(z.array(z.string().nullable())).optional(),
})
