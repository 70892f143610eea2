/** Ranges of frames: `in` belongs to the range, `out` does not. */
export interface FrameRange {
  readonly in: number
  readonly out: number
}

export const length = (r: FrameRange): number => r.out - r.in
/** Joins ranges that overlap or touch (or lie within `gap` frames of one another); the result is in order. */
export function joinRanges(ranges: readonly FrameRange[], gap = 0): FrameRange[] {
  if (ranges.length < 2) return [...ranges]
  const out: FrameRange[] = []
  for (const r of [...ranges].sort((a, b) => a.in - b.in)) {
    const last = out.at(-1)
    if (last && r.in <= last.out + gap) out[out.length - 1] = { in: last.in, out: Math.max(last.out, r.out) }
    else out.push(r)
  }
  return out
}
