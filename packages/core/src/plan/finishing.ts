/** Whether an edit copy may stand for its original when finishing. */
import type { Layout } from '../framing/index.ts'

export interface CopyStanding {
  readonly kind: 'proxy' | 'intermediate'
  /** It has passed its check. */
  readonly checked: boolean
  /** Its frame n is a frame of the original's, at the original's rate. */
  readonly sameRate: boolean
  /** Texts and images that are drawn into it. */
  readonly burnIns: number
  /** How the original's picture lies in it. */
  readonly layout: Pick<Layout, 'source' | 'take' | 'place' | 'raster'>
}

/** Pixels by which rounding to even sizes may move an edge. */
const rounding = 2

/** Why it may not, as a clause; null where it may. A proxy never does. */
export function finishingFault(c: CopyStanding): string | null {
  if (c.kind === 'proxy') return 'it is a proxy, and nothing is finished from a proxy'
  if (!c.checked) return 'it has not passed its check'
  if (!c.sameRate) return 'it runs at another rate than its original'
  if (c.burnIns > 0) return 'text or an image is drawn into it'
  const { source, take, place, raster } = c.layout
  const near = (a: number, b: number) => Math.abs(a - b) <= rounding
  if (!near(take.x, 0) || !near(take.y, 0) || !near(take.width, source.width) || !near(take.height, source.height)) return 'it shows only a part of the picture'
  if (!near(place.x, 0) || !near(place.y, 0) || !near(place.width, raster.width) || !near(place.height, raster.height))
    return 'its picture does not fill its frame'
  return null
}
