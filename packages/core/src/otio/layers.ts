/** The tracks of a timeline laid flat: its items in order, groups within groups, transitions, and which part of each is seen. */
import type { Transition } from '../cutlist/index.ts'
import type { Rate } from '../time/index.ts'
import { type Placement, readEvent } from './event.ts'
import type { JsonObject } from './json.ts'
import type { Reading } from './reading.ts'
import { height, isComposition, layersOf, type Medium, mediumOf, off, unwrap } from './tree.ts'
import { framesAt, objectOf, rangeOf, schemaOf, type Time, textOf, timeOf } from './values.ts'

/** Stacks within tracks within stacks; what lies deeper is kept and not read. */
const deepest = 24

/** What leads into an item: a transition of so many frames, so many of them before the cut. */
interface Lead {
  readonly before: number
  readonly frames: number
  readonly type: 'dissolve' | 'wipe'
  readonly code: string
  readonly fromBlack: boolean
  /** Frames that the following transition takes from the item's end. */
  readonly next: number
}
const noLead: Lead = { before: 0, frames: 0, type: 'dissolve', code: 'D', fromBlack: false, next: 0 }

/** `snap`: makes whole frames of what the transition says. */
function leadOf(o: JsonObject, r: Rate, fromBlack: boolean, place: Placement, snap: (frames: number) => number): Lead {
  const frames = (t: Time | null) => (t && t.value > 0 ? snap(framesAt(t, r) / place.scale) : 0)
  const [before, after] = [frames(timeOf(o.in_offset)), frames(timeOf(o.out_offset))]
  const kind = textOf(o.transition_type) ?? 'SMPTE_Dissolve'
  const dissolve = /dissolve|fade/i.test(kind)
  const code = textOf(objectOf(objectOf(o.metadata)?.cmx_3600)?.transition) ?? (dissolve ? 'D' : kind)
  return { before, frames: before + after, type: dissolve ? 'dissolve' : 'wipe', code, fromBlack, next: 0 }
}

/** A track of the cut, and how deep within groups it is read. */
interface Lane {
  readonly medium: Medium
  readonly layer: number
  readonly depth: number
}
const trackOf = ({ medium, layer }: Lane): string => `${medium}${layer}`

/** What of an item is seen: from `a` to `b` of its composition's time, as whole frames of the record. */
interface VisibleSpan {
  readonly a: number
  readonly b: number
  readonly recordIn: number
  readonly recordOut: number
  readonly transition: Transition | null
}

export class Layers {
  constructor(
    private readonly t: Reading,
    /** Tracks of sound that the timeline has by itself: those of groups come after them. */
    private readonly soundTracks: number,
  ) {}

  /** Reads layers onto tracks from `first` of their medium on; `depth` 0 are the tracks of the timeline itself. */
  read(layers: readonly JsonObject[], medium: Medium, first: number, place: Placement, depth: number): void {
    const { t } = this
    const next = { V: medium === 'V' ? first : 1, A: medium === 'A' ? first : depth === 0 ? 1 : this.soundTracks + 1 }
    for (const layer of layers) {
      const kind = isComposition(schemaOf(layer)) ? (depth === 0 || mediumOf(layer) === 'A' ? mediumOf(layer) : medium) : medium
      // A track that is called V3 is the third, though there be no second.
      const called = depth === 0 ? Number(/^[VA](\d{1,2})$/.exec(textOf(layer.name) ?? '')?.[1] ?? 0) : 0
      const n = Math.max(next[kind], called)
      next[kind] = n + (kind === 'V' ? height(layer) : 1)
      if (off(layer)) {
        t.report('warning', 'switched-off', t.lineOf(layer), `The track ${textOf(layer.name) ?? `${kind}${n}`} is switched off; it is not read.`)
        continue
      }
      this.layer(layer, { medium: kind, layer: n, depth }, place)
    }
  }

  private layer(layer: JsonObject, lane: Lane, place: Placement): void {
    const { t } = this
    if (schemaOf(layer) === 'Track' || schemaOf(layer) === 'Sequence') {
      const range = rangeOf(layer.source_range)
      // A track that shows only a part of itself.
      const from = place.from + (range ? framesAt(range.start, t.rate) : 0)
      const shown = range && lane.depth === 0 ? { ...place, from, to: Math.min(place.to, from + framesAt(range.duration, t.rate)) } : place
      return void this.track(layer, lane, shown)
    }
    const length = t.durationOf(layer)
    if (length !== null) this.item(layer, lane, place, 0, length, noLead)
    else t.report('error', 'time', t.lineOf(layer), `${textOf(layer.name) ?? schemaOf(layer)} has no length; it was left out.`)
  }

