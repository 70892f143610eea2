/** What is at hand while a timeline is read: its rate, what was read so far, and what is told of it. */
import type { CutEvent, KeptItem, Marker, Problem } from '../cutlist/index.ts'
import { type Rate, rateText, type Step } from '../time/index.ts'
import type { JsonObject } from './json.ts'
import { referenceOf } from './reference.ts'
import { json, layersOf, unwrap } from './tree.ts'
import { fractionOf, framesAt, listOf, objectOf, rangeOf, schemaOf, type Time, textOf } from './values.ts'

/** What effects do to an item. */
interface Effects {
  /** Source frames for each of its own; null where it runs as it is. */
  readonly speed: Step | null
  readonly scalar: number
  /** Those that do something else, as they came. */
  readonly others: string[]
}

export class Reading {
  readonly events: CutEvent[] = []
  /** What is kept and not read. */
  readonly items: KeptItem[] = []
  readonly markers: Marker[] = []
  private readonly numbers = new Map<string, number>()

  constructor(
    /** The rate of the cut. */
    readonly rate: Rate,
    /** Whether timecode is drop-frame where its rate knows that. */
    readonly drop: boolean,
    readonly report: (severity: Problem['severity'], code: string, line: number, message: string) => void,
    /** The lines of the text on which something stands, counted from 1. */
    readonly linesOf: (o: object) => { readonly first: number; readonly last: number },
  ) {}

  lineOf(o: object): number {
    return this.linesOf(o).first
  }

  /** The number of the next event of a track. */
  nextNumber(track: string): string {
    const n = (this.numbers.get(track) ?? 0) + 1
    this.numbers.set(track, n)
    return String(n).padStart(3, '0')
  }

  /** Keeps something that is not read, with where it would stand. */
  keep(o: JsonObject, track: string, recordIn: number, recordOut: number): void {
    this.items.push({ track, recordIn, recordOut, json: json(o) })
  }

  /** The whole frame at a place; told where it was none. */
  snap(x: number, line: number, what: string): number {
    const n = Math.round(x)
    if (Math.abs(x - n) > 0.01)
      this.report('warning', 'between-frames', line, `${what} falls between two frames at ${rateText(this.rate)} fps (${x.toFixed(2)}); the nearest was taken.`)
    return n
  }

  /** What changes the speed of an item, and the effects that do something else. */
  effectsOf(o: JsonObject): Effects {
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
      this.report(
        'warning',
        'effect',
        this.lineOf(effect),
        by === undefined ? `The effect ${name} is kept and not rendered.` : 'The speed is not a number that can be used; it was kept and not applied.',
      )
    }
    const speed = any ? fractionOf(scalar) : null
    return { speed: speed && speed.num === speed.den ? null : speed, scalar: speed ? scalar : 1, others }
  }

  /** The markers of something; `place`: where a time of it stands in the record, null where nowhere. */
  markersOf(o: JsonObject, place: (t: Time) => number | null): Marker[] {
    return listOf(o.markers).flatMap((m) => {
      const marker = objectOf(m)
      const range = rangeOf(marker?.marked_range)
      const at = range && place(range.start)
      if (!marker || !range || at === null) {
        if (marker) this.report('warning', 'marker', this.lineOf(marker), 'The marker has no place; it was left out.')
        return []
      }
      const text = [textOf(marker.name), textOf(marker.comment)].filter(Boolean).join(': ')
      return [{ at: Math.round(at), length: Math.round(framesAt(range.duration, this.rate)), text, colour: textOf(marker.color) }]
    })
  }

  /** How long an item is in its track, in frames of the cut; null where nothing says so. */
  durationOf(o: JsonObject): number | null {
    const range = rangeOf(o.source_range)
    if (range) return framesAt(range.duration, this.rate)
    const schema = schemaOf(o)
    if (schema === 'Timeline') return this.durationOf(unwrap(o))
    if (schema === 'Stack') return layersOf(o).reduce((most, c) => Math.max(most, this.durationOf(c) ?? 0), 0)
    if (schema === 'Track' || schema === 'Sequence')
      return layersOf(o).reduce((sum, c) => sum + (schemaOf(c) === 'Transition' ? 0 : (this.durationOf(c) ?? 0)), 0)
    const available = rangeOf(referenceOf(o).reference?.available_range)
    return available ? framesAt(available.duration, this.rate) : null
  }
}
