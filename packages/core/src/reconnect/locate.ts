/** Where in a clip an event lies. */
import type { CutEvent } from '../cutlist/index.ts'
import { dayFrames, digitsAt, type FrameRange, framesOf, nominal, type Rate, relabel, sameRate, sourceLength, stepOf, timecodeText } from '../time/index.ts'
import type { ClipFacts, SourceCount } from './model.ts'

export interface Located {
  /** Half-open, frames counted from the clip's first. */
  readonly range: FrameRange
  readonly countedAt: 'list' | 'source'
  readonly missing: { readonly before: number; readonly after: number }
  /** The range lies wholly outside: not one of its frames exists. */
  readonly outside: boolean
}

/**
 * The frames of `clip` that `event` shows, by its source-in label, its record length, its speed and the rates
 * (out = in + ceil(length × clip rate / cut rate)). The label is counted at the list's rate; at the source's where a digit
 * exceeds the list's or the range fits only so. Null where the digits fit neither.
 */
export function locate(event: CutEvent, clip: ClipFacts, cutRate: Rate, count: SourceCount = 'auto'): Located | null {
  const span = sourceLength(event.recordOut - event.recordIn, stepOf(clip.rate, cutRate, event.speed ?? undefined))
  const at = (how: 'list' | 'source'): Located | null => {
    const drop = clip.start === null ? event.sourceIn.drop : clip.drop
    const label =
      how === 'source' ? { ...event.sourceIn, drop } : event.sourceIn.f >= nominal(cutRate) ? null : relabel(event.sourceIn, cutRate, clip.rate, drop)
    const frames = label && framesOf(label, clip.rate)
    if (frames === null) return null
    let first = frames - (clip.start ?? 0)
    const day = dayFrames(clip.rate, drop)
    // A clip may run over midnight, where its timecode begins anew.
    if (clip.start !== null && first < 0 && first + day < clip.frames) first += day
    const reverse = event.speed !== null && event.speed.num < 0
    const range = reverse ? { in: first - span + 1, out: first + 1 } : { in: first, out: first + span }
    const missing = { before: Math.max(0, -range.in), after: Math.max(0, range.out - clip.frames) }
    return { range, countedAt: how, missing, outside: range.out <= 0 || range.in >= clip.frames }
  }
  if (sameRate(clip.rate, cutRate)) return at('list')
  if (count !== 'auto') return at(count)
  const list = at('list')
  if (list && list.missing.before + list.missing.after === 0) return list
  const source = at('source')
  return source && (!list || source.missing.before + source.missing.after === 0) ? source : list
}

/** The clip's timecode at a frame counted from its first. */
export const clipTimecode = (clip: ClipFacts, frame: number): string => timecodeText(digitsAt((clip.start ?? 0) + frame, clip.rate, clip.drop))
