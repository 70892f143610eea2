/** Ranges of frames: `in` belongs to the range, `out` does not. */
export interface FrameRange {
  readonly in: number
  readonly out: number
}

export const length = (r: FrameRange): number => r.out - r.in
export const contains = (outer: FrameRange, inner: FrameRange): boolean => inner.in >= outer.in && inner.out <= outer.out
export const overlap = (a: FrameRange, b: FrameRange): FrameRange | null => {
  const r = { in: Math.max(a.in, b.in), out: Math.min(a.out, b.out) }
  return r.out > r.in ? r : null
}

/** Joins ranges that overlap or touch (or lie within `gap` frames of one another); the result is in order. */
export function joinRanges(ranges: readonly FrameRange[], gap = 0): FrameRange[] {
  const out: FrameRange[] = []
  for (const r of [...ranges].sort((a, b) => a.in - b.in)) {
    const last = out.at(-1)
    if (last && r.in <= last.out + gap) out[out.length - 1] = { in: last.in, out: Math.max(last.out, r.out) }
    else out.push(r)
  }
  return out
}
