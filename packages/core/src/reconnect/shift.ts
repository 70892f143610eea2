/** By how much timecode is off: the shift with which most events land in originals. */
import type { CutEvent } from '../cutlist/index.ts'
import { digitsAt, type FrameRange, framesWithin, nominal, type Rate, relabel, sourceLength, stepOf } from '../time/index.ts'

/** The frames that an event names, from midnight at the cut's rate. */
export function namedSpan(e: CutEvent, cut: Rate): FrameRange {
  const own = e.sourceRate ?? cut
  const from = framesWithin(relabel({ ...e.sourceIn, f: Math.min(e.sourceIn.f, nominal(own) - 1) }, own, cut, e.sourceIn.drop), cut)
  return { in: from, out: from + sourceLength(e.recordOut - e.recordIn, stepOf(cut, cut, e.speed ?? undefined)) }
}

/** The frames that a clip has timecode for, from midnight as the cut counts. */
export function heldSpan(clip: { readonly start: number; readonly frames: number; readonly rate: Rate; readonly drop?: boolean }, cut: Rate): FrameRange {
  const label = relabel(digitsAt(clip.start, clip.rate, clip.drop), clip.rate, cut, false)
  const from = framesWithin(label, cut)
  return { in: from, out: from + Math.floor((clip.frames * nominal(cut)) / nominal(clip.rate)) }
}

/** How many events lie wholly inside one of the clips when they stand `shift` frames later. */
export const landing = (events: readonly FrameRange[], clips: readonly FrameRange[], shift: number): number =>
  events.filter((e) => clips.some((c) => e.in + shift >= c.in && e.out + shift <= c.out)).length

/**
 * The shift with which most events land; of several the one that is whole hours, else the least. Null where none lands at all.
 * Compares each with each: meant for some hundred of either.
 */
export function bestShift(events: readonly FrameRange[], clips: readonly FrameRange[], cut: Rate): { readonly frames: number; readonly lands: number } | null {
  // For each event the shifts that bring it into some clip, joined, so that it counts once.
  const edges: { at: number; by: 1 | -1 }[] = []
  const sorted = clips.toSorted((a, b) => a.in - b.in)
  for (const e of events) {
    let open: { in: number; out: number } | null = null
    for (const c of sorted) {
      const [from, to] = [c.in - e.in, c.out - e.out]
      if (to < from) continue
      if (open && from <= open.out + 1) open.out = Math.max(open.out, to)
      else {
        if (open) edges.push({ at: open.in, by: 1 }, { at: open.out + 1, by: -1 })
        open = { in: from, out: to }
      }
    }
    if (open) edges.push({ at: open.in, by: 1 }, { at: open.out + 1, by: -1 })
  }
  edges.sort((a, b) => a.at - b.at || a.by - b.by)
  const hour = 3600 * nominal(cut)
  let [now, most] = [0, 0]
  const best: FrameRange[] = []
  edges.forEach((edge, i) => {
    now += edge.by
    const until = edges[i + 1]?.at ?? edge.at
    if (until === edge.at) return
    if (now > most) {
      most = now
      best.length = 0
    }
    if (now === most && most > 0) best.push({ in: edge.at, out: until })
  })
  if (most === 0) return null
  const within = (r: FrameRange): number => {
    const hours = Math.ceil(r.in / hour) * hour + 0
    if (hours < r.out) return hours
    return r.in <= 0 && r.out > 0 ? 0 : r.in > 0 ? r.in : r.out - 1
  }
  const offers = best.map(within).sort((a, b) => Number(a % hour !== 0) - Number(b % hour !== 0) || Math.abs(a) - Math.abs(b))
  return { frames: (offers[0] as number) + 0, lands: most }
}
