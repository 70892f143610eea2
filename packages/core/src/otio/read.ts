/** Reads OpenTimelineIO JSON: timelines, nested stacks, clips, gaps, transitions, speeds and markers. Never throws on bad input. */
import {
  type CutEvent,
  type CutSource,
  type EventKind,
  type KeptItem,
  kindOf,
  type ListPart,
  type Marker,
  type Problem,
  problemsOf,
  type Transition,
} from '../cutlist/index.ts'
import { dayFrames, digitsAt, dropPossible, nominal, type Rate, rateText, sourceLength, type Step, stepOf } from '../time/index.ts'
import { type JsonObject, type JsonValue, readJson } from './json.ts'
import { cdlIn, fractionOf, framesAt, listOf, objectOf, rangeOf, reelIn, schemaOf, type Time, textOf, timeOf } from './values.ts'

export interface OtioOptions {
  /** The rate of the cut; without it, what the file says, else `otherwise`. */
  readonly rate?: Rate | undefined
  readonly otherwise: Rate
  /** Shown in problems. */
  readonly file: string
  /** Whether timecode is drop-frame, which the format has no word for; without it, it is where the rate knows it. */
  readonly drop?: boolean | undefined
}

export interface OtioResult {
  readonly value: ListPart & { readonly title: string | null; readonly source: CutSource; readonly rate: Rate }
  readonly problems: readonly Problem[]
}

/** Stacks within tracks within stacks; what lies deeper is kept and not read. */
const deepest = 24

/** Where a composition's own time stands in the record: `from` of it at `origin`, `scale` of it for each record frame, up to `to`. */
interface Placement {
  readonly origin: number
  readonly from: number
  readonly to: number
  readonly scale: number
}

type Medium = 'V' | 'A'
const json = (v: JsonValue): string => JSON.stringify(v)
const mediumOf = (track: JsonObject): Medium => (/audio|sound/i.test(textOf(track.kind) ?? '') ? 'A' : 'V')
const isComposition = (schema: string): boolean => schema === 'Stack' || schema === 'Track' || schema === 'Timeline' || schema === 'Sequence'
const off = (o: JsonObject): boolean => o.enabled === false
/** The tracks of a stack; what stands in it directly is a track of its own. */
const layersOf = (stack: JsonObject): JsonObject[] =>
  listOf(stack.children).flatMap((c) => {
    const o = objectOf(c)
    return o ? [o] : []
  })
/** The stack of a timeline; other compositions are what they are. */
const unwrap = (o: JsonObject): JsonObject => {
  if (schemaOf(o) !== 'Timeline') return o
  const tracks = objectOf(o.tracks)
  return tracks && schemaOf(tracks) !== 'Timeline' ? tracks : { OTIO_SCHEMA: 'Stack.1', children: [] }
}

/** How many tracks of picture something needs when it is laid flat. */
function height(o: JsonObject): number {
  const inner = unwrap(o)
  const children = layersOf(inner)
  if (schemaOf(inner) === 'Stack')
    return Math.max(
      1,
      children.filter((c) => !(isComposition(schemaOf(c)) && mediumOf(c) === 'A')).reduce((n, c) => n + height(c), 0),
    )
  return schemaOf(inner) === 'Track' || schemaOf(inner) === 'Sequence' ? children.reduce((n, c) => Math.max(n, height(c)), 1) : 1
}

/** The rate that most of the file is told in: of the start, else of the first frames given at a frame rate. */
function rateIn(timeline: JsonObject): Rate | null {
  const start = timeOf(timeline.global_start_time)?.rate
  if (start) return start
  const queue: JsonObject[] = [timeline]
  for (let i = 0; i < queue.length && i < 2000; i++) {
    const o = queue[i] as JsonObject
    const r = rangeOf(o.source_range)?.duration.rate
    if (r) return r
    queue.push(...layersOf(unwrap(o)))
  }
  return null
}

