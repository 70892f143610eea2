/** Which source frame stands at which record frame. */
import { mulDivCeil, mulDivFloor, type Rate, sameRate } from './rate.ts'

/** Source frames per record frame as an exact fraction; `num` may be zero (freeze) or negative (reverse). */
export interface Step {
  readonly num: number
  readonly den: number
}

const asShot: Step = { num: 1, den: 1 }

/** The step of a source that plays in real time, times a speed (1/1 is as shot); in lowest terms, `den` positive. */
export function stepOf(source: Rate, record: Rate, speed: Step = asShot): Step {
  // Most are: nothing is reckoned for them.
  if (speed.num === speed.den && sameRate(source, record)) return asShot
  const [num, den] = lowest(source.num * record.den, source.den * record.num)
  const [a, b] = lowest(num, speed.den)
  const [c, d] = lowest(speed.num, den)
  const [e, f] = lowest(a * c, b * d)
  return { num: e, den: f }
}

/** A fraction in lowest terms, its lower part positive. */
function lowest(num: number, den: number): [number, number] {
  let [a, b] = [Math.abs(num), Math.abs(den)]
  while (b > 0) [a, b] = [b, a % b]
  const g = (a || 1) * Math.sign(den || 1)
  // Zero has no sign.
  return [num / g + 0, den / g]
}

/** The source frame for record frame `k` of an event that begins at `first`: the one at or before it in time. */
export function sourceFrame(first: number, k: number, step: Step): number {
  return step.num >= 0 ? first + mulDivFloor(k, step.num, step.den) : first - mulDivFloor(k, -step.num, step.den)
}

/** How many source frames `length` record frames reach over: ceil(length × step), at least one where anything is shown. */
export function sourceLength(length: number, step: Step): number {
  return length === 0 ? 0 : Math.max(1, mulDivCeil(length, Math.abs(step.num), step.den))
}

/**
 * Which frame of its original each frame of a copy shows, where the copy runs at another rate: the one at or before it in time.
 * Both are counted from the beginning of the copy; `first` is the original's frame that stands there.
 */
export interface FrameMap {
  readonly original: Rate
  readonly copy: Rate
  readonly first: number
}

/** The map of a copy; null where frame for frame is the same. */
export const frameMap = (original: Rate, copy: Rate, first = 0): FrameMap | null => (sameRate(original, copy) ? null : { original, copy, first })

/** The map of a copy of a part that begins at frame `first`; null where it is all of it, frame for frame. */
export const partMap = (original: Rate, copy: Rate, first: number): FrameMap | null => (first === 0 ? frameMap(original, copy) : { original, copy, first })

/** The original's frame that frame `n` of the copy shows. */
export const originalFrame = (map: FrameMap | null, n: number): number =>
  map ? map.first + mulDivFloor(n, map.original.num * map.copy.den, map.original.den * map.copy.num) : n

/** The first frame of the copy that shows the original's frame `m`, or, where none does, the last one before it in time. */
export function copyFrame(map: FrameMap | null, m: number): number {
  if (!map) return m
  const [num, den] = [map.copy.num * map.original.den, map.copy.den * map.original.num]
  const first = mulDivCeil(m - map.first, num, den)
  return originalFrame(map, first) === m ? first : mulDivFloor(m - map.first, num, den)
}

/**
 * A stream of pictures at uneven times (seconds from the beginning), read at a constant rate: for each of `frames` frames the picture shown, by
 * its number. A picture counts from the frame on that begins at most a quarter of a frame before it.
 */
export function evenPictures(times: readonly number[], r: Rate, frames: number): number[] {
  const out: number[] = []
  let at = 0
  for (let n = 0; n < frames; n++) {
    while (at + 1 < times.length && ((times[at + 1] as number) * r.num) / r.den <= n + 0.25) at++
    out.push(at)
  }
  return out
}
