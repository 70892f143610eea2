/** Reads edit decision lists in the CMX 3600 conventions and their common widenings. Never throws on bad input. */
import { type CutEvent, kindOf, type ListPart, type Problem, type Transition } from '../cutlist/index.ts'
import {
  compareLabels,
  dayFrames,
  dropPossible,
  framesOf,
  isDroppedLabel,
  nominal,
  parseTimecode,
  type Rate,
  rateText,
  type Step,
  type TimecodeDigits,
  timecodeText,
} from '../time/index.ts'
import { linesOf } from './text.ts'

export interface EdlOptions {
  /** The rate the list counts at. */
  readonly rate: Rate
  /** Shown in problems. */
  readonly file: string
}

export interface EdlResult {
  readonly value: ListPart & { readonly title: string | null }
  readonly problems: readonly Problem[]
}

const tc = String.raw`(\d{1,2}[:;.]\d{2}[:;.]\d{2}[:;.,]\d{2,3})`
const eventLine = new RegExp(
  String.raw`^\s*(\d{1,8}[A-Za-z]?)\s+(\S.*?)\s+([A-Za-z][A-Za-z0-9/]*)\s+([A-Za-z]{1,2}\d{0,3})(?:\s+\(?\s*(\d{1,4})\s*\)?)?(?:\s+F)?\s+${tc}\s+${tc}\s+${tc}\s+${tc}\s*(.*)$`,
)

/** Tracks of a channel code: V, V2, A, A2, AA (two of sound), B (picture and sound), and combinations with a slash. */
export function tracksOf(code: string): string[] | null {
  const out: string[] = []
  for (const part of code.toUpperCase().split('/')) {
    if (part === 'NONE') continue
    if (part === 'B' || part === 'AV' || part === 'VA') out.push('V1', 'A1')
    else if (part === 'AA') out.push('A1', 'A2')
    else if (/^(?:[VA]\d{0,2})+$/.test(part)) for (const m of part.matchAll(/([VA])(\d{0,2})/g)) out.push(`${m[1]}${Number(m[2] || 1)}`)
    else return null
  }
  return [...new Set(out)]
}

interface Draft {
  number: string
  reel: string
  channels: string[]
  transition: Transition
  sourceIn: TimecodeDigits
  sourceOut: TimecodeDigits
  recordIn: number
  recordOut: number
  comments: string[]
  fromName: string | null
  toName: string | null
  sourceFile: string | null
  speed: Step | null
  firstLine: number
  lastLine: number
}

/** What an event line says of its transition; null for a code nobody knows. */
function transitionOf(code: string, frames: number): Transition | null {
  const c = code.toUpperCase()
  if (c === 'C') return { type: 'cut', frames: 0, code: c, fromBlack: false }
  if (c === 'D') return { type: 'dissolve', frames, code: c, fromBlack: false }
  if (/^W\d{0,3}$/.test(c)) return { type: 'wipe', frames, code: c, fromBlack: false }
  return /^K[BO]?$/.test(c) ? { type: 'key', frames, code: c, fromBlack: false } : null
}

/** `M2 reel frames-per-second timecode`: the speed against the list's nominal rate, in thousandths at the finest. */
function speedOf(fps: string, r: Rate): Step | null {
  const thousandths = Math.round(Number(fps) * 1000)
  return Number.isFinite(thousandths) ? { num: thousandths, den: nominal(r) * 1000 } : null
}

