/** A clip of a timeline as an event of the cut. */
import { type CutEvent, type EventKind, kindOf, type Transition } from '../cutlist/index.ts'
import { dayFrames, digitsAt, dropPossible, type Rate, rateText, type Step, sourceLength, stepOf } from '../time/index.ts'
import type { JsonObject } from './json.ts'
import type { Reading } from './reading.ts'
import { fileOf, type Reference, referenceOf, remarksIn, sequenceName } from './reference.ts'
import { json } from './tree.ts'
import { cdlIn, fractionOf, framesAt, objectOf, rangeOf, reelIn, schemaOf, type TimeRange, textOf } from './values.ts'

/** Where a composition's own time stands in the record: `from` of it at `origin`, `scale` of it for each record frame, up to `to`. */
export interface Placement {
  readonly origin: number
  readonly from: number
  readonly to: number
  readonly scale: number
}

/** Where an event stands in the record, and what it is where that does not follow from its clip. */
export interface Stand {
  readonly track: string
  readonly recordIn: number
  readonly recordOut: number
  readonly transition: Transition | null
  readonly made: EventKind | null
}

/** What an event shows of its source: frames from `first`, `span` of them, at the source's rate. */
interface SourceSpan {
  readonly rate: Rate
  readonly speed: Step | null
  readonly first: number
  readonly span: number
}

/** `into`: frames of its composition's time from the clip's own beginning to where it shows first; negative within a transition. */
function shownOf(
  t: Reading,
  o: JsonObject,
  { range, available, scalar }: { range: TimeRange | null; available: TimeRange | null; scalar: number },
  length: number,
  place: Placement,
  into: number,
): SourceSpan {
  const r = t.rate
  const speed = fractionOf(scalar * place.scale)
  const rate = available?.duration.rate ?? range?.start.rate ?? r
  const at = range ? framesAt(range.start, rate) : 0
  const between = Math.abs(at - Math.round(at)) > 0.01
  if (between) t.report('warning', 'between-frames', t.lineOf(o), `The source begins between two frames at ${rateText(rate)} fps; the one before it was taken.`)
  // Frames that the composition or a transition adds or cuts off at the head.
  const head = Math.round((into * rate.num * r.den * Math.abs(scalar)) / (rate.den * r.num))
  const span = sourceLength(length, stepOf(rate, r, speed ?? undefined))
  let first = (between ? Math.floor(at + 1e-6) : Math.round(at)) + head
  // Of a clip that runs backwards, what is cut off at the head are the last frames of its range.
  if (speed && speed.num < 0 && range) {
    const whole = Math.ceil((framesAt(range.duration, r) * rate.num * r.den * Math.abs(scalar)) / (rate.den * r.num) - 1e-6)
    first += whole - 2 * head - span
  }
  return { rate, speed, first, span }
}

/** What an event is called by: its name, the file it comes from, its reel, and what kind that makes it. */
function calledOf(o: JsonObject, { reference, name: refName }: Reference, medium: CutEvent['medium'], made: EventKind | null) {
  const url = textOf(reference?.target_url)
  const clipName = made ? null : (textOf(o.name) ?? refName)
  const sourceFile = schemaOf(reference) === 'ImageSequenceReference' ? sequenceName(reference as JsonObject) : url && fileOf(url)
  const reel = reelIn(o.metadata) ?? reelIn(reference?.metadata)
  const generator = schemaOf(reference) === 'GeneratorReference' ? `${textOf(reference?.generator_kind) ?? ''} ${refName ?? ''}` : ''
  const kind: EventKind =
    made ?? (/bars/i.test(generator) ? 'bars' : /black/i.test(generator) ? 'black' : generator ? 'title' : kindOf(medium, reel, clipName ?? sourceFile))
  return { kind, reel, clipName, sourceFile }
}

/** Reads a clip, or what is made in its place, into an event; one without a range is kept. `into`: see `shownOf`. */
export function readEvent(t: Reading, o: JsonObject, { track, recordIn, recordOut, transition, made }: Stand, place: Placement, into: number): void {
  const r = t.rate
  const reference = referenceOf(o)
  const available = rangeOf(reference.reference?.available_range)
  const range = rangeOf(o.source_range) ?? available
  if (!made && !range) {
    t.report('error', 'time', t.lineOf(o), `${textOf(o.name) ?? 'A clip'} has no range that can be read; it was left out and kept.`)
    return void t.keep(o, track, recordIn, recordOut)
  }
  const { scalar, others } = t.effectsOf(o)
  const { rate, speed, first, span } = shownOf(t, o, { range, available, scalar }, recordOut - recordIn, place, into)
  const medium = track.startsWith('V') ? 'picture' : 'sound'
  const markers = t.markersOf(o, (time) =>
    range ? recordIn + (framesAt(time, r) - framesAt(range.start, r)) / (scalar === 0 ? 1 : Math.abs(scalar)) / place.scale - into / place.scale : null,
  )
  const otio = {
    ...(o.metadata && Object.keys(objectOf(o.metadata) ?? {}).length ? { metadata: json(o.metadata) } : {}),
    ...(others.length ? { effects: others } : {}),
    ...reference.extra.kept,
  }
  const cdl = medium === 'picture' ? cdlIn(o.metadata) : null
  const lines = t.linesOf(o)
  const drop = dropPossible(rate) && t.drop
  const day = dayFrames(rate, drop)
  const within = (frame: number): number => ((frame % day) + day) % day
  t.events.push({
    ...{ id: '', number: t.nextNumber(track), track, medium, ...calledOf(o, reference, medium, made) },
    sourceIn: digitsAt(within(first), rate, drop),
    sourceOut: digitsAt(within(first + span), rate, drop),
    ...{ recordIn, recordOut, transition: transition ?? { type: 'cut', frames: 0, code: 'C', fromBlack: false } },
    speed: speed && speed.num === speed.den ? null : speed,
    ...{ comments: remarksIn(o), file: 0, firstLine: lines.first, lastLine: lines.last },
    ...(made ? {} : { sourceRate: rate }),
    ...(available && available.duration.value > 0
      ? { media: { start: Math.round(framesAt(available.start, rate)), length: Math.round(framesAt(available.duration, rate)) } }
      : {}),
    ...(reference.extra.files.length ? { otherFiles: reference.extra.files } : {}),
    ...(cdl ? { cdl } : {}),
    ...(markers.length ? { markers } : {}),
    ...(Object.keys(otio).length ? { otio } : {}),
  })
}