export function readOtio(text: string, options: OtioOptions): OtioResult {
  const report = problemsOf(options.file)
  const events: CutEvent[] = []
  const items: KeptItem[] = []
  const markers: Marker[] = []
  const end = (title: string | null, rate: Rate, metadata?: string): OtioResult => {
    if (events.length === 0) report('error', 'empty', 0, 'No event could be read from this file.')
    return {
      value: {
        ...{ events, drop: dropPossible(rate) && (options.drop ?? true), title, rate, markers },
        source: { format: 'otio', title, kept: [], perLabel: 1, ...(metadata ? { metadata } : {}), ...(items.length ? { items } : {}) },
      },
      problems: report.all(),
    }
  }
  const parsed = readJson(text)
  if (parsed.fault) report('error', 'json', parsed.fault.line, `The file is damaged here: ${parsed.fault.text}. What stands before was read.`)
  const { linesOf } = parsed
  const root = objectOf(parsed.value)
  const lineOf = (o: object): number => linesOf(o).first
  const timelines = root && /^(Serializable)?Collection$/.test(schemaOf(root).replace(/^Serializable/, '')) ? layersOf(root) : root ? [root] : []
  const timeline = timelines.find((t) => isComposition(schemaOf(t)))
  if (!timeline) {
    if (!parsed.fault) report('error', 'no-timeline', root ? lineOf(root) : 1, 'No timeline is in this file.')
    return end(null, options.rate ?? options.otherwise)
  }
  if (timelines.length > 1)
    report('warning', 'other-timelines', lineOf(timeline), `The file holds ${timelines.length} timelines; ${textOf(timeline.name) ?? 'the first'} was read.`)
  const own = rateIn(timeline)
  const r = options.rate ?? own ?? options.otherwise
  if (own && options.rate && nominal(own) !== nominal(options.rate))
    report(
      'warning',
      'rate',
      lineOf(timeline),
      `The file counts ${rateText(own)} fps, the cut was asked for at ${rateText(options.rate)}; times were converted.`,
    )

  /** The whole frame at a place; told where it was none. */
  const snap = (x: number, line: number, what: string): number => {
    const n = Math.round(x)
    if (Math.abs(x - n) > 0.01)
      report('warning', 'between-frames', line, `${what} falls between two frames at ${rateText(r)} fps (${x.toFixed(2)}); the nearest was taken.`)
    return n
  }
  const start = timeOf(timeline.global_start_time)
  if (timeline.global_start_time && !start) report('warning', 'time', lineOf(timeline), 'The start of the timeline is not a time; it counts from zero.')
  const begin = start ? snap(framesAt(start, r), lineOf(timeline), 'The start') : 0

  const numbers = new Map<string, number>()
  const nextNumber = (track: string): string => {
    const n = (numbers.get(track) ?? 0) + 1
    numbers.set(track, n)
    return String(n).padStart(3, '0')
  }

  /** What changes the speed of an item, and the effects that do something else. */
  const effectsOf = (o: JsonObject): { speed: Step | null; scalar: number; others: string[] } => {
    let scalar = 1
    let any = false
    const others: string[] = []
    for (const e of listOf(o.effects)) {
      const effect = objectOf(e)
      if (!effect || effect.enabled === false) {
        if (effect) others.push(json(effect))
        continue
      }
      const schema = schemaOf(effect)
      const by = schema === 'FreezeFrame' ? 0 : schema === 'LinearTimeWarp' ? effect.time_scalar : undefined
      if (typeof by === 'number' && fractionOf(by)) {
        scalar *= by
        any = true
        continue
      }
      others.push(json(effect))
      const name = textOf(effect.effect_name) ?? textOf(effect.name) ?? schema
      report(
        'warning',
        'effect',
        lineOf(effect),
        by === undefined ? `The effect ${name} is kept and not rendered.` : 'The speed is not a number that can be used; it was kept and not applied.',
      )
    }
    const speed = any ? fractionOf(scalar) : null
    return { speed: speed && speed.num === speed.den ? null : speed, scalar: speed ? scalar : 1, others }
  }

  const markersOf = (o: JsonObject, place: (t: Time) => number | null): Marker[] =>
    listOf(o.markers).flatMap((m) => {
      const marker = objectOf(m)
      const range = rangeOf(marker?.marked_range)
      const at = range && place(range.start)
      if (!marker || !range || at === null) {
        if (marker) report('warning', 'marker', lineOf(marker), 'The marker has no place; it was left out.')
        return []
      }
      const text = [textOf(marker.name), textOf(marker.comment)].filter(Boolean).join(': ')
      return [{ at: Math.round(at), length: Math.round(framesAt(range.duration, r)), text, colour: textOf(marker.color) }]
    })

  /** How long an item is in its track, in frames of the cut; null where nothing says so. */
  const durationOf = (o: JsonObject): number | null => {
    const range = rangeOf(o.source_range)
    if (range) return framesAt(range.duration, r)
    const schema = schemaOf(o)
    if (schema === 'Timeline') return durationOf(unwrap(o))
    if (schema === 'Stack') return layersOf(o).reduce((most, c) => Math.max(most, durationOf(c) ?? 0), 0)
    if (schema === 'Track' || schema === 'Sequence') return layersOf(o).reduce((sum, c) => sum + (schemaOf(c) === 'Transition' ? 0 : (durationOf(c) ?? 0)), 0)
    const available = rangeOf(referenceOf(o).reference?.available_range)
    return available ? framesAt(available.duration, r) : null
  }

  const readItem = (o: JsonObject, medium: Medium, layer: number, place: Placement, from: number, to: number, lead: Lead, depth: number) => {
    const track = `${medium}${layer}`
    const line = lineOf(o)
    const schema = schemaOf(o)
    // The part of the item that its composition shows.
    const [a, b] = [Math.max(from, place.from), Math.min(to, place.to)]
    const at = (t: number) => place.origin + (t - place.from) / place.scale
    if (b - a < 1e-6) return
    const recordIn = snap(at(a), line, 'The beginning of the event') - (a === from ? lead.before : 0)
    const recordOut = snap(at(b), line, 'The end of the event') - (b === to ? lead.next : 0)
    if (recordOut <= recordIn || recordIn < 0) {
      report(
        'error',
        'no-length',
        line,
        recordIn < 0 ? 'The event begins before time zero; it was left out.' : 'The event is shorter than a frame; it was left out.',
      )
      return
    }
    const transition: Transition | null =
      a === from && lead.frames > 0
        ? { type: lead.type, frames: Math.min(lead.frames, recordOut - recordIn), code: lead.code, fromBlack: lead.fromBlack }
        : null
    const keep = () => items.push({ track, recordIn, recordOut, json: json(o) })
    if (off(o)) {
      report('warning', 'switched-off', line, `${textOf(o.name) ?? 'An item'} is switched off; it is kept and shows nothing.`)
      return void keep()
    }
    if (isComposition(schema)) {
      const { scalar, others } = effectsOf(o)
      if (scalar <= 0 || depth >= deepest) {
        report(
          'error',
          'nested',
          line,
          scalar <= 0 ? 'A group that stands still or runs backwards is not read; it was kept.' : 'Groups within groups go too deep here; this one was kept.',
        )
        return void keep()
      }
      if (others.length) keep()
      const inner = unwrap(o)
      const range = rangeOf(o.source_range)
      const own = range ? framesAt(range.start, r) : 0
      // Its time at the place where it begins to show.
      const shown: Placement = { origin: at(a), from: own + (a - from) * scalar, to: own + (b - from) * scalar, scale: place.scale * scalar }
      readLayers(schemaOf(inner) === 'Stack' ? layersOf(inner) : [inner], medium, layer, shown, depth + 1)
      return
    }
    if (schema === 'Gap' || schema === '') {
      if (schema === '') {
        report('warning', 'unknown-schema', line, 'There is something without a schema here; it is kept as a gap.')
        keep()
      }
      // A transition into nothing is a fade to black.
      if (transition && !transition.fromBlack) pushEvent(o, track, recordIn, recordIn + transition.frames, transition, 'black', place, 0)
      return
    }
    if (schema !== 'Clip') {
      report('warning', 'unknown-schema', line, `${schema} is a kind of object that is not known here; it is kept as a gap.`)
      return void keep()
    }
    pushEvent(o, track, recordIn, recordOut, transition, null, place, a - from - (a === from ? lead.before * place.scale : 0))
  }

  /** `into`: frames of its composition's time from the clip's own beginning to where it shows first; negative within a transition. */
  const pushEvent = (
    o: JsonObject,
    track: string,
    recordIn: number,
    recordOut: number,
    transition: Transition | null,
    made: EventKind | null,
    place: Placement,
    into: number,
  ) => {
    const line = lineOf(o)
    const { reference, name: refName, extra } = referenceOf(o)
    const available = rangeOf(reference?.available_range)
    const range = rangeOf(o.source_range) ?? available
    if (!made && !range) {
      report('error', 'time', line, `${textOf(o.name) ?? 'A clip'} has no range that can be read; it was left out and kept.`)
      items.push({ track, recordIn, recordOut, json: json(o) })
      return
    }
    const { scalar, others } = effectsOf(o)
    const speed = fractionOf(scalar * place.scale)
    const sourceRate = available?.duration.rate ?? range?.start.rate ?? r
    const step = stepOf(sourceRate, r, speed ?? undefined)
    const length = recordOut - recordIn
    const medium = track.startsWith('V') ? 'picture' : 'sound'
    let first = range ? Math.floor(framesAt(range.start, sourceRate) + 1e-6) : 0
    if (range && Math.abs(framesAt(range.start, sourceRate) - Math.round(framesAt(range.start, sourceRate))) > 0.01)
      report('warning', 'between-frames', line, `The source begins between two frames at ${rateText(sourceRate)} fps; the one before it was taken.`)
    else if (range) first = Math.round(framesAt(range.start, sourceRate))
    // Frames that the composition or a transition adds or cuts off at the head.
    const head = (into * sourceRate.num * r.den * Math.abs(scalar)) / (sourceRate.den * r.num)
    first += Math.round(head)
    const span = sourceLength(length, step)
    // Of a clip that runs backwards, what is cut off at the head are the last frames of its range.
    if (speed && speed.num < 0 && range) {
      const whole = Math.ceil((framesAt(range.duration, r) * sourceRate.num * r.den * Math.abs(scalar)) / (sourceRate.den * r.num) - 1e-6)
      first += whole - 2 * Math.round(head) - span
    }
    const url = textOf(reference?.target_url)
    const name = made ? null : (textOf(o.name) ?? refName)
    const file = schemaOf(reference) === 'ImageSequenceReference' ? sequenceName(reference as JsonObject) : url && fileOf(url)
    const reel = reelIn(o.metadata) ?? reelIn(reference?.metadata)
    const generator = schemaOf(reference) === 'GeneratorReference' ? `${textOf(reference?.generator_kind) ?? ''} ${refName ?? ''}` : ''
    const kind: EventKind =
      made ?? (/bars/i.test(generator) ? 'bars' : /black/i.test(generator) ? 'black' : generator ? 'title' : kindOf(medium, reel, name ?? file))
    const inClip = markersOf(o, (t) =>
      range ? recordIn + (framesAt(t, r) - framesAt(range.start, r)) / (scalar === 0 ? 1 : Math.abs(scalar)) / place.scale - into / place.scale : null,
    )
    const otio = {
      ...(o.metadata && Object.keys(objectOf(o.metadata) ?? {}).length ? { metadata: json(o.metadata) } : {}),
      ...(others.length ? { effects: others } : {}),
      ...extra.kept,
    }
    const cdl = medium === 'picture' ? cdlIn(o.metadata) : null
    const lines = linesOf(o)
    const drop = dropPossible(sourceRate) && (options.drop ?? true)
    const day = dayFrames(sourceRate, drop)
    const lastFrame = first + span
    events.push({
      ...{ id: '', number: nextNumber(track), track, medium, kind, reel, clipName: name, sourceFile: file },
      sourceIn: digitsAt(((first % day) + day) % day, sourceRate, drop),
      sourceOut: digitsAt(((lastFrame % day) + day) % day, sourceRate, drop),
      ...{ recordIn, recordOut, transition: transition ?? { type: 'cut', frames: 0, code: 'C', fromBlack: false } },
      speed: speed && speed.num === speed.den ? null : speed,
      ...{ comments: remarksIn(o), file: 0, firstLine: lines.first, lastLine: lines.last },
      ...(made ? {} : { sourceRate }),
      ...(available && available.duration.value > 0
        ? { media: { start: Math.round(framesAt(available.start, sourceRate)), length: Math.round(framesAt(available.duration, sourceRate)) } }
        : {}),
      ...(extra.files.length ? { otherFiles: extra.files } : {}),
      ...(cdl ? { cdl } : {}),
      ...(inClip.length ? { markers: inClip } : {}),
      ...(Object.keys(otio).length ? { otio } : {}),
    })
  }

  const readTrack = (track: JsonObject, medium: Medium, layer: number, place: Placement, depth: number): void => {
    const children = layersOf(track)
    let at = 0
    let lead: Lead = noLead
    let before: JsonObject | null = null
    for (let i = 0; i < children.length; i++) {
      const o = children[i] as JsonObject
      if (schemaOf(o) === 'Transition') {
        lead = leadOf(o, r, before === null || schemaOf(before) === 'Gap', place, snap, lineOf(o))
        if (lead.frames === 0) report('warning', 'transition-length', lineOf(o), 'The transition has no length; it was read as a cut.')
        if (lead.type === 'wipe') report('warning', 'wipe', lineOf(o), `The transition ${lead.code} is kept and rendered as a dissolve.`)
        if (i === children.length - 1 && before) lastFade(o, medium, layer, place, at)
        continue
      }
      const length = durationOf(o)
      if (length === null) {
        report('error', 'time', lineOf(o), `${textOf(o.name) ?? schemaOf(o)} has no length; it was left out, and what follows moves up.`)
        continue
      }
      const next = children[i + 1]
      const following = next && schemaOf(next) === 'Transition' ? leadOf(next, r, false, place, (x) => Math.round(x), 0) : noLead
      readItem(o, medium, layer, place, at, at + length, { ...lead, next: following.before }, depth)
      lead = noLead
      before = o
      at += length
    }
    if (depth === 0) markers.push(...markersOf(track, (t) => place.origin + framesAt(t, r)))
  }

  /** A transition at the very end of a track fades to black. */
  const lastFade = (o: JsonObject, medium: Medium, layer: number, place: Placement, at: number) => {
    const lead = leadOf(o, r, false, place, (x) => Math.round(x), 0)
    if (lead.frames === 0 || place.to < Number.POSITIVE_INFINITY) return
    const recordIn = Math.round(place.origin + (at - place.from) / place.scale) - lead.before
    pushEvent(
      o,
      `${medium}${layer}`,
      recordIn,
      recordIn + lead.frames,
      { type: lead.type, frames: lead.frames, code: lead.code, fromBlack: false },
      'black',
      place,
      0,
    )
  }

  const readLayers = (layers: readonly JsonObject[], medium: Medium, first: number, place: Placement, depth: number): void => {
    const next = { V: medium === 'V' ? first : 1, A: medium === 'A' ? first : depth === 0 ? 1 : soundTracks + 1 }
    for (const layer of layers) {
      const kind = isComposition(schemaOf(layer)) ? (depth === 0 || mediumOf(layer) === 'A' ? mediumOf(layer) : medium) : medium
      // A track that is called V3 is the third, though there be no second.
      const called = depth === 0 ? Number(/^[VA](\d{1,2})$/.exec(textOf(layer.name) ?? '')?.[1] ?? 0) : 0
      const n = Math.max(next[kind], called)
      next[kind] = n + (kind === 'V' ? height(layer) : 1)
      if (off(layer)) {
        report('warning', 'switched-off', lineOf(layer), `The track ${textOf(layer.name) ?? `${kind}${n}`} is switched off; it is not read.`)
        continue
      }
      if (schemaOf(layer) === 'Track' || schemaOf(layer) === 'Sequence') {
        const range = rangeOf(layer.source_range)
        // A track that shows only a part of itself.
        const own = range ? framesAt(range.start, r) : 0
        const shown =
          range && depth === 0 ? { ...place, from: place.from + own, to: Math.min(place.to, place.from + own + framesAt(range.duration, r)) } : place
        readTrack(layer, kind, n, shown, depth)
      } else {
        const length = durationOf(layer)
        if (length !== null) readItem(layer, kind, n, place, 0, length, noLead, depth)
        else report('error', 'time', lineOf(layer), `${textOf(layer.name) ?? schemaOf(layer)} has no length; it was left out.`)
      }
    }
  }

  const stack = unwrap(timeline)
  const top = schemaOf(stack) === 'Stack' ? layersOf(stack) : [stack]
  const soundTracks = Math.max(
    0,
    ...top.filter((t) => mediumOf(t) === 'A').map((t, i) => Math.max(i + 1, Number(/^A(\d{1,2})$/.exec(textOf(t.name) ?? '')?.[1] ?? 0))),
  )
  readLayers(top, 'V', 1, { origin: begin, from: 0, to: Number.POSITIVE_INFINITY, scale: 1 }, 0)
  for (const o of stack === timeline ? [timeline] : [timeline, stack]) markers.push(...markersOf(o, (t) => begin + framesAt(t, r)))
  const names = top.map((t) => ({ name: textOf(t.name), kind: textOf(t.kind), metadata: t.metadata ?? null }))
  return end(textOf(timeline.name), r, json({ metadata: timeline.metadata ?? null, tracks: names as unknown as JsonValue }))
}

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

