/** What a reconnected cut points at when it is written out again: originals, edit copies or pulls. */
import type { Sequence } from '../clip/index.ts'
import type { CutEvent } from '../cutlist/index.ts'
import type { Pointed } from '../exchange/index.ts'
import { copyFrame, type FrameMap, type Rate, sameRate } from '../time/index.ts'
import type { PlanEvent, PlanEvents } from './model.ts'

/** The file that an event points at. */
export interface Referred {
  readonly name: string
  readonly url: string
  readonly reel: string | null
  readonly roll?: string | null
  readonly rate: Rate
  readonly drop: boolean
  /** Timecode of the file's first frame, in frames at its own rate. */
  readonly start: number
  readonly frames: number
  /** Which frame of the original is the file's first. */
  readonly offset: number
  /** Where it runs at another rate than its original: which frame of it is which of the original's. */
  readonly map?: FrameMap | null | undefined
  /** Where it is numbered pictures, of which `url` is the first. */
  readonly sequence?: Sequence | null | undefined
}

/** The frame of a file, in its own count, with which an event begins. */
function sourceIn(e: PlanEvent, file: Referred): number {
  const { map } = file
  if (!map) return (e.source?.in ?? 0) - file.offset + file.start
  // An event that came from such a copy begins with the very frame that it named, of several that show the same.
  const own = e.byCopy && e.at?.first === map.first ? e.at.k : copyFrame(map, e.source?.in ?? 0)
  return own + file.start
}
/** Frames of a file that an event reaches over, in its own count. */
function lengthIn(e: PlanEvent, file: Referred, cut: Rate): number {
  const { in: from = 0, out: to = 0 } = e.source ?? {}
  if (!file.map) return to - from
  return e.byCopy && sameRate(file.rate, cut) ? e.recordOut - e.recordIn : copyFrame(file.map, to - 1) - copyFrame(file.map, from) + 1
}

/**
 * What each event of a planned cut points at, on the files that `refer` names by event id: the very frames that it shows. Events without a file
 * point at nothing, and keep what the imported list said.
 */
export function pointFrom(plan: PlanEvents, refer: (eventId: string) => Referred | null): (e: CutEvent) => Pointed | null {
  const planned = new Map(plan.events.map((e) => [e.eventId, e]))
  const known = new Map<string, Pointed | null>()
  const point = (id: string): Pointed | null => {
    const p = planned.get(id)
    const file = p?.source ? refer(id) : null
    if (!p || !file) return null
    const from = sourceIn(p, file)
    const { name, url, reel, roll, rate, drop, start, frames, sequence } = file
    return { name, url, reel, roll, rate, drop, start, frames, sequence, range: { in: from, out: from + lengthIn(p, file, plan.rate) } }
  }
  return ({ id }) => {
    let file = known.get(id)
    if (file === undefined) {
      file = point(id)
      known.set(id, file)
    }
    return file
  }
}
