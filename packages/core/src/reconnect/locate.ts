/** Where in a clip an event lies. */
import type { CutEvent } from '../cutlist/index.ts'
import {
  dayFrames,
  digitsAt,
  type FrameRange,
  framesOf,
  nominal,
  originalFrame,
  type Rate,
  relabel,
  rescaleFloor,
  type Step,
  sameRate,
  sourceFrame,
  sourceLength,
  stepOf,
  timecodeText,
} from '../time/index.ts'
import type { ClipFacts, CopyTime, CountedAt, Position, SourceCount } from './model.ts'

export interface Located {
  /** Half-open, frames counted from the clip's first. */
  readonly range: FrameRange
  /** How source timecode was counted; `file`: from the first frame that the cut's file gives its media. */
  readonly countedAt: CountedAt
  /** Where each of its frames lies. */
  readonly at: Position
  readonly missing: { readonly before: number; readonly after: number }
  /** The range lies wholly outside: not one of its frames exists. */
  readonly outside: boolean
  /** Counted at the source's rate it names other frames, and nothing tells which were meant. */
  readonly otherwise?: Located | undefined
  /** Whole hours by which the list's timecode is off, where only then it lies inside; `file` counts are such too. */
  readonly hours?: number | undefined
}

/**
 * The frames of `clip` that `event` shows, by its source-in label, its record length, its speed and the rates
 * (out = in + ceil(length × clip rate / cut rate)). The label is counted at the list's rate; at the source's where a digit
 * exceeds the list's or the range fits only so. Where the clip has an edit copy at the list's rate and the range lies inside that, it is counted as
 * the copy counts, and led back through its frame map. `otherwise`: where it lies outside, other ways to count are tried. Null where the digits fit nothing.
 */
export function locate(event: CutEvent, clip: ClipFacts, cutRate: Rate, count: SourceCount = 'auto', otherwise = false): Located | null {
  const found = located(event, clip, cutRate, count)
  return otherwise && found?.outside ? (elsewhere(event, clip, cutRate, found) ?? found) : found
}

/**
 * Where an event would lie whose timecode lies outside of a clip that has timecode of its own: counted from the clip's first frame, as by
 * programs that know no other count, or off by whole hours, as of clocks in another zone. Null where it does not lie inside then.
 */
function elsewhere(event: CutEvent, clip: ClipFacts, cutRate: Rate, found: Located): Located | null {
  const numbered = byNumber(event, clip, cutRate, found)
  if (numbered || clip.start === null || clip.start === 0) return numbered
  const length = found.range.out - found.range.in
  const at = (first: number, how: Pick<Located, 'countedAt' | 'hours'>): Located | null => {
    const range = { in: first, out: first + length }
    return first >= 0 && range.out <= clip.frames ? { ...how, ...whole(event, clip, cutRate, range) } : null
  }
  const hour = dayFrames(clip.rate, clip.drop) / 24
  if (clip.frames < hour) {
    const hours = Math.round((found.range.in - (((found.range.in % hour) + hour) % hour)) / hour)
    const by = at(found.range.in - hours * hour, { countedAt: found.countedAt, hours })
    if (by && hours !== 0) return by
  }
  const from = countedFrames(
    {
      ...event,
      sourceIn: { ...event.sourceIn, f: Math.min(event.sourceIn.f, nominal(event.sourceRate ?? cutRate) - 1) },
      sourceRate: event.sourceRate ?? cutRate,
    },
    clip.rate,
    0,
  )
  return from === null || clip.start <= clip.frames ? null : at(from, { countedAt: 'file', hours: undefined })
}

/** Where an event lies whose source timecode is the number of a picture, counted as frames: picture 1001 at 24 is 00:00:41:17. */
function byNumber(event: CutEvent, clip: ClipFacts, cutRate: Rate, found: Located): Located | null {
  if (clip.firstNumber === undefined) return null
  const number = framesOf({ ...event.sourceIn, f: Math.min(event.sourceIn.f, nominal(event.sourceRate ?? cutRate) - 1) }, event.sourceRate ?? cutRate)
  if (number === null) return null
  const first = number - clip.firstNumber
  const length = found.range.out - found.range.in
  if (first < 0 || first + length > clip.frames) return null
  return { countedAt: 'number', ...whole(event, clip, cutRate, { in: first, out: first + length }) }
}