function leadOf(o: JsonObject, r: Rate, fromBlack: boolean, place: Placement, snap: (x: number, line: number, what: string) => number, line: number): Lead {
  const frames = (t: Time | null) => (t && t.value > 0 ? snap(framesAt(t, r) / place.scale, line, 'The transition') : 0)
  const [before, after] = [frames(timeOf(o.in_offset)), frames(timeOf(o.out_offset))]
  const kind = textOf(o.transition_type) ?? 'SMPTE_Dissolve'
  const dissolve = /dissolve|fade/i.test(kind)
  const code = textOf(objectOf(objectOf(o.metadata)?.cmx_3600)?.transition) ?? (dissolve ? 'D' : kind)
  return { before, frames: before + after, type: dissolve ? 'dissolve' : 'wipe', code, fromBlack, next: 0 }
}

interface Reference {
  readonly reference: JsonObject | null
  readonly name: string | null
  readonly extra: { readonly files: readonly string[]; readonly kept: { readonly references?: string; readonly active?: string } }
}

/** The media of a clip: one reference (Clip.1) or several with the key of the active one (Clip.2). */
function referenceOf(o: JsonObject): Reference {
  const several = objectOf(o.media_references)
  const key = textOf(o.active_media_reference_key) ?? 'DEFAULT_MEDIA'
  const all = several ? Object.entries(several) : []
  const reference = objectOf(several ? (several[key] ?? all[0]?.[1]) : o.media_reference)
  const files = all.flatMap(([, v]) => {
    const url = textOf(objectOf(v)?.target_url)
    return url && objectOf(v) !== reference ? [fileOf(url)] : []
  })
  const plain = all.length <= 1 && ['ExternalReference', 'MissingReference', ''].includes(schemaOf(reference))
  return {
    reference,
    name: textOf(reference?.name),
    extra: { files, kept: plain ? {} : { references: json(several ?? (o.media_reference as JsonValue)), active: key } },
  }
}

