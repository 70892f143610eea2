/** Light copies that were taken in as if they were originals: found by what they share with a larger clip. */
import { bare } from '../naming/index.ts'
import { sameRate } from '../time/index.ts'
import type { Technical } from './model.ts'

export interface LightClip {
  readonly id: string
  readonly name: string
  readonly start: number | null
  readonly frames: number
  readonly technical: Technical
}

const pixels = (c: LightClip): number => c.technical.width * c.technical.height
/** Lighter: at most three quarters of the pixels, or as many at under half the data rate in another codec. */
const lighter = (a: LightClip, b: LightClip): boolean =>
  pixels(a) <= 0.75 * pixels(b) || (pixels(a) === pixels(b) && a.technical.codec !== b.technical.codec && a.technical.dataRate < 0.5 * b.technical.dataRate)

/**
 * For each clip that looks like a light copy, the id of the clip it looks like one of: the same bare name, rate, first frame
 * and length (one frame more or less), and lighter. Names that many cards share need timecode to count.
 */
export function lightCopies(clips: readonly LightClip[]): Map<string, string> {
  const groups = new Map<string, LightClip[]>()
  for (const c of clips) {
    if (!c.technical.hasPicture || c.technical.fault || c.technical.stamp) continue
    const key = `${bare(c.name)} ${c.start}`
    groups.set(key, [...(groups.get(key) ?? []), c])
  }
  const out = new Map<string, string>()
  for (const group of groups.values()) {
    if (group.length < 2) continue
    for (const a of group) {
      const full = group.filter((b) => b !== a && sameRate(a.technical.rate, b.technical.rate) && Math.abs(a.frames - b.frames) <= 1 && lighter(a, b))
      // Without timecode a name proves little: one only, and exactly as long.
      const sure = a.start === null || a.start === 0 ? full.length === 1 && full[0]?.frames === a.frames : full.length > 0
      const best = sure ? full.sort((x, y) => pixels(y) - pixels(x) || y.technical.dataRate - x.technical.dataRate)[0] : undefined
      if (best) out.set(a.id, best.id)
    }
  }
  return out
}