/** An event that lies inside its clip. */
const whole = (event: CutEvent, clip: ClipFacts, cutRate: Rate, range: FrameRange): Omit<Located, 'countedAt'> => ({
  ...{ range, at: positionIn(event, range, clip.rate, cutRate) },
  ...{ missing: { before: 0, after: 0 }, outside: false },
})

function located(event: CutEvent, clip: ClipFacts, cutRate: Rate, count: SourceCount): Located | null {
  const step = stepOf(clip.rate, cutRate, event.speed ?? undefined)
  if (event.sourceRate) {
    const named = counted('list', event, clip, cutRate, step)
    if (named && !named.outside) return named
    // Where the file says that its media begin elsewhere than the clip does, its frames count from there.
    const byFile = event.media && event.media.start !== clip.start ? counted('file', event, clip, cutRate, step) : null
    return isWhole(byFile) ? byFile : named
  }
  if (sameRate(clip.rate, cutRate)) return counted('list', event, clip, cutRate, step)
  if (count !== 'auto') return counted(count, event, clip, cutRate, step)
  for (const copy of clip.mapped ?? []) {
    const found = byCopy(event, clip, copy, cutRate)
    if (found) return found
  }
  const list = counted('list', event, clip, cutRate, step)
  const source = counted('source', event, clip, cutRate, step)
  if (isWhole(list) && isWhole(source) && list.range.in !== source.range.in) {
    const told = countTold(event, clip, cutRate, sourceLength(event.recordOut - event.recordIn, step))
    return told === 'source' ? source : told === 'list' ? list : { ...list, otherwise: source }
  }
  if (isWhole(list)) return list
  return source && (!list || isWhole(source)) ? source : list
}

const isWhole = (l: Located | null): l is Located => l !== null && l.missing.before + l.missing.after === 0

/** Where an event lies whose source timecode is counted in one way; null where its digits fit nothing. */
function counted(how: 'list' | 'source' | 'file', event: CutEvent, clip: ClipFacts, cutRate: Rate, step: Step): Located | null {
  const span = sourceLength(event.recordOut - event.recordIn, step)
  const drop = clip.start === null ? event.sourceIn.drop : clip.drop
  const frames = how === 'file' ? countedFrames(event, clip.rate, event.media?.start ?? 0) : labelled(event, clip, cutRate, how, drop)
  if (frames === null) return null
  let first = how === 'file' ? frames : frames - (clip.start ?? 0)
  const day = dayFrames(clip.rate, drop)
  // A clip may run over midnight, where its timecode begins anew.
  if (clip.start !== null && first < 0 && first + day < clip.frames) first += day
  const range = runsBackwards(event.speed)
    ? backwardsFrom(first, span, how === 'file' ? null : labelled({ ...event, sourceIn: event.sourceOut }, clip, cutRate, how, drop), frames)
    : { in: first, out: first + span }
  const missing = { before: Math.max(0, -range.in), after: Math.max(0, range.out - clip.frames) }
  return { range, at: { first: firstShown(event.speed, range), k: 0, step }, countedAt: how, missing, outside: range.out <= 0 || range.in >= clip.frames }
}

/**
 * At which rate a list counts source timecode, where its out says so: a frame digit that only one of them has, or a length that only one of them makes of
 * the labels. Null where it does not tell.
 */
function countTold(event: CutEvent, clip: ClipFacts, cutRate: Rate, span: number): 'list' | 'source' | null {
  const { sourceIn: a, sourceOut: b } = event
  const length = (r: Rate): number | null => {
    const [x, y] = [framesOf(a, r), framesOf(b, r)]
    return x === null || y === null ? null : y - x
  }
  const [list, source] = [length(cutRate), length(clip.rate)]
  if (list === null || source === null) return list === source ? null : list === null ? 'source' : 'list'
  const record = event.recordOut - event.recordIn
  const { num, den } = event.speed ?? { num: 1, den: 1 }
  const fitsList = list === sourceLength(record, { num, den })
  return fitsList === (source === span) ? null : fitsList ? 'list' : 'source'
}

/**
 * The frames that an event shows of its source range, which begins at `first`, when it runs backwards. The last of the range is shown first, so that it is
 * the end of the range that counts, where the list writes one (`end` and `from` in the same count); otherwise it is as long as what is shown.
 */
