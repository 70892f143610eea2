/** Compares a copy that was made elsewhere with its original, by pictures. */
import { type Framing, layout, type Size } from '@naranja/core/framing'
import { judge, type Judgement, recognise, type Recognised, sampleSize } from '@naranja/core/picture'
import { type FrameMap, originalFrame } from '@naranja/core/time'
import { samples, stills } from '../frames/index.ts'
import type { MediaInput } from '../input/index.ts'
import { checkPoints, near } from './parts.ts'

export interface Pictured extends Size {
  readonly input: MediaInput
  readonly pixelAspect: number
  readonly frames: number
}

export interface Comparison extends Judgement {
  /** How the original's picture was put into the copy's. */
  readonly framing: Framing
  /** `frame` of the copy, `of` of the original. */
  readonly points: readonly ({ readonly frame: number; readonly of: number } & Recognised)[]
}

const shape = (p: Pictured): number => (p.width * p.pixelAspect) / p.height
/** A raster of the copy's shape in which the original is laid out: samples are far smaller. */
const ground: Size = { width: sampleSize.width * 4, height: sampleSize.height * 4 }

/**
 * Looks at the copy's first, middle and last frame and three by chance (the same for the same `seed`), and at the original's frames around those
 * they should be. Where the shapes differ, the original is fitted, filled in and stretched, whichever comes nearest.
 */
export async function comparePictures(copy: Pictured, original: Pictured, map: FrameMap | null, seed: string, signal?: AbortSignal): Promise<Comparison> {
  const points = checkPoints(copy.frames, seed)
  const expected = points.map((p) => Math.min(original.frames - 1, originalFrame(map, p)))
  const wanted = [...new Set(expected.flatMap((f) => near.map((d) => f + d)))].filter((f) => f >= 0 && f < original.frames).sort((a, b) => a - b)
  const made = await samples(copy.input, points, signal ? { signal } : {})
  const alike = Math.abs(shape(copy) / shape(original) - 1) < 0.01
  const tried = await Promise.all(
    (alike ? (['stretch'] as const) : (['fit', 'fill', 'stretch'] as const)).map(async (framing) => {
      // In the copy's shape, seen as if the samples' own pixels were not square.
      const aspect = shape(copy) / (ground.width / ground.height)
      const l = layout({ ...original }, ground, framing, true, aspect)
      const around = await samples(original.input, wanted, { ...(framing === 'stretch' ? {} : { layout: l }), ...(signal ? { signal } : {}) })
      const at = new Map(wanted.map((f, i) => [f, around[i] ?? null]))
      const list = points.flatMap((frame, i) => {
        const of = expected[i] ?? 0
        const r = recognise(
          made[i] ?? new Uint8Array(0),
          near.map((d) => at.get(of + d) ?? null),
        )
        return r ? [{ frame, of, ...r }] : []
      })
      return { framing, points: list, likeness: list.reduce((n, p) => n + p.likeness, 0) }
    }),
  )
  const best = tried.reduce((a, b) => (b.likeness > a.likeness ? b : a))
  return { ...judge(best.points), framing: alike ? 'fit' : best.framing, points: best.points }
}

/** One frame as a small JPEG. */
export async function smallPicture(p: Pictured, frame: number, matrix: string, width = 320): Promise<Buffer | null> {
  let out: Buffer | null = null
  await stills(p.input, frame, 1, { width, matrix }, (_, jpeg) => {
    out = jpeg
  })
  return out
}