export function readEdl(text: string, options: EdlOptions): EdlResult {
  const { rate: r, file } = options
  const problems: Problem[] = []
  const report = (severity: Problem['severity'], code: string, line: number, message: string): void => {
    problems.push({ code, severity, file, line, message })
  }
  const drafts: Draft[] = []
  let title: string | null = null
  let drop = false
  let anyDrop = false
  let current: Draft | null = null
  /** The first, empty line of a two-line transition: it names the outgoing side. */
  let outgoing: Draft | null = null

  const label = (raw: string): TimecodeDigits | null => {
    const t = parseTimecode(raw)
    return t && { ...t, drop: (t.drop || drop) && dropPossible(r) }
  }

  const readLine = (line: string, at: number) => {
    const plain = line.trim()
    if (plain === '') return
    const event = eventLine.exec(line)
    if (event) {
      current = null
      const [, number = '', reel = '', channel = '', code = '', frames, si = '', so = '', ri = '', ro = ''] = event
      const channels = tracksOf(channel)
      if (!channels) return report('error', 'channels', at, `The channels "${channel}" are not known; the event was left out.`)
      const transition = transitionOf(code, Number(frames ?? 0))
      if (!transition) return report('error', 'transition', at, `The transition "${code}" is not known; the event was left out.`)
      if (transition.type !== 'cut' && frames === undefined)
        report('warning', 'transition-length', at, `The ${transition.type} has no length; it was read as a cut.`)
      const labels = [si, so, ri, ro].map(label)
      const [sourceIn, sourceOut, recIn, recOut] = labels
      if (!sourceIn || !sourceOut || !recIn || !recOut) {
        const bad = [si, so, ri, ro][labels.findIndex((x) => !x)]
        return report('error', 'timecode', at, `"${bad}" is no timecode; the event was left out.`)
      }
      const recordIn = framesOf(recIn, r)
      let recordOut = framesOf(recOut, r)
      if (recordIn === null || recordOut === null) {
        const bad = timecodeText(recordIn === null ? recIn : recOut)
        return report(
          'error',
          'frame-digits',
          at,
          `${bad} has frame digits that do not exist at ${rateText(r)} fps; the event was left out. Check the rate of the cut.`,
        )
      }
      for (const t of [recIn, recOut])
        if (isDroppedLabel(t, r)) report('warning', 'dropped-label', at, `${timecodeText(t)} does not exist in drop-frame counting; the next frame was taken.`)
      // Only a record range over midnight may end on a smaller label, and then it is short.
      if (recordOut < recordIn && recordOut + dayFrames(r, recIn.drop) - recordIn < 3600 * nominal(r)) recordOut += dayFrames(r, recIn.drop)
      if (recordOut < recordIn) return report('error', 'record-order', at, `Record out ${ro} lies before record in ${ri}; the event was left out.`)
      const backwards = compareLabels(sourceOut, sourceIn) < 0 && !(sourceIn.h === 23 && sourceOut.h === 0)
      if (backwards) return report('error', 'source-order', at, `Source out ${so} lies before source in ${si}; the event was left out.`)
      const draft: Draft = {
        number,
        reel,
        channels,
        transition,
        sourceIn,
        sourceOut,
        recordIn,
        recordOut,
        comments: [],
        fromName: null,
        toName: null,
        sourceFile: null,
        speed: null,
        firstLine: at,
        lastLine: at,
      }
      if (recordOut === recordIn) {
        if (transition.type === 'cut') {
          outgoing = draft
          current = draft
        } else report('error', 'no-length', at, 'The event has no length; it was left out.')
        return
      }
      if (outgoing && outgoing.number === number && transition.type !== 'cut') {
        draft.firstLine = outgoing.firstLine
        draft.fromName = outgoing.fromName
        draft.comments.push(...outgoing.comments)
        if (/^(BL|BLACK)$/i.test(outgoing.reel)) draft.transition = { ...transition, fromBlack: true }
      } else if (outgoing) report('warning', 'no-length', outgoing.firstLine, 'The event has no length and no transition follows; it was left out.')
      outgoing = null
      if (transition.frames > recordOut - recordIn) {
        report(
          'warning',
          'transition-length',
          at,
          `The ${transition.type} of ${transition.frames} frames is longer than its event of ${recordOut - recordIn}; it was shortened.`,
        )
        draft.transition = { ...draft.transition, frames: recordOut - recordIn }
      }
      if (transition.type === 'wipe' || transition.type === 'key')
        report('warning', transition.type, at, `The ${transition.type} ${transition.code} is kept and rendered as a dissolve.`)
      drafts.push(draft)
      current = draft
      return
    }
    const fcm = /^FCM\s*:\s*(NON[\s-]*DROP|DROP)/i.exec(plain)
    if (fcm) {
      drop = /^DROP/i.test(fcm[1] ?? '')
      if (drop) anyDrop = dropPossible(r)
      if (drop && !dropPossible(r))
        report('warning', 'drop-frame', at, `Drop-frame counting does not exist at ${rateText(r)} fps; the list was counted without it.`)
      return
    }
    const head = /^TITLE\s*:\s*(.*)$/i.exec(plain)
    if (head) {
      title = (head[1] ?? '').trim() || null
      return
    }
    const m2 = /^M2\s+(.*?)\s+([+-]?\d+(?:\.\d+)?)\s+(\S+)\s*$/i.exec(plain)
    if (m2 && current) {
      current.speed = speedOf(m2[2] ?? '', r)
      current.comments.push(plain)
      current.lastLine = at
      return
    }
    if (current && /^(\*|>|M2|AUD|SPLIT|EFFECTS?|ASC_)/i.test(plain)) {
      const comment = /^\*\s*([A-Z _]+?)\s*(?:IS)?\s*:\s*(.*)$/i.exec(plain)
      const key = (comment?.[1] ?? '').toUpperCase().replace(/_/g, ' ')
      const value = (comment?.[2] ?? '').trim()
      if (value && (key === 'FROM CLIP NAME' || key === 'CLIP NAME')) current.fromName = value
      else if (value && key === 'TO CLIP NAME') current.toName = value
      else if (value && key === 'SOURCE FILE') current.sourceFile = value
      current.comments.push(plain)
      current.lastLine = at
      return
    }
    if (/^\*/.test(plain)) return
    if (/^\d/.test(plain))
      report('error', 'event-line', at, 'This looks like an event but could not be read: it needs number, reel, channels, transition and four timecodes.')
    else report('warning', 'unknown-line', at, 'This line is not understood; it was kept and left alone.')
  }
  for (const [index, line] of linesOf(text).entries()) readLine(line, index + 1)
  if (outgoing) report('warning', 'no-length', (outgoing as Draft).firstLine, 'The event has no length and no transition follows; it was left out.')

  const events = drafts.flatMap((d) => finish(d))
  if (events.length === 0) report('error', 'empty', 0, 'No event could be read from this file.')
  return { value: { events, drop: anyDrop || drafts.some((d) => d.sourceIn.drop), title }, problems }
}

/** One event per track of the draft. */
function finish(d: Draft): CutEvent[] {
  const name = d.transition.type === 'cut' ? (d.fromName ?? d.toName) : (d.toName ?? d.fromName)
  const reel = d.reel === '' ? null : d.reel
  return d.channels.map((track) => {
    const medium = track.startsWith('V') ? 'picture' : 'sound'
    return {
      id: '',
      number: d.number,
      track,
      medium,
      kind: kindOf(medium, reel, name ?? d.sourceFile),
      reel,
      clipName: name,
      sourceFile: d.sourceFile,
      sourceIn: d.sourceIn,
      sourceOut: d.sourceOut,
      recordIn: d.recordIn,
      recordOut: d.recordOut,
      transition: d.transition,
      speed: d.speed,
      comments: d.comments,
      file: 0,
      firstLine: d.firstLine,
      lastLine: d.lastLine,
    }
  })
}