function backwardsFrom(first: number, span: number, end: number | null, from: number): FrameRange {
  const written = end === null || end <= from ? span : end - from
  return { in: first + written - span, out: first + written }
}

/** Frames from midnight that the event's source label names, at the clip's rate. */
function labelled(event: CutEvent, clip: ClipFacts, cutRate: Rate, how: 'list' | 'source', drop: boolean): number | null {
  // Frames that a file has counted are frames, whatever their labels would be.
  if (event.sourceRate) return countedFrames(event, clip.rate, 0)
  const label = how === 'source' ? { ...event.sourceIn, drop } : event.sourceIn.f >= nominal(cutRate) ? null : relabel(event.sourceIn, cutRate, clip.rate, drop)
  return label && framesOf(label, clip.rate)
}

/** Frames from `start` (at the event's own source rate) on, counted at `rate`: one for one where both count as many in a second. */
function countedFrames(event: CutEvent, rate: Rate, start: number): number | null {
  const own = event.sourceRate ?? rate
  const n = framesOf(event.sourceIn, own)
  return n === null ? null : nominal(own) === nominal(rate) ? n - start : rescaleFloor(n - start, own, rate)
}

/** The frames of a clip by the count of an edit copy at another rate; null where the event does not lie inside of it. */
function byCopy(event: CutEvent, clip: ClipFacts, copy: CopyTime, cutRate: Rate): Located | null {
  if (!sameRate(copy.map.copy, cutRate)) return null
  const label = framesOf({ ...event.sourceIn, drop: copy.start === null ? event.sourceIn.drop : copy.drop }, cutRate)
  if (label === null) return null
  const day = dayFrames(cutRate, copy.drop)
  let n = label - (copy.start ?? 0)
  if (copy.start !== null && n < 0 && n + day < copy.frames) n += day
  const length = event.recordOut - event.recordIn
  const span = sourceLength(length, stepOf(cutRate, cutRate, event.speed ?? undefined))
  const own = runsBackwards(event.speed)
    ? backwardsFrom(n, span, framesOf({ ...event.sourceOut, drop: copy.start === null ? event.sourceOut.drop : copy.drop }, cutRate), label)
    : { in: n, out: n + span }
  if (own.in < 0 || own.out > copy.frames) return null
  const plain = stepsAsCopy(event.speed, 'copy')
  const step = stepOf(clip.rate, cutRate)
  const last = (m: number) => Math.min(clip.frames - 1, m)
  const range = { in: originalFrame(copy.map, own.in), out: last(originalFrame(copy.map, own.out - 1)) + 1 }
  // Each record frame shows what the copy shows, to the frame, however the rates go together.
  const at = plain ? { first: copy.map.first, k: n, step } : positionIn(event, range, clip.rate, cutRate)
  const missing = { before: 0, after: plain ? Math.max(0, sourceFrame(copy.map.first, n + length - 1, step) + 1 - Math.max(clip.frames, range.out)) : 0 }
  return { range, at, countedAt: 'copy', missing, outside: false }
}

/** The clip's timecode at a frame counted from its first. */
export const clipTimecode = (clip: ClipFacts, frame: number): string => timecodeText(digitsAt((clip.start ?? 0) + frame, clip.rate, clip.drop))

export const runsBackwards = (speed: CutEvent['speed']): boolean => speed !== null && speed.num < 0

/** The frame of its range that an event begins with: the last one where it runs backwards. */
const firstShown = (speed: CutEvent['speed'], range: FrameRange): number => (runsBackwards(speed) ? range.out - 1 : range.in)

/** Whether the frames of an event are those of the edit copy by which it was counted, one for one: retimed ones step through the clip itself. */
export const stepsAsCopy = (speed: CutEvent['speed'], countedAt: CountedAt | null): boolean =>
  countedAt === 'copy' && (speed === null || speed.num === speed.den)

/** How an event that begins with the first frame of its range goes through its clip. */
export const positionIn = (event: Pick<CutEvent, 'speed'>, range: FrameRange, clipRate: Rate, cutRate: Rate): Position => ({
  ...{ first: firstShown(event.speed, range), k: 0 },
  step: stepOf(clipRate, cutRate, event.speed ?? undefined),
})

/** The frame of its clip that an event in this position shows at record frame `n`, counted from the event's first. */
export const frameAt = (p: Position, n: number): number => sourceFrame(p.first, p.k + n, p.step)
