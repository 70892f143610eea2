/** Timecode and reels by rule, for clips whose files carry none: what each would get, and why. Files are never written to. */
import { dayFrames, nominal, type Rate } from '../time/index.ts'

/** By the file's time, by linear timecode heard in its sound, by the recorder that recorded the same sound or ran beside it, or an hour for each roll. */
export type StartRule = 'file-time' | 'sound' | 'recorder' | 'roll-hour'
/** By the roll's folder or volume, or by the beginning of the name. */
export type ReelRule = 'folder' | 'name'

export interface RuleClip {
  readonly id: string
  readonly name: string
  readonly roll: string
  readonly rate: Rate
  readonly frames: number
  /** Seconds since midnight, where the camera was, at which its file was last written: when the recording ended. */
  readonly ended: number
  /** The same in seconds of the calendar (Unix time). */
  readonly endedOn: number
  /** Seconds since midnight at which the recording began, where its header says so. */
  readonly began?: number | null | undefined
  /** First frame by the linear timecode heard in its sound, counted at the clip's rate; null where none was heard. */
  readonly heard: number | null
  /** Where its sound lies in that of a recorder with timecode; null where it lies in none, or nothing was compared. */
  readonly recorded: Recorded | null
}

/** A clip's sound found in a recorder's. */
export interface Recorded {
  readonly name: string
  /** Seconds of timecode from midnight at the clip's first frame. */
  readonly at: number
  /** 0 to 1. */
  readonly likeness: number
}

/** A recorder's clip that carries timecode. */
export interface Recording {
  readonly name: string
  /** Seconds of timecode from midnight at its beginning. */
  readonly start: number
  readonly length: number
  /** Seconds of the calendar at which its file was last written. */
  readonly endedOn: number
}

export interface Proposal<T> {
  readonly id: string
  /** Null where the rule has nothing to say. */
  readonly value: T | null
  /** Half a sentence. */
  readonly why: string
}

/**
 * The timecode of each clip's first frame, in whole frames from midnight at the clip's rate, non-drop. With `roll-hour` rolls
 * are numbered in the order of their first clips, and a roll's clips follow one another in the order given.
 */
export function proposeStarts(clips: readonly RuleClip[], rule: StartRule, recordings: readonly Recording[] = []): Proposal<number>[] {
  const within = (frames: number, r: Rate): number => {
    const day = dayFrames(r, false)
    return ((frames % day) + day) % day
  }
  if (rule === 'file-time')
    return clips.map((c) => ({
      id: c.id,
      value:
        typeof c.began === 'number'
          ? within(Math.round((c.began * c.rate.num) / c.rate.den), c.rate)
          : within(Math.round((c.ended * c.rate.num) / c.rate.den) - c.frames, c.rate),
      why: typeof c.began === 'number' ? 'its header says when the recording began' : 'its file was finished when the recording ended',
    }))
  if (rule === 'sound')
    return clips.map((c) => ({
      id: c.id,
      value: c.heard === null ? null : within(c.heard, c.rate),
      why: c.heard === null ? 'no linear timecode is heard in its sound' : 'linear timecode is heard in its sound',
    }))
  if (rule === 'recorder')
    return clips.map((c) => {
      if (c.recorded)
        return {
          id: c.id,
          value: within(Math.round((c.recorded.at * c.rate.num) / c.rate.den), c.rate),
          why: `${c.recorded.name} recorded the same sound (${Math.round(c.recorded.likeness * 100)} % alike)`,
        }
      const length = (c.frames * c.rate.den) / c.rate.num
      const begin = c.endedOn - length
      // Of recordings that ran while the clip did, the one that shares most of it.
      let best: { recording: Recording; shared: number } | null = null
      for (const r of recordings) {
        const shared = Math.min(c.endedOn, r.endedOn) - Math.max(begin, r.endedOn - r.length)
        if (shared > 0 && shared > (best?.shared ?? 0)) best = { recording: r, shared }
      }
      if (!best) return { id: c.id, value: null, why: 'no recorder with timecode ran then, by the clocks' }
      const { recording: r } = best
      const at = r.start + begin - (r.endedOn - r.length)
      return {
        id: c.id,
        value: within(Math.round((at * c.rate.num) / c.rate.den), c.rate),
        why: `${r.name} ran then, by the clocks: to a second or two`,
      }
    })
  const rolls = [...new Set(clips.map((c) => c.roll))]
  const at = new Map<string, number>()
  return clips.map((c) => {
    const number = rolls.indexOf(c.roll)
    const hour = (number % 23) + 1
    const before = at.get(c.roll) ?? 0
    // What came before counts in whole seconds, so that clips of other rates do not overlap.
    at.set(c.roll, before + Math.ceil((c.frames * c.rate.den) / c.rate.num))
    return { id: c.id, value: within((hour * 3600 + before) * nominal(c.rate), c.rate), why: `roll ${c.roll} has hour ${hour}` }
  })
}

/** The reel of each clip. */
export function proposeReels(clips: readonly Pick<RuleClip, 'id' | 'name' | 'roll'>[], rule: ReelRule): Proposal<string>[] {
  return clips.map((c) => {
    if (rule === 'folder') return { id: c.id, value: c.roll || null, why: c.roll ? 'its folder or card is called so' : 'no folder above it tells a roll' }
    const head = /^([A-Za-z]{1,4}\d{2,5})(?=[A-Za-z_\-. ])/.exec(c.name)?.[1]
    return { id: c.id, value: head ?? null, why: head ? 'its name begins so' : 'its name begins with no letters and number that another part follows' }
  })
}