  private track(track: JsonObject, lane: Lane, place: Placement): void {
    const { t } = this
    const children = layersOf(track)
    let at = 0
    let lead: Lead = noLead
    let before: JsonObject | null = null
    for (let i = 0; i < children.length; i++) {
      const o = children[i] as JsonObject
      if (schemaOf(o) === 'Transition') {
        lead = leadOf(o, t.rate, before === null || schemaOf(before) === 'Gap', place, (x) => t.snap(x, t.lineOf(o), 'The transition'))
        if (lead.frames === 0) t.report('warning', 'transition-length', t.lineOf(o), 'The transition has no length; it was read as a cut.')
        if (lead.type === 'wipe') t.report('warning', 'wipe', t.lineOf(o), `The transition ${lead.code} is kept and rendered as a dissolve.`)
        if (i === children.length - 1 && before) this.lastFade(o, lane, place, at)
        continue
      }
      const length = t.durationOf(o)
      if (length === null) {
        t.report('error', 'time', t.lineOf(o), `${textOf(o.name) ?? schemaOf(o)} has no length; it was left out, and what follows moves up.`)
        continue
      }
      const next = children[i + 1]
      const following = next && schemaOf(next) === 'Transition' ? leadOf(next, t.rate, false, place, Math.round) : noLead
      this.item(o, lane, place, at, at + length, { ...lead, next: following.before })
      lead = noLead
      before = o
      at += length
    }
    if (lane.depth === 0) t.markers.push(...t.markersOf(track, (time) => place.origin + framesAt(time, t.rate)))
  }

  /** A transition at the very end of a track fades to black. */
  private lastFade(o: JsonObject, lane: Lane, place: Placement, at: number): void {
    const { type, frames, code, before } = leadOf(o, this.t.rate, false, place, Math.round)
    if (frames === 0 || place.to < Number.POSITIVE_INFINITY) return
    const recordIn = Math.round(place.origin + (at - place.from) / place.scale) - before
    const transition = { type, frames, code, fromBlack: false }
    readEvent(this.t, o, { track: trackOf(lane), recordIn, recordOut: recordIn + frames, transition, made: 'black' }, place, 0)
  }

  /** What its composition shows of an item that lasts `from` to `to` of its time; null where it shows nothing of it. */
  private seen(o: JsonObject, place: Placement, from: number, to: number, lead: Lead): VisibleSpan | null {
    const { t } = this
    const line = t.lineOf(o)
    const [a, b] = [Math.max(from, place.from), Math.min(to, place.to)]
    if (b - a < 1e-6) return null
    const recordIn = t.snap(recordAt(place, a), line, 'The beginning of the event') - (a === from ? lead.before : 0)
    const recordOut = t.snap(recordAt(place, b), line, 'The end of the event') - (b === to ? lead.next : 0)
    if (recordOut <= recordIn || recordIn < 0) {
      t.report(
        'error',
        'no-length',
        line,
        recordIn < 0 ? 'The event begins before time zero; it was left out.' : 'The event is shorter than a frame; it was left out.',
      )
      return null
    }
    const transition: Transition | null =
      a === from && lead.frames > 0
        ? { type: lead.type, frames: Math.min(lead.frames, recordOut - recordIn), code: lead.code, fromBlack: lead.fromBlack }
        : null
    return { a, b, recordIn, recordOut, transition }
  }

  private item(o: JsonObject, lane: Lane, place: Placement, from: number, to: number, lead: Lead): void {
    const { t } = this
    const seen = this.seen(o, place, from, to, lead)
    if (!seen) return
    const [line, schema, track] = [t.lineOf(o), schemaOf(o), trackOf(lane)]
    const { a, recordIn, recordOut, transition } = seen
    const keep = () => t.keep(o, track, recordIn, recordOut)
    if (off(o)) {
      t.report('warning', 'switched-off', line, `${textOf(o.name) ?? 'An item'} is switched off; it is kept and shows nothing.`)
      return void keep()
    }
    if (isComposition(schema)) return void this.group(o, lane, place, from, seen, keep)
    if (schema === 'Gap' || schema === '') {
      if (schema === '') {
        t.report('warning', 'unknown-schema', line, 'There is something without a schema here; it is kept as a gap.')
        keep()
      }
      // A transition into nothing is a fade to black.
      if (transition && !transition.fromBlack)
        readEvent(t, o, { track, recordIn, recordOut: recordIn + transition.frames, transition, made: 'black' }, place, 0)
      return
    }
    if (schema !== 'Clip') {
      t.report('warning', 'unknown-schema', line, `${schema} is a kind of object that is not known here; it is kept as a gap.`)
      return void keep()
    }
    readEvent(t, o, { track, recordIn, recordOut, transition, made: null }, place, a - from - (a === from ? lead.before * place.scale : 0))
  }

  /** Reads what is within a group onto the tracks from its own on. */
  private group(o: JsonObject, { medium, layer, depth }: Lane, place: Placement, from: number, { a, b }: VisibleSpan, keep: () => void): void {
    const { t } = this
    const { scalar, others } = t.effectsOf(o)
    if (scalar <= 0 || depth >= deepest) {
      t.report(
        'error',
        'nested',
        t.lineOf(o),
        scalar <= 0 ? 'A group that stands still or runs backwards is not read; it was kept.' : 'Groups within groups go too deep here; this one was kept.',
      )
      return void keep()
    }
    if (others.length) keep()
    const inner = unwrap(o)
    const range = rangeOf(o.source_range)
    const own = range ? framesAt(range.start, t.rate) : 0
    // Its time at the place where it begins to show.
    const shown: Placement = { origin: recordAt(place, a), from: own + (a - from) * scalar, to: own + (b - from) * scalar, scale: place.scale * scalar }
    this.read(schemaOf(inner) === 'Stack' ? layersOf(inner) : [inner], medium, layer, shown, depth + 1)
  }
}

/** Where a time of a composition stands in the record. */
const recordAt = (place: Placement, time: number): number => place.origin + (time - place.from) / place.scale