/** The path of a URL, percent signs undone where they are signs; anything else as it stands. */
function fileOf(url: string): string {
  const path = url.replace(/^file:\/\/(localhost)?/i, '')
  if (!/%[0-9a-f]{2}/i.test(path)) return path
  try {
    return decodeURIComponent(path)
  } catch {
    return path
  }
}

/** The first file of a numbered sequence (ImageSequenceReference). */
function sequenceName(o: JsonObject): string {
  const padding = typeof o.frame_zero_padding === 'number' && o.frame_zero_padding >= 0 && o.frame_zero_padding <= 12 ? o.frame_zero_padding : 0
  const first = typeof o.start_frame === 'number' && Number.isFinite(o.start_frame) ? Math.round(o.start_frame) : 0
  const base = textOf(o.target_url_base)
  return `${base ? `${fileOf(base).replace(/\/$/, '')}/` : ''}${textOf(o.name_prefix) ?? ''}${String(first).padStart(padding, '0')}${textOf(o.name_suffix) ?? ''}`
}

/** Lines that a list once carried, as OTIO's own metadata for CMX 3600 keeps them. */
const remarksIn = (o: JsonObject): string[] =>
  listOf(objectOf(objectOf(o.metadata)?.cmx_3600)?.comments).flatMap((c) =>
    typeof c === 'string' && c.length < 2000 ? [c.startsWith('*') ? c : `* ${c}`] : [],
  )
