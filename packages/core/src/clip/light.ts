/** Light copies among originals: found by what they share with a larger clip, proven by their pictures, or marked by a person. */
import { grouped } from '../lists/index.ts'
import { bare, withoutSeparator } from '../naming/index.ts'
import { sameRate } from '../time/index.ts'
import type { Technical } from './model.ts'

/** What a comparison of a clip's pictures with those of a larger one has shown. */
export interface LightVerdict {
  /** Content ids of the clip and of the larger one: with another file under either path the comparison no longer counts. */
  readonly own: string
  readonly of: string
  /** `unsure`: neither clearly the same pictures nor clearly others. */
  readonly says: 'alike' | 'unlike' | 'unsure'
  /** The least likeness at the frames compared, 0 to 1. */
  readonly likeness: number
}

export interface LightClip {
  readonly id: string
  readonly name: string
  readonly start: number | null
  readonly frames: number
  readonly contentId: string
  readonly technical: Pick<Technical, 'width' | 'height' | 'rate' | 'codec' | 'dataRate' | 'hasPicture' | 'fault' | 'stamp' | 'sequence'>
  /** The clip that a person marked it as a light copy of. */
  readonly lightOf: string | null
  /** A person said that it counts as an original, whatever it looks like. */
  readonly keptOriginal: boolean
  readonly lightVerdicts: readonly LightVerdict[] | null
}

/** `suspected` by its facts, `proven` by its pictures (or its stamp), `marked` by a person. */
export type LightStanding = 'suspected' | 'proven' | 'marked'

/** How a clip stands that is, or looks like, a light copy. */
export interface Light {
  readonly standing: LightStanding
  /** The clip that it is a copy of; null where its stamp names one that is not here. */
  readonly of: string | null
  /** Larger clips that it has not been compared with, the likeliest first; empty once pictures or a person told. */
  readonly untold: readonly string[]
}

const pixels = (c: LightClip): number => c.technical.width * c.technical.height
/** Lighter: fewer pixels, or as many at under half the data rate. Of two clips at most one is lighter than the other. */
const lighter = (a: LightClip, b: LightClip): boolean => pixels(a) < pixels(b) || (pixels(a) === pixels(b) && a.technical.dataRate < 0.5 * b.technical.dataRate)

/** The name by which a clip is compared; of numbered pictures what stands before the numbers. */
const nameOf = (c: LightClip): string => (c.technical.sequence ? withoutSeparator(c.technical.sequence.base) : c.name)
/** A clip without timecode counts from zero. */
const startOf = (c: LightClip): number => c.start ?? 0

/** The larger clips that one of the same name and first frame may be a copy of, the largest first. */
function fuller(a: LightClip, group: readonly LightClip[]): LightClip[] {
  const full = group
    .filter((b) => b !== a && !b.lightOf && sameRate(a.technical.rate, b.technical.rate) && Math.abs(a.frames - b.frames) <= 1 && lighter(a, b))
    .sort((x, y) => pixels(y) - pixels(x) || y.technical.dataRate - x.technical.dataRate || (x.id < y.id ? -1 : 1))
  // Without timecode a name proves little: it must be exactly as long.
  return startOf(a) === 0 ? full.filter((b) => b.frames === a.frames) : full
}

/**
 * The clips that are, or look like, light copies, by id: a clip of the same bare name, rate, first frame and length (one frame more or less)
 * is here that has more pixels, or as many at more than twice the data rate. What a person said of a clip holds before anything else, then what
 * its pictures have shown.
 */
export function lightCopies(clips: readonly LightClip[]): Map<string, Light> {
  const out = new Map<string, Light>()
  const byContent = new Map<string, string>()
  for (const c of clips) if (!c.technical.stamp) byContent.set(c.contentId, c.id)
  for (const { id, technical: t, lightOf } of clips)
    if (t.stamp) out.set(id, { standing: 'proven', of: byContent.get(t.stamp) ?? null, untold: [] })
    else if (lightOf) out.set(id, { standing: 'marked', of: lightOf, untold: [] })
  const judged = (a: LightClip, group: readonly LightClip[]): void => {
    if (a.lightOf || a.keptOriginal) return
    const verdict = (b: LightClip) => a.lightVerdicts?.find((v) => v.own === a.contentId && v.of === b.contentId)?.says
    const full = fuller(a, group).filter((b) => verdict(b) !== 'unlike')
    const proven = full.find((b) => verdict(b) === 'alike')
    const [best] = full
    if (proven) out.set(a.id, { standing: 'proven', of: proven.id, untold: [] })
    else if (best) out.set(a.id, { standing: 'suspected', of: best.id, untold: full.filter((b) => verdict(b) === undefined).map((b) => b.id) })
  }
  const pictured = clips.filter(({ technical: t }) => t.hasPicture && !t.fault && !t.stamp)
  // Hardly two clips begin with the same timecode: names are compared of those alone.
  for (const together of grouped(pictured, startOf).values())
    if (together.length > 1) for (const group of grouped(together, (c) => bare(nameOf(c))).values()) for (const a of group) judged(a, group)
  return out
}
