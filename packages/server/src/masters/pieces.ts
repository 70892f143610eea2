/** In what pieces a plan is rendered. */
import { type PlanPart, slicePart, sourceOf } from '@naranja/core/plan'
import { length } from '@naranja/core/time'
import type { RenderSource } from '@naranja/media'

type Sources = ReadonlyMap<string, Pick<RenderSource, 'width' | 'height' | 'raw'>>

/** Stretches of at most this many frames are rendered at once, so that an interrupted master goes on near where it stopped. */
const longest = 250
/** Bytes of pictures that are held at once to be shown backwards. */
const heldBytes = 512e6

/** Record frames of a part that are rendered at once: of one that runs backwards as many as may be held in memory. */
function stretchOf(p: PlanPart, sources: Sources): number {
  const of = p.layers.map((l) => {
    const source = l.kind === 'clip' && l.step.num < 0 ? sources.get(sourceOf(l)) : undefined
    if (l.kind !== 'clip' || !source) return longest
    return Math.floor((heldBytes / (source.width * source.height * 4)) * (l.step.den / -l.step.num))
  })
  return Math.max(1, Math.min(longest, ...of))
}

/** The parts of a plan, long ones cut into stretches. */
export const stretches = (parts: readonly PlanPart[], sources: Sources): PlanPart[] =>
  parts.flatMap((p) => {
    const most = stretchOf(p, sources)
    if (length(p) <= most) return [p]
    const out: PlanPart[] = []
    for (let at = p.in; at < p.out; at += most) {
      const to = Math.min(p.out, at + most)
      out.push(slicePart(p, at, to))
    }
    return out
  })

/** Pieces longer than this are rendered alone: the start of a process is little beside them. In frames. */
const short = 60
/** Pieces, and pixels of the pictures they are read from, that one process has open at most: eight of 1920×1080. */
const open = { pieces: 8, pixels: 8 * 1920 * 1080 }

/** What a piece has open while it is rendered, in pixels; null where it is rendered alone: it is long, holds pictures, or is developed from raw ones. */
function openPixels(p: PlanPart, sources: Sources): number | null {
  if (length(p) > short) return null
  let pixels = 0
  for (const l of p.layers) {
    const source = l.kind === 'clip' ? sources.get(sourceOf(l)) : undefined
    if (l.kind === 'clip' && (!source || source.raw || l.step.num < 0)) return null
    pixels += source ? source.width * source.height : 0
  }
  return pixels
}

/** The pieces that are rendered by one process each time, in order; one that stands in several places is rendered once. */
export function together<S extends { readonly part: PlanPart; readonly path: string }>(segments: readonly S[], sources: Sources): S[][] {
  const out: S[][] = []
  let now: S[] = []
  let pixels = 0
  for (const s of new Map(segments.map((s) => [s.path, s])).values()) {
    const own = openPixels(s.part, sources)
    if (own === null) {
      out.push([s])
      continue
    }
    if (now.length === open.pieces || pixels + own > open.pixels) [now, pixels] = [[], 0]
    if (now.length === 0) out.push(now)
    now.push(s)
    pixels += own
  }
  return out
}
