/** A reconnected cut written out again, pointing at other files: originals, edit copies or pulls. */
import type { Cut } from '../cutlist/index.ts'
import { type EdlEntry, writeEdl } from '../edl/index.ts'
import { type OtioClip, type OtioGap, type OtioTrack, writeOtio } from '../otio/index.ts'
import { copyFrame, digitsAt, type FrameMap, framesOf, nominal, type Rate, sameRate, sourceFrame } from '../time/index.ts'
import type { Plan, PlanEvent } from './model.ts'

/** The file that an event points at. */
export interface Referred {
  readonly name: string
  readonly url: string
  readonly reel: string | null
  readonly rate: Rate
  readonly drop: boolean
  /** Timecode of the file's first frame, in frames at its own rate. */
  readonly start: number
  readonly frames: number
  /** Which frame of the original is the file's first. */
  readonly offset: number
  /** Where it runs at another rate than its original: which frame of it is which of the original's. */
  readonly map?: FrameMap | null | undefined
}

/** A label of a file counted at the list's rate, as source timecode in lists is. */
function listFrames(frames: number, file: Referred, list: Rate): number {
  const t = digitsAt(frames, file.rate, file.drop)
  return framesOf({ ...t, f: Math.floor((t.f * nominal(list)) / nominal(file.rate)) }, list) ?? 0
}

/** The frame of a file, in its own count, with which an event begins. */
function sourceIn(e: PlanEvent, file: Referred): number {
  const { map } = file
  if (!map) return (e.source?.in ?? 0) - file.offset + file.start
  // An event that came from such a copy begins with the very frame that it named, of several that show the same.
  const own = e.origin && e.origin.first === map.first ? e.origin.k : copyFrame(map, e.source?.in ?? 0)
  return own + file.start
}
/** Frames of a file that an event reaches over, in its own count. */
function lengthIn(e: PlanEvent, file: Referred, cut: Rate): number {
  const { in: from = 0, out: to = 0 } = e.source ?? {}
  if (!file.map) return to - from
  return e.origin && sameRate(file.rate, cut) ? e.recordOut - e.recordIn : copyFrame(file.map, to - 1) - copyFrame(file.map, from) + 1
}

/** An edit decision list of the cut on the files that `refer` names; events without one keep what the imported list said. */
export function cutToEdl(cut: Cut, plan: Plan, refer: (eventId: string) => Referred | null): { text: string; losses: string[] } {
  const planned = new Map(plan.events.map((e) => [e.eventId, e]))
  const losses: string[] = []
  const entries = cut.events.map((e, i): EdlEntry => {
    const p = planned.get(e.id)
    const file = refer(e.id)
    const before = cut.events[i - 1]
    const length = e.recordOut - e.recordIn
    const si =
      file && p ? listFrames(sourceIn(p, file), file, cut.rate) : (framesOf({ ...e.sourceIn, f: Math.min(e.sourceIn.f, nominal(cut.rate) - 1) }, cut.rate) ?? 0)
    const channel = e.track === 'V1' ? 'V' : e.track === 'A1' ? 'A' : e.track
    const reel = file ? (file.reel ?? 'AX') : (e.reel ?? 'AX')
    const beforeFile = before && refer(before.id)
    const beforePlan = before && planned.get(before.id)
    const dissolve = e.transition.frames > 0
    const outgoing = !dissolve
      ? null
      : e.transition.fromBlack || !before || before.track !== e.track || before.recordOut !== e.recordIn
        ? { reel: 'BL', source: 0, clipName: null }
        : {
            reel: (beforeFile ? beforeFile.reel : before.reel) ?? 'AX',
            source:
              beforeFile && beforePlan
                ? listFrames(sourceFrame(sourceIn(beforePlan, beforeFile), e.recordIn - before.recordIn, beforePlan.step), beforeFile, cut.rate)
                : 0,
            clipName: beforeFile?.name ?? before.clipName,
          }
    if (e.speed && !e.comments.some((c) => c.startsWith('M2'))) losses.push(`Event ${e.number}: its speed.`)
    return {
      number: i + 1,
      reel,
      channels: channel,
      transition: dissolve ? { code: e.transition.code, frames: e.transition.frames } : { code: 'C', frames: 0 },
      sourceIn: si,
      sourceOut: si + length,
      recordIn: e.recordIn,
      recordOut: e.recordOut,
      clipName: file?.name ?? e.clipName,
      sourceFile: file?.url ?? e.sourceFile,
      outgoing,
      comments: e.comments.filter((c) => !/^\*\s*(FROM|TO)? ?CLIP NAME|^\*\s*SOURCE FILE/i.test(c)),
    }
  })
  const written = writeEdl({ title: cut.name, rate: cut.rate, drop: cut.drop, entries })
  return { text: written.text, losses: [...losses, ...written.losses] }
}

/** The same as OpenTimelineIO. */
export function cutToOtio(cut: Cut, plan: Plan, refer: (eventId: string) => Referred | null): { text: string; losses: string[] } {
  const planned = new Map(plan.events.map((e) => [e.eventId, e]))
  const names = [...new Set(cut.events.map((e) => e.track))]
  const losses: string[] = []
  const tracks = names.map((name): OtioTrack => {
    const items: (OtioClip | OtioGap)[] = []
    let at = cut.start
    for (const e of cut.events.filter((x) => x.track === name)) {
      if (e.recordIn > at) items.push({ kind: 'gap', length: e.recordIn - at, rate: cut.rate })
      const p = planned.get(e.id)
      const file = refer(e.id)
      const length = e.recordOut - e.recordIn
      if (e.recordIn < at) losses.push(`Event ${e.number}: it overlaps the one before it.`)
      if (file && p?.source) {
        items.push({
          kind: 'clip',
          name: file.name,
          url: file.url,
          rate: file.rate,
          sourceIn: sourceIn(p, file),
          sourceLength: lengthIn(p, file, cut.rate),
          availableStart: file.start,
          availableLength: file.frames,
          dissolve: e.transition.frames,
          speed: e.speed ? e.speed.num / e.speed.den : null,
          metadata: { event: e.id, reel: file.reel ?? '' },
        })
      } else items.push({ kind: 'gap', length, rate: cut.rate })
      at = Math.max(at, e.recordOut)
    }
    return { name, medium: name.startsWith('V') ? 'Video' : 'Audio', items }
  })
  const written = writeOtio(cut.name, cut.start, cut.rate, tracks)
  return { text: written.text, losses: [...losses, ...written.losses] }
}
