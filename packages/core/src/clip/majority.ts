/** What most clips have. */
import { type Rate, seconds } from '../time/index.ts'
import type { Technical } from './model.ts'

/**
 * The rate and raster that most originals have, with the counts; null without any picture. Of those that equally many have, the
 * one with more running time, else the first by number: never by the order in which clips came.
 */
export function majority(
  clips: readonly Pick<Technical, 'rate' | 'width' | 'height' | 'frames' | 'hasPicture' | 'fault'>[],
): { rate: Rate; rateCount: number; width: number; height: number; sizeCount: number; count: number } | null {
  const pictures = clips.filter((c) => c.hasPicture && !c.fault)
  if (pictures.length === 0) return null
  const most = <T>(key: (c: (typeof pictures)[number]) => T): [T, number] => {
    const sums = new Map<string, { value: T; count: number; seconds: number }>()
    for (const c of pictures) {
      const value = key(c)
      const id = JSON.stringify(value)
      const old = sums.get(id)
      sums.set(id, { value, count: (old?.count ?? 0) + 1, seconds: (old?.seconds ?? 0) + seconds(c.frames, c.rate) })
    }
    const [best] = [...sums].sort(([i, a], [j, b]) => b.count - a.count || b.seconds - a.seconds || i.localeCompare(j, 'en', { numeric: true }))
    return [best?.[1].value as T, best?.[1].count ?? 0]
  }
  const [rate, rateCount] = most((c) => c.rate)
  const [size, sizeCount] = most((c) => ({ width: c.width, height: c.height }))
  return { rate, rateCount, ...size, sizeCount, count: pictures.length }
}
