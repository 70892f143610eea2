/** The lines of a list, taken one after another: events, what is remarked of them, and what is kept unread. */
import type { KeptLine, Problems, Transition } from '../cutlist/index.ts'
import {
  dayFrames,
  dropPossible,
  framesOf,
  isDroppedLabel,
  nominal,
  parseTimecode,
  type Rate,
  rateText,
  type TimecodeDigits,
  timecodeText,
} from '../time/index.ts'
import { cut, type Draft, known, transitionOf } from './draft.ts'
import { type EventLine, longestLine, tracksOf } from './line.ts'
import { type Remark, remarkOf } from './remark.ts'

const black = (reel: string): boolean => /^(BL|BLACK)$/i.test(reel)
const isFcm = /^FCM\s*:\s*(NON[\s-]*DROP|DROP)/i

/** The four times of an event line, read: labels of its source, frames of its record. */
interface Times {
  readonly sourceIn: TimecodeDigits
  readonly sourceOut: TimecodeDigits
  readonly recordIn: number
  readonly recordOut: number
}

export class ListReading {
  readonly drafts: Draft[] = []
  readonly kept: KeptLine[] = []
  title: string | null = null
  /** Whether some record timecode is drop-frame. */
  dropped = false
  private readonly lastOn = new Map<string, Draft>()
  private drop = false
  /** The count of record timecode: as the list begins; what follows speaks of sources. */
  private recordDrop: boolean | null = null
  private current: Draft | null = null
  /** The first, empty line of a two-line transition: it names the outgoing side. */
  private outgoing: Draft | null = null

  constructor(
    private readonly rate: Rate,
    private readonly perLabel: number,
    /** Where some timecode is written with its own sign of drop-frame, the signs hold; else the FCM lines do. */
    private readonly signs: boolean,
    private readonly report: Problems,
  ) {}

  /** Takes one line; `event`: what stands in it where it is an event's. */
  line(line: string, event: EventLine | null, at: number): void {
    const plain = line.trim()
    if (plain === '') return
    if (event) return void this.event(event, plain, at)
    if (plain.length > longestLine) {
      this.report('warning', 'long-line', at, `This line has ${plain.length} characters; no list has lines of more than ${longestLine}. It was kept unchanged.`)
      this.kept.push({ line: at, text: plain })
      return
    }
    if (!plain.startsWith('*') && this.heading(plain, at)) return
    if (!this.current) {
      this.kept.push({ line: at, text: plain })
      return
    }
    const remark = remarkOf(plain)
    if (remark) this.take(this.current, remark, at)
    this.current.comments.push(plain)
    this.current.lastLine = at
  }

  /** Ends the list: what waited for a second line is left out. */
  end(): void {
    this.dropOutgoing()
  }

  leaveOut(code: string, at: number, line: string, message: string): void {
    this.report('error', code, at, `${message}; the event was left out and its line kept.`)
    this.kept.push({ line: at, text: line })
  }

  /** Takes a line that is no remark: how the list counts, its title, an event that cannot be read. False where it is for the event before it. */
  private heading(plain: string, at: number): boolean {
    const fcm = isFcm.exec(plain)
    if (fcm) {
      this.drop = /^DROP/i.test(fcm[1] ?? '')
      if (this.drop && !dropPossible(this.rate))
        this.report('warning', 'drop-frame', at, `Drop-frame counting does not exist at ${rateText(this.rate)} fps; the list was counted without it.`)
      return true
    }
    const head = /^TITLE\s*:\s*(.*)$/i.exec(plain)
    if (head && this.drafts.length === 0 && this.title === null) {
      this.title = (head[1] ?? '').trim() || null
      return true
    }
    if (/^\d/.test(plain)) {
      this.current = null
      this.leaveOut('event-line', at, plain, 'This looks like an event but needs number, reel, channels, transition and four timecodes')
      return true
    }
    if (!/^(>|M2|AUD|SPLIT|EFFECTS?|ASC_|TRIGGER|GPI|MOTION)/i.test(plain))
      this.report('warning', 'unknown-line', at, 'This line is not understood; it was kept unchanged.')
    return false
  }

  private label(raw: string, counted: boolean): TimecodeDigits | null {
    const t = parseTimecode(raw)
    return t && { h: t.h, m: t.m, s: t.s, f: t.f * this.perLabel, drop: (this.signs ? t.drop : counted) && dropPossible(this.rate) }
  }

  private dropOutgoing(): void {
    const { outgoing } = this
    if (!outgoing) return
    this.report('warning', 'no-length', outgoing.firstLine, 'The event has no length and no transition follows; it was left out and its lines kept.')
    this.kept.push({ line: outgoing.firstLine, text: outgoing.text }, ...outgoing.comments.map((text, i) => ({ line: outgoing.firstLine + i + 1, text })))
    this.outgoing = null
  }

  private transition(e: EventLine, at: number): Transition {
    const transition = transitionOf(e.code, (e.frames ?? 0) * this.perLabel)
    if (transition !== cut && !known.test(transition.code))
      this.report(
        'warning',
        'transition',
        at,
        `The transition "${e.code}" is not known; it is kept, and read as ${transition.frames ? 'a dissolve' : 'a cut'}.`,
      )
    if (transition.type !== 'cut' && e.frames === null && transition.type !== 'key')
      this.report('warning', 'transition-length', at, `The ${transition.type} has no length; it was read as a cut.`)
    return transition
  }

