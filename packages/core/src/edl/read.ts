/** Reads edit decision lists in the CMX 3600 conventions and their common widenings. Never throws on bad input. */
import {
  behindMidnight,
  type CutEvent,
  type CutSource,
  type KeptLine,
  kindOf,
  type Level,
  type ListPart,
  type Marker,
  type Problem,
  problemsOf,
  type Transition,
} from '../cutlist/index.ts'
import { type Cdl, plainCdl } from '../look/index.ts'
import {
  compareLabels,
  dayFrames,
  digitsAt,
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
import { type EventLine, eventLine, longestLine, tracksOf } from './line.ts'
import { type Remark, remarkOf } from './remark.ts'
import { linesOf } from '../text/index.ts'

export interface EdlOptions {
  /** The rate the list counts at. */
  readonly rate: Rate
  /** Shown in problems. */
  readonly file: string
  /** Frames that share one label, above 30 frames a second (ST 12-3); without it, it is told from the digits. */
  readonly perLabel?: number | undefined
}

export interface EdlResult {
  readonly value: ListPart & { readonly title: string | null; readonly source: CutSource }
  readonly problems: readonly Problem[]
}

interface Draft {
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

const cut: Transition = { type: 'cut', frames: 0, code: 'C', fromBlack: false }
const known = /^(D|W\d{0,3}|K[BO]?)$/

/** What an event line says of its transition; a code nobody knows is kept, as a wipe where it has a length. */
function transitionOf(written: string, frames: number): Transition {
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

/**
 * Frames that share one label: above 30 frames a second lists may count in pairs or fours, and then no frame digit reaches
 * the lower count. Fourteen different labels are asked for, whole seconds left out, which tell nothing; with fewer it is plain.
 */
function labelsShared(lines: readonly (EventLine | null)[], r: Rate): number {
  const n = nominal(r)
  if (n <= 30) return 1
  const digits = new Set<string>()
  let most = 0
  for (const l of lines)
    for (const t of l?.times ?? []) {
      const f = Number(/\d+$/.exec(t)?.[0])
      if (f > 0) digits.add(t)
      most = Math.max(most, f)
    }
  if (digits.size < 14) return 1
  return [4, 2].find((k) => n % k === 0 && n / k >= 24 && n / k <= 30 && most < n / k) ?? 1
}

const black = (reel: string): boolean => /^(BL|BLACK)$/i.test(reel)
const isFcm = /^FCM\s*:\s*(NON[\s-]*DROP|DROP)/i

export function readEdl(text: string, options: EdlOptions): EdlResult {
  const { rate: r, file } = options
  const report = problemsOf(file)
  const lines = linesOf(text)
  const eventLines = lines.map(eventLine)
  const perLabel = options.perLabel ?? labelsShared(eventLines, r)
  if (perLabel > 1 && !options.perLabel)
    report('warning', 'pairs', 0, `No frame number reaches ${nominal(r) / perLabel}: ${perLabel} frames were taken to share each timecode.`)
  /** Where some timecode is written with its own sign of drop-frame, the signs hold; else the FCM lines do. */
  const signs = eventLines.some((l) => l?.times.some((t) => /[;.,]\d{2,3}$/.test(t)))
  const drafts: Draft[] = []
  const lastOn = new Map<string, Draft>()
  const kept: KeptLine[] = []
  let title: string | null = null
  let drop = false
  /** The count of record timecode: as the list begins; what follows speaks of sources. */
  let recordDrop: boolean | null = null
  let dropped = false
  let current: Draft | null = null
  /** The first, empty line of a two-line transition: it names the outgoing side. */
  let outgoing: Draft | null = null

  const label = (raw: string, counted: boolean): TimecodeDigits | null => {
    const t = parseTimecode(raw)
    return t && { h: t.h, m: t.m, s: t.s, f: t.f * perLabel, drop: (signs ? t.drop : counted) && dropPossible(r) }
  }
  const leaveOut = (code: string, at: number, line: string, message: string): void => {
    report('error', code, at, `${message}; the event was left out and its line kept.`)
    kept.push({ line: at, text: line })
  }
  const dropOutgoing = (): void => {
    if (!outgoing) return
    report('warning', 'no-length', outgoing.firstLine, 'The event has no length and no transition follows; it was left out and its lines kept.')
    kept.push({ line: outgoing.firstLine, text: outgoing.text }, ...outgoing.comments.map((text, i) => ({ line: (outgoing?.firstLine ?? 0) + i + 1, text })))
    outgoing = null
  }

  const readEvent = (e: EventLine, line: string, at: number) => {
    current = null
    const channels = tracksOf(e.channels)
    if (!channels) return leaveOut('channels', at, line, `The channels "${e.channels}" are not known`)
    const transition = transitionOf(e.code, (e.frames ?? 0) * perLabel)
    if (transition !== cut && !known.test(transition.code))
      report('warning', 'transition', at, `The transition "${e.code}" is not known; it is kept, and read as ${transition.frames ? 'a dissolve' : 'a cut'}.`)
    if (transition.type !== 'cut' && e.frames === null && transition.type !== 'key')
      report('warning', 'transition-length', at, `The ${transition.type} has no length; it was read as a cut.`)
    const [si, so, ri, ro] = e.times
    recordDrop ??= drop
    const sourceIn = label(si, drop)
    const sourceOut = label(so, drop)
    const recIn = label(ri, recordDrop)
    const recOut = label(ro, recordDrop)
    if (!sourceIn || !sourceOut || !recIn || !recOut)
      return leaveOut('timecode', at, line, `"${[si, so, ri, ro][[sourceIn, sourceOut, recIn, recOut].indexOf(null)]}" is no timecode`)
    const recordIn = framesOf(recIn, r)
    dropped ||= recIn.drop
    let recordOut = framesOf(recOut, r)
    if (recordIn === null || recordOut === null) {
      const bad = recordIn === null ? ri : ro
      return leaveOut('frame-digits', at, line, `${bad} has frame digits that do not exist at ${rateText(r)} fps (is the rate of the cut right?)`)
    }
    for (const t of [recIn, recOut])
      if (isDroppedLabel(t, r)) report('warning', 'dropped-label', at, `${timecodeText(t)} does not exist in drop-frame counting; the next frame was taken.`)
    // Only a record range over midnight may end on a smaller label, and then it is short.
    if (recordOut < recordIn && recordOut + dayFrames(r, recIn.drop) - recordIn < 3600 * nominal(r)) recordOut += dayFrames(r, recIn.drop)
    if (recordOut < recordIn) return leaveOut('record-order', at, line, `Record out ${ro} lies before record in ${ri}`)
    const draft: Draft = {
      number: e.number,
      reel: e.reel,
      code: e.channels,
      channels,
      transition,
      sourceIn,
      sourceOut,
      recordIn,
      recordOut,
      tail: e.tail,
      text: line,
      before: lastOn.get(channels[0] ?? '') ?? null,
      comments: [],
      fromName: null,
      toName: null,
      keyName: null,
      sourceFile: null,
      fullReel: null,
      speed: null,
      split: null,
      sop: null,
      saturation: null,
      markers: [],
      levels: [],
      firstLine: at,
      lastLine: at,
    }
    if (recordOut === recordIn) {
      if (transition.type !== 'cut') return leaveOut('no-length', at, line, 'The event has no length')
      dropOutgoing()
      outgoing = draft
      current = draft
      return
    }
    if (outgoing && outgoing.number === e.number && transition.type !== 'cut') {
      draft.firstLine = outgoing.firstLine
      draft.fromName = outgoing.fromName
      draft.comments.push(...outgoing.comments)
      if (black(outgoing.reel)) draft.transition = { ...transition, fromBlack: true }
      outgoing = null
    } else dropOutgoing()
    if (transition.frames > recordOut - recordIn) {
      report(
        'warning',
        'transition-length',
        at,
        `The ${transition.type} of ${transition.frames} frames is longer than its event of ${recordOut - recordIn}; it was shortened.`,
      )
      draft.transition = { ...draft.transition, frames: recordOut - recordIn }
    }
    if ((transition.type === 'wipe' || transition.type === 'key') && known.test(transition.code))
      report('warning', transition.type, at, `The ${transition.type} ${transition.code} is kept and rendered as a dissolve.`)
    // The foreground of a key lies over its background.
    const under = drafts.at(-1)
    if (
      /^KO?$/.test(transition.code) &&
      under?.transition.code === 'KB' &&
      under.number === e.number &&
      under.recordIn < recordOut &&
      recordIn < under.recordOut
    )
      draft.channels = channels.map((t) => (t.startsWith('V') ? `V${Number(t.slice(1)) + 1}` : t))
    drafts.push(draft)
    for (const track of draft.channels) lastOn.set(track, draft)
    current = draft
  }

  const take = (d: Draft, remark: Remark, at: number) => {
    switch (remark.kind) {
      case 'from-name':
        d.fromName = remark.value
        return
      case 'to-name':
        d.toName = remark.value
        return
      case 'key-name':
        d.keyName = remark.value
        return
      case 'source-file':
        d.sourceFile = remark.value
        return
      case 'reel':
        d.fullReel = remark.value
        return
      case 'sop':
        d.sop = remark.value
        return
      case 'saturation':
        d.saturation = remark.value
        return
      case 'speed': {
        // Below a transition on two lines, a speed may be meant for the outgoing side, which has its own already.
        const { before } = d
        if (before && d.transition.frames > 0 && remark.reel !== '' && remark.reel !== d.reel && remark.reel === before.reel) before.speed ??= remark.rate
        else d.speed = remark.rate
        return
      }
      case 'channels':
        d.channels = [...new Set([...d.channels, ...remark.tracks])]
        return
      case 'split': {
        const frames = framesOf(label(remark.delay, false) ?? { h: 0, m: 0, s: 0, f: 0, drop: false }, r)
        if (frames) d.split = { medium: remark.medium, frames }
        return
      }
      case 'marker':
      case 'level': {
        const t = label(remark.at, recordDrop ?? drop)
        const frames = t && framesOf(t, r)
        if (frames === null) report('warning', remark.kind, at, `"${remark.at}" is not a timecode at ${rateText(r)} fps; the ${remark.kind} was kept as text.`)
        else if (remark.kind === 'level') d.levels.push({ at: frames, db: remark.db })
        else d.markers.push({ at: frames, length: 0, text: remark.text, colour: remark.colour })
        return
      }
      case 'bad':
        report('warning', remark.code, at, `${remark.text}; the line was kept as text.`)
    }
  }

  const readLine = (line: string, event: EventLine | null, at: number) => {
    const plain = line.trim()
    if (plain === '') return
    if (event) return readEvent(event, plain, at)
    if (plain.length > longestLine) {
      report('warning', 'long-line', at, `This line has ${plain.length} characters; no list has lines of more than ${longestLine}. It was kept unchanged.`)
      kept.push({ line: at, text: plain })
      return
    }
    if (!plain.startsWith('*')) {
      const fcm = isFcm.exec(plain)
      if (fcm) {
        drop = /^DROP/i.test(fcm[1] ?? '')
        if (drop && !dropPossible(r))
          report('warning', 'drop-frame', at, `Drop-frame counting does not exist at ${rateText(r)} fps; the list was counted without it.`)
        return
      }
      const head = /^TITLE\s*:\s*(.*)$/i.exec(plain)
      if (head && drafts.length === 0 && title === null) {
        title = (head[1] ?? '').trim() || null
        return
      }
      if (/^\d/.test(plain)) {
        current = null
        return leaveOut('event-line', at, plain, 'This looks like an event but needs number, reel, channels, transition and four timecodes')
      }
      if (!/^(>|M2|AUD|SPLIT|EFFECTS?|ASC_|TRIGGER|GPI|MOTION)/i.test(plain))
        report('warning', 'unknown-line', at, 'This line is not understood; it was kept unchanged.')
    }
    if (!current) {
      kept.push({ line: at, text: plain })
      return
    }
    const remark = remarkOf(plain)
    if (remark) take(current, remark, at)
    current.comments.push(plain)
    current.lastLine = at
  }
  for (const [index, line] of lines.entries()) readLine(line, eventLines[index] ?? null, index + 1)
  dropOutgoing()
  overMidnight(drafts, dayFrames(r, dropped), nominal(r) * 3600)

  const backwards = (d: Draft) => comesBefore(d.sourceOut, d.sourceIn) && !(d.speed !== null && Number(d.speed) < 0)
  const events = drafts.flatMap((d, i) => {
    if (backwards(d)) {
      leaveOut(
        'source-order',
        d.lastLine === d.firstLine ? d.firstLine : lineOf(d, lines),
        d.text,
        `Source out ${timecodeText(d.sourceOut)} lies before source in ${timecodeText(d.sourceIn)}`,
      )
      return []
    }
    return finish(d, drafts, i, r, perLabel)
  })
  if (events.length === 0) report('error', 'empty', 0, 'No event could be read from this file.')
  return {
    value: {
      ...{ events, drop: dropped, title },
      source: { format: 'edl', title, kept: kept.sort((a, b) => a.line - b.line), perLabel },
    },
    problems: report.all(),
  }
}

/** Moves what lies behind midnight to the next day. */
function overMidnight(drafts: readonly Draft[], day: number, hour: number): void {
  for (const i of behindMidnight(drafts, day, hour)) {
    const d = drafts[i] as Draft
    d.recordIn += day
    d.recordOut += day
    d.markers = d.markers.map((m) => ({ ...m, at: m.at + day }))
    d.levels = d.levels.map((l) => ({ ...l, at: l.at + day }))
  }
}

/** Whether a label lies before another; one in the first hour of a day lies behind those of the hour before midnight. */
const comesBefore = (a: TimecodeDigits, b: TimecodeDigits): boolean => compareLabels(a, b) < 0 && !(b.h === 23 && a.h === 0)

/** The line on which an event's own line stands, among its lines. */
const lineOf = (d: Draft, lines: readonly string[]): number => {
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
function finish(d: Draft, all: readonly Draft[], index: number, r: Rate, perLabel: number): CutEvent[] {
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
