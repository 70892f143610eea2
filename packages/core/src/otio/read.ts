/** Reads OpenTimelineIO JSON: timelines, nested stacks, clips, gaps, transitions, speeds and markers. Never throws on bad input. */
import { type CutSource, type ListPart, type Problem, problemsOf } from '../cutlist/index.ts'
import { dropPossible, nominal, type Rate, rateText } from '../time/index.ts'
import { type JsonObject, type JsonValue, readJson } from './json.ts'
import { Layers } from './layers.ts'
import { Reading } from './reading.ts'
import { isComposition, json, layersOf, mediumOf, rateIn, unwrap } from './tree.ts'
import { framesAt, objectOf, schemaOf, textOf, timeOf } from './values.ts'

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

/** The timelines of a file: of a collection all that are in it. */
function timelinesIn(root: JsonObject | null): JsonObject[] {
  if (!root) return []
  return /^(Serializable)?Collection$/.test(schemaOf(root).replace(/^Serializable/, '')) ? layersOf(root) : [root]
}

/** The tracks of sound that a timeline has: as many, or as high as one of them is called. */
const soundTracksIn = (tracks: readonly JsonObject[]): number =>
  Math.max(0, ...tracks.filter((o) => mediumOf(o) === 'A').map((o, i) => Math.max(i + 1, Number(/^A(\d{1,2})$/.exec(textOf(o.name) ?? '')?.[1] ?? 0))))

export function readOtio(text: string, options: OtioOptions): OtioResult {
  const report = problemsOf(options.file)
  const parsed = readJson(text)
  const reading = (rate: Rate) => new Reading(rate, options.drop ?? true, report, parsed.linesOf)
  const end = ({ rate, events, items, markers }: Reading, title: string | null, metadata?: string): OtioResult => {
    if (events.length === 0) report('error', 'empty', 0, 'No event could be read from this file.')
    return {
      value: {
        ...{ events, drop: dropPossible(rate) && (options.drop ?? true), title, rate, markers },
        source: { format: 'otio', title, kept: [], perLabel: 1, ...(metadata ? { metadata } : {}), ...(items.length ? { items } : {}) },
      },
      problems: report.all(),
    }
  }
  if (parsed.fault) report('error', 'json', parsed.fault.line, `The file is damaged here: ${parsed.fault.text}. What stands before was read.`)
  const root = objectOf(parsed.value)
  const lineOf = (o: object): number => parsed.linesOf(o).first
  const timelines = timelinesIn(root)
  const timeline = timelines.find((o) => isComposition(schemaOf(o)))
  if (!timeline) {
    if (!parsed.fault) report('error', 'no-timeline', root ? lineOf(root) : 1, 'No timeline is in this file.')
    return end(reading(options.rate ?? options.otherwise), null)
  }
  if (timelines.length > 1)
    report('warning', 'other-timelines', lineOf(timeline), `The file holds ${timelines.length} timelines; ${textOf(timeline.name) ?? 'the first'} was read.`)
  const own = rateIn(timeline)
  const t = reading(options.rate ?? own ?? options.otherwise)
  if (own && options.rate && nominal(own) !== nominal(options.rate))
    report(
      'warning',
      'rate',
      lineOf(timeline),
      `The file counts ${rateText(own)} fps, the cut was asked for at ${rateText(options.rate)}; times were converted.`,
    )
  const start = timeOf(timeline.global_start_time)
  if (timeline.global_start_time && !start) report('warning', 'time', lineOf(timeline), 'The start of the timeline is not a time; it counts from zero.')
  const begin = start ? t.snap(framesAt(start, t.rate), lineOf(timeline), 'The start') : 0
  const stack = unwrap(timeline)
  const top = schemaOf(stack) === 'Stack' ? layersOf(stack) : [stack]
  new Layers(t, soundTracksIn(top)).read(top, 'V', 1, { origin: begin, from: 0, to: Number.POSITIVE_INFINITY, scale: 1 }, 0)
  for (const o of stack === timeline ? [timeline] : [timeline, stack]) t.markers.push(...t.markersOf(o, (time) => begin + framesAt(time, t.rate)))
  const names = top.map((o) => ({ name: textOf(o.name), kind: textOf(o.kind), metadata: o.metadata ?? null }))
  return end(t, textOf(timeline.name), json({ metadata: timeline.metadata ?? null, tracks: names as unknown as JsonValue }))
}