  /** The times of an event; null, and told, where they are none. */
  private times(e: EventLine, line: string, at: number): Times | null {
    const r = this.rate
    const [si, so, ri, ro] = e.times
    this.recordDrop ??= this.drop
    const sourceIn = this.label(si, this.drop)
    const sourceOut = this.label(so, this.drop)
    const recIn = this.label(ri, this.recordDrop)
    const recOut = this.label(ro, this.recordDrop)
    if (!sourceIn || !sourceOut || !recIn || !recOut) {
      this.leaveOut('timecode', at, line, `"${[si, so, ri, ro][[sourceIn, sourceOut, recIn, recOut].indexOf(null)]}" is no timecode`)
      return null
    }
    const recordIn = framesOf(recIn, r)
    this.dropped ||= recIn.drop
    let recordOut = framesOf(recOut, r)
    if (recordIn === null || recordOut === null) {
      const bad = recordIn === null ? ri : ro
      this.leaveOut('frame-digits', at, line, `${bad} has frame digits that do not exist at ${rateText(r)} fps (is the rate of the cut right?)`)
      return null
    }
    for (const t of [recIn, recOut])
      if (isDroppedLabel(t, r))
        this.report('warning', 'dropped-label', at, `${timecodeText(t)} does not exist in drop-frame counting; the next frame was taken.`)
    // Only a record range over midnight may end on a smaller label, and then it is short.
    const day = dayFrames(r, recIn.drop)
    if (recordOut < recordIn && recordOut + day - recordIn < 3600 * nominal(r)) recordOut += day
    if (recordOut < recordIn) {
      this.leaveOut('record-order', at, line, `Record out ${ro} lies before record in ${ri}`)
      return null
    }
    return { sourceIn, sourceOut, recordIn, recordOut }
  }

  private event(e: EventLine, line: string, at: number): void {
    this.current = null
    const channels = tracksOf(e.channels)
    if (!channels) return void this.leaveOut('channels', at, line, `The channels "${e.channels}" are not known`)
    const transition = this.transition(e, at)
    const times = this.times(e, line, at)
    if (!times) return
    // One plain literal: put together of several, it took most of the time of reading a list.
    const draft: Draft = {
      number: e.number,
      reel: e.reel,
      code: e.channels,
      channels,
      transition,
      sourceIn: times.sourceIn,
      sourceOut: times.sourceOut,
      recordIn: times.recordIn,
      recordOut: times.recordOut,
      tail: e.tail,
      text: line,
      before: this.lastOn.get(channels[0] ?? '') ?? null,
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
    if (draft.recordOut === draft.recordIn) {
      if (transition.type !== 'cut') return void this.leaveOut('no-length', at, line, 'The event has no length')
      this.dropOutgoing()
      this.outgoing = draft
    } else {
      this.lead(draft, at)
      this.drafts.push(draft)
      for (const track of draft.channels) this.lastOn.set(track, draft)
    }
    this.current = draft
  }

  /** What leads into an event: the side that goes out, where a line of its own names it; a transition no longer than the event; a key over its background. */
  private lead(draft: Draft, at: number): void {
    const { outgoing } = this
    const { transition, number, recordIn, recordOut } = draft
    const length = recordOut - recordIn
    if (outgoing && outgoing.number === number && transition.type !== 'cut') {
      draft.firstLine = outgoing.firstLine
      draft.fromName = outgoing.fromName
      draft.comments.push(...outgoing.comments)
      if (black(outgoing.reel)) draft.transition = { ...transition, fromBlack: true }
      this.outgoing = null
    } else this.dropOutgoing()
    if (transition.frames > length) {
      this.report(
        'warning',
        'transition-length',
        at,
        `The ${transition.type} of ${transition.frames} frames is longer than its event of ${length}; it was shortened.`,
      )
      draft.transition = { ...draft.transition, frames: length }
    }
    if ((transition.type === 'wipe' || transition.type === 'key') && known.test(transition.code))
      this.report('warning', transition.type, at, `The ${transition.type} ${transition.code} is kept and rendered as a dissolve.`)
    // The foreground of a key lies over its background.
    const under = this.drafts.at(-1)
    if (/^KO?$/.test(transition.code) && under?.transition.code === 'KB' && under.number === number && under.recordIn < recordOut && recordIn < under.recordOut)
      draft.channels = draft.channels.map((t) => (t.startsWith('V') ? `V${Number(t.slice(1)) + 1}` : t))
  }

  private take(d: Draft, remark: Remark, at: number): void {
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
        const frames = framesOf(this.label(remark.delay, false) ?? { h: 0, m: 0, s: 0, f: 0, drop: false }, this.rate)
        if (frames) d.split = { medium: remark.medium, frames }
        return
      }
      case 'marker':
      case 'level':
        this.placed(d, remark, at)
        return
      case 'bad':
        this.report('warning', remark.code, at, `${remark.text}; the line was kept as text.`)
    }
  }

  /** Takes a remark that stands at a time of the record. */
  private placed(d: Draft, remark: Extract<Remark, { kind: 'marker' | 'level' }>, at: number): void {
    const t = this.label(remark.at, this.recordDrop ?? this.drop)
    const frames = t && framesOf(t, this.rate)
    if (frames === null)
      this.report('warning', remark.kind, at, `"${remark.at}" is not a timecode at ${rateText(this.rate)} fps; the ${remark.kind} was kept as text.`)
    else if (remark.kind === 'level') d.levels.push({ at: frames, db: remark.db })
    else d.markers.push({ at: frames, length: 0, text: remark.text, colour: remark.colour })
  }
}
