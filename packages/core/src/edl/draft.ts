/** Events of a list while they are read, and as they come out. */
import { behindMidnight, type CutEvent, kindOf, type Level, type Marker, type Transition } from '../cutlist/index.ts'
import { type Cdl, plainCdl } from '../look/index.ts'
import { compareLabels, digitsAt, framesOf, nominal, type Rate, type Step, type TimecodeDigits } from '../time/index.ts'

/** An event while its lines are read. Frames at the rate of the cut. */
export interface Draft {
  number: string
  reel: string
  /** As written. */
  code: string
  channels: string[]
  transition: Transition
  sourceIn: TimecodeDigits
  sourceOut: TimecodeDigits
  recordIn: number
  recordOut: number
  tail: string
  text: string
  /** The event before it on its (first) track. */
  before: Draft | null
  comments: string[]
  fromName: string | null
  toName: string | null
  keyName: string | null
  sourceFile: string | null
  fullReel: string | null
  speed: string | null
  split: { medium: 'picture' | 'sound'; frames: number } | null
  sop: Omit<Cdl, 'saturation'> | null
  saturation: number | null
  markers: Marker[]
  levels: Level[]
  firstLine: number
  lastLine: number
}

export const cut: Transition = { type: 'cut', frames: 0, code: 'C', fromBlack: false }
/** Codes of transitions that lists agree on. */
export const known = /^(D|W\d{0,3}|K[BO]?)$/

/** What an event line says of its transition; a code nobody knows is kept, as a wipe where it has a length. */
export function transitionOf(written: string, frames: number): Transition {
  if (written === 'C') return cut
  const code = written.toUpperCase()
  if (code === 'C') return cut
  const type = code === 'D' ? 'dissolve' : known.test(code) ? (code.startsWith('W') ? 'wipe' : 'key') : frames > 0 ? 'wipe' : 'cut'
  return { type, frames, code, fromBlack: false }
}

/**
 * Frames a second as a speed. Lists at fractional rates write them against the whole rate or against the real one, rounded
 * or cut off: whole per cents are tried against both, and the length of the source, where it was written, decides.
 */
function speedOf(text: string, r: Rate, perLabel: number, source: number | null, record: number): Step {
  const thousandths = Math.round(Number(text) * 1000)
  const whole = nominal(r) / perLabel
  const plain = { num: thousandths, den: whole * 1000 }
  if (thousandths === 0) return { num: 0, den: 1 }
  if (r.den === 1) return plain
  const written = 10 ** -(/\.(\d+)$/.exec(text)?.[1]?.length ?? 0)
  const near = [whole, r.num / r.den / perLabel].flatMap((base) => {
    const percent = Math.round(thousandths / 10 / base)
    return percent !== 0 && Math.abs((percent * base) / 100 - thousandths / 1000) < written ? [percent] : []
  })
  const off = (percent: number) => (source === null || source === record ? 0 : Math.abs((record * Math.abs(percent)) / 100 - source))
  const best = near.toSorted((a, b) => off(a) - off(b))[0]
  return best === undefined ? plain : { num: best, den: 100 }
}

/** Moves what lies behind midnight to the next day. */
export function overMidnight(drafts: readonly Draft[], day: number, hour: number): void {
  for (const i of behindMidnight(drafts, day, hour)) {
    const d = drafts[i] as Draft
    d.recordIn += day
    d.recordOut += day
    d.markers = d.markers.map((m) => ({ ...m, at: m.at + day }))
    d.levels = d.levels.map((l) => ({ ...l, at: l.at + day }))
  }
}

/** Whether a label lies before another; one in the first hour of a day lies behind those of the hour before midnight. */
export const comesBefore = (a: TimecodeDigits, b: TimecodeDigits): boolean => compareLabels(a, b) < 0 && !(b.h === 23 && a.h === 0)

/** The line on which an event's own line stands, among its lines. */
export const lineOf = (d: Draft, lines: readonly string[]): number => {
  for (let n = d.firstLine; n <= d.lastLine; n++) if (lines[n - 1]?.trim() === d.text) return n
  return d.firstLine
}

const sourceFrames = (d: Draft, r: Rate): number | null => {
  const [a, b] = [framesOf(d.sourceIn, r), framesOf(d.sourceOut, r)]
  return a === null || b === null || b <= a ? null : b - a
}

/** The clip's name: of a transition it is the one that comes in; a name that is the one before's is that one's. */
function nameOf(d: Draft): string | null {
  const { before } = d
  if (d.keyName && /^KO?$/.test(d.transition.code)) return d.keyName
  if (d.transition.type === 'cut') return d.fromName ?? d.toName
  const outgoing = before && before.recordOut === d.recordIn ? (before.toName ?? before.fromName) : null
  return d.toName ?? (d.fromName === outgoing ? null : d.fromName)
}

/** One event per track of the draft. */
export function finish(d: Draft, all: readonly Draft[], index: number, r: Rate, perLabel: number): CutEvent[] {
  const name = nameOf(d)
  const written = d.reel === '' ? null : d.reel
  // A remark that gives the reel in full counts where the column has it cut off, or has none.
  const reel = d.fullReel && (!written || written === 'AX' || d.fullReel.toLowerCase().startsWith(written.toLowerCase())) ? d.fullReel : written
  const speed = d.speed === null ? null : speedOf(d.speed, r, perLabel, sourceFrames(d, r), d.recordOut - d.recordIn)
  const cdl = d.sop || d.saturation !== null ? { ...plainCdl, ...d.sop, saturation: d.saturation ?? 1 } : null
  // An event that runs backwards may have its range written so too.
  const turned = Number(d.speed) < 0 && comesBefore(d.sourceOut, d.sourceIn)
  const [sourceIn, sourceOut] = turned ? [d.sourceOut, d.sourceIn] : [d.sourceIn, d.sourceOut]
  // A split moves the in-point of one side, unless lines of its own say where it begins.
  const apart = d.split && [all[index - 1], all[index + 1]].some((o) => o?.number === d.number && o.recordIn !== d.recordIn)
  return d.channels.map((track): CutEvent => {
    const medium = track.startsWith('V') ? 'picture' : 'sound'
    const delay = d.split && !apart && d.split.medium === medium && d.recordIn + d.split.frames < d.recordOut ? d.split.frames : 0
    const from = delay ? framesOf(sourceIn, r) : null
    const event: CutEvent = {
      id: '',
      number: d.number,
      track,
      medium,
      kind: kindOf(medium, reel, name ?? d.sourceFile),
      reel,
      clipName: name,
      sourceFile: d.sourceFile,
      sourceIn: from === null ? sourceIn : digitsAt(from + delay, r, sourceIn.drop),
      sourceOut,
      recordIn: d.recordIn + (from === null ? 0 : delay),
      recordOut: d.recordOut,
      transition: d.transition,
      speed,
      comments: d.comments,
      file: 0,
      firstLine: d.firstLine,
      lastLine: d.lastLine,
    }
    const more: Partial<Writable<CutEvent>> = {}
    if (d.channels.length > 1) more.channels = d.code
    if (d.tail) more.tail = d.tail
    if (cdl && medium === 'picture') more.cdl = cdl
    if (d.markers.length) more.markers = d.markers
    if (d.levels.length && medium === 'sound') more.levels = d.levels
    return Object.keys(more).length ? { ...event, ...more } : event
  })
}

type Writable<T> = { -readonly [K in keyof T]: T[K] }
