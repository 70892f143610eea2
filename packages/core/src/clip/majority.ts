/** What most clips have. */
import { type Rate, seconds } from '../time/index.ts'
import type { Technical } from './model.ts'

interface Counted<T> {
  readonly value: T
  readonly count: number
  readonly seconds: number
}

/** The value that most clips have, with the count; of those that equally many have, the one that `first` puts first. */
function most<C extends Pick<Technical, 'rate' | 'frames'>, T>(
  clips: readonly C[],
  of: (c: C) => T,
  first: (a: Counted<T>, b: Counted<T>) => number,
): Counted<T> {
  const sums = new Map<string, Counted<T>>()
  for (const c of clips) {
    const value = of(c)
    const key = JSON.stringify(value)
    const old = sums.get(key)
    sums.set(key, { value, count: (old?.count ?? 0) + 1, seconds: (old?.seconds ?? 0) + seconds(c.frames, c.rate) })
  }
  return [...sums.values()].sort((a, b) => b.count - a.count || first(a, b))[0] as Counted<T>
}

/**
 * The rate and raster that most originals have, with the counts; null without any picture. Of rates that equally many have, the one with more
 * running time, else the higher; of rasters one that is not upright, else the larger. Clips whose rate only follows the project's
 * (`rateGiven` false: numbered pictures that say none) count for the raster alone, unless there are no others.
 */
export function majority(
  clips: readonly (Pick<Technical, 'rate' | 'width' | 'height' | 'frames' | 'hasPicture' | 'fault'> & { readonly rateGiven?: boolean | undefined })[],
): { rate: Rate; rateCount: number; width: number; height: number; sizeCount: number; count: number } | null {
  const pictures = clips.filter((c) => c.hasPicture && !c.fault)
  if (pictures.length === 0) return null
  const rated = pictures.filter((c) => c.rateGiven !== false)
  const perSecond = (r: Rate): number => r.num / r.den
  const rate = most(
    rated.length ? rated : pictures,
    (c) => c.rate,
    (a, b) => b.seconds - a.seconds || perSecond(b.value) - perSecond(a.value),
  )
  const upright = (s: { width: number; height: number }): number => (s.height > s.width ? 1 : 0)
  const size = most(
    pictures,
    (c) => ({ width: c.width, height: c.height }),
    (a, b) => upright(a.value) - upright(b.value) || b.value.width * b.value.height - a.value.width * a.value.height || b.value.width - a.value.width,
  )
  return { rate: rate.value, rateCount: rate.count, ...size.value, sizeCount: size.count, count: pictures.length }
}
