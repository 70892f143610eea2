/** Rules: what a person knows about a whole shoot or a whole list, applied in order before and while originals are weighed. */
import type { CutEvent, EventKind } from '../cutlist/index.ts'
import { type Chip, chipText, type Readable } from '../describe/index.ts'
import { stem } from '../naming/index.ts'
import { digitsAt, framesWithin, nominal, type Rate, timecodeText } from '../time/index.ts'
import type { ClipFacts } from './model.ts'

/** Fields that a pattern can read from names and folders. */
export const patternFields = ['reel', 'name', 'scene', 'take'] as const
export type PatternField = (typeof patternFields)[number]

export const preferences = ['here', 'larger', 'longer', 'later', 'same-rate', 'place'] as const
export type Preference = (typeof preferences)[number]

export type Rule = {
  readonly id: string
  /** Switched on. */
  readonly on: boolean
} & RuleBody

export type RuleBody =
  /** A field of every original, or of every event, put together from its other fields. */
  | ({ readonly kind: 'pattern'; readonly side: 'originals' | 'events'; readonly field: PatternField; readonly chips: readonly Chip[] } & ForSome)
  /** Reels of the list that are called otherwise on the originals. */
  | { readonly kind: 'reels'; readonly pairs: readonly { readonly from: string; readonly to: string }[] }
  /** Source timecode of events that is off by frames of the cut; of all of them, of some reels, or of some events by their keys. */
  | { readonly kind: 'shift'; readonly frames: number; readonly of: Scope }
  /** Source timecode of events that counts another number of frames in a second than was taken. */
  | { readonly kind: 'recount'; readonly rate: Rate; readonly of: Scope }
  /** Files below one folder stand below another now. */
  | ({ readonly kind: 'folder'; readonly from: string; readonly to: string } & ForSome)
  /** A field of the list that is not to be trusted. */
  | ({ readonly kind: 'ignore'; readonly what: 'name' | 'reel' | 'timecode' } & ForSome)
  /** Only these originals come into question. */
  | ({ readonly kind: 'only'; readonly of: 'place' | 'roll' | 'reel' | 'coding' | 'form'; readonly text: string } & ForSome)
  /** Of several that nothing else tells apart, this one. */
  | ({ readonly kind: 'prefer'; readonly what: Preference; readonly text: string } & ForSome)
  /** Events called so are no camera's. */
  | { readonly kind: 'needs-none'; readonly text: string; readonly as: Exclude<EventKind, 'camera'> }

/** For which events a rule is meant; for all of them where it does not say. Patterns of originals are for all. */
interface ForSome {
  readonly events?: Scope | undefined
}

export type Scope =
  | { readonly kind: 'all' }
  | { readonly kind: 'reels'; readonly reels: readonly string[] }
  | { readonly kind: 'events'; readonly keys: readonly string[] }

const kindWords: Readonly<Record<Exclude<EventKind, 'camera'>, string>> = {
  title: 'titles',
  still: 'stills',
  music: 'music',
  mix: 'a finished mix',
  black: 'black',
  bars: 'bars',
}
const preferred: Readonly<Record<Preference, string>> = {
  here: 'the one that is here',
  larger: 'the one with the larger picture',
  longer: 'the longer one',
  later: 'the one recorded later',
  'same-rate': 'the one that runs as the cut does',
  place: 'the one in',
}
const partWords = (c: Chip): string =>
  c.kind === 'text' ? `"${c.text}"` : `${c.part.kind === 'all' ? '' : `${c.part.kind} ${c.part.nth} of `}${c.of === 'above' ? 'the folder above' : c.of}`
const scopeWords = (s: Scope): string =>
  s.kind === 'all'
    ? 'all events'
    : s.kind === 'reels'
      ? `events on reel ${s.reels.join(', ')}`
      : `${s.keys.length} chosen ${s.keys.length === 1 ? 'event' : 'events'}`

/** A rule in words. */
export function ruleText(r: RuleBody): string {
  const some = 'events' in r && r.events && r.events.kind !== 'all' ? r.events : null
  return `${allText(r)}${some ? `, for ${scopeWords(some)}` : ''}`
}

function allText(r: RuleBody): string {
  switch (r.kind) {
    case 'pattern':
      return `The ${r.field} of ${r.side} is ${r.chips.map(partWords).join(' then ') || 'nothing'}`
    case 'reels':
      return r.pairs.length === 1 ? `Reel ${r.pairs[0]?.from} in the list is ${r.pairs[0]?.to}` : `${r.pairs.length} reels of the list have other names`
    case 'shift':
      return `Source timecode of ${scopeWords(r.of)} ${r.frames < 0 ? '−' : '+'} ${Math.abs(r.frames)} ${Math.abs(r.frames) === 1 ? 'frame' : 'frames'}`
    case 'recount':
      return `Source timecode of ${scopeWords(r.of)} counts ${nominal(r.rate)} frames a second`
    case 'folder':
      return `What stood in ${r.from} stands in ${r.to}`
    case 'ignore':
      return `The ${r.what === 'name' ? 'clip names' : r.what === 'reel' ? 'reels' : 'source timecode'} of the list are not trusted`.replace(
        'timecode of the list are',
        'timecode of the list is',
      )
    case 'only':
      return `Only originals whose ${r.of === 'form' ? 'kind' : r.of} has "${r.text}"`
    case 'prefer':
      return `Of several, ${preferred[r.what]}${r.what === 'place' ? ` ${r.text}` : ''}`
    case 'needs-none':
      return `Events called "${r.text}" are ${kindWords[r.as]}`
  }
}

/** An event as rules have it. */
export interface RuledEvent {
  /** Half sentences: what was taken for what. */
  readonly notes: readonly string[]
  readonly event: CutEvent
  readonly scene: string | null
  readonly take: string | null
  readonly ignored: ReadonlySet<'name' | 'reel' | 'timecode'>
  /** Rules that say which originals come into question for this event. */
  readonly only: readonly Only[]
  /** Rules that say which of several is taken for it. */
  readonly preferences: readonly Rule[]
  /** Some rule concerns it. */
  readonly touched: boolean
}
type Only = Extract<Rule, { kind: 'only' }>

const low = (s: string | null | undefined): string => (s ?? '').normalize('NFC').toLowerCase()
/** A path with one kind of stroke, no address before it and none behind. */
export const plainPath = (path: string): string =>
  path
    .replace(/^file:\/\/(localhost)?/i, '')
    .replace(/\\/g, '/')
    .replace(/\/+$/, '')

const inScope = (s: Scope, e: CutEvent, key: string): boolean =>
  s.kind === 'all' || (s.kind === 'reels' ? s.reels.some((r) => low(r) === low(e.reel)) : s.keys.includes(key))

/** What a chip can read of an event: its own fields, and the folders of its file. */
function eventValues(e: CutEvent): Partial<Record<Readable, string | null>> {
  const folders = plainPath(e.sourceFile ?? '')
    .split('/')
    .slice(0, -1)
  const name = e.clipName ?? e.sourceFile
  return {
    name: name && stem(name),
    folder: folders.at(-1) ?? null,
    above: folders.at(-2) ?? null,
    volume: folders.find(Boolean) ?? null,
    reel: e.reel,
    timecode: timecodeText(e.sourceIn),
    notes: e.comments.join(' ') || null,
  }
}

/** An event with the rules applied to it, in their order. `key` names it as decisions do. */
export function ruledEvent(event: CutEvent, rules: readonly Rule[], cut: Rate, key: () => string): RuledEvent {
  let e = event
  let [scene, take]: (string | null)[] = [null, null]
  const notes: string[] = []
  const ignored = new Set<'name' | 'reel' | 'timecode'>()
  const only: Only[] = []
  const preferences: Rule[] = []
  for (const r of rules) {
    if (!r.on) continue
    if ('events' in r && r.events && !inScope(r.events, event, r.events.kind === 'events' ? key() : '')) continue
    if (r.kind === 'prefer') preferences.push(r)
    else if (r.kind === 'only' && forSome(r) && r.text !== '') only.push(r)
    else if (r.kind === 'pattern' && r.side === 'events') {
      const made = chipText(r.chips, eventValues(event))
      if (!('text' in made) || made.text === '') continue
      if (r.field === 'reel') e = { ...e, reel: made.text }
      else if (r.field === 'name') e = { ...e, clipName: made.text }
      else if (r.field === 'scene') scene = made.text
      else take = made.text
      if (r.field === 'reel' || r.field === 'name') notes.push(`${r.field} ${made.text} by rule`)
    } else if (r.kind === 'reels') {
      const to = r.pairs.find((p) => low(p.from) === low(event.reel))?.to
      if (to === undefined) continue
      e = { ...e, reel: to }
      notes.push(`reel ${event.reel} is ${to} by rule`)
    } else if (r.kind === 'shift') {
      if (!inScope(r.of, event, r.of.kind === 'events' ? key() : '')) continue
      const own = e.sourceRate ?? cut
      const at = framesWithin(e.sourceIn, own)
      const by = Math.round((r.frames * nominal(own)) / nominal(cut))
      e = { ...e, sourceIn: digitsAt(at + by, own, e.sourceIn.drop) }
      notes.push(`source timecode ${by < 0 ? '−' : '+'} ${Math.abs(by)} frames by rule`)
    } else if (r.kind === 'recount') {
      if (!inScope(r.of, event, r.of.kind === 'events' ? key() : '')) continue
      if (e.sourceIn.f >= nominal(r.rate)) continue
      e = { ...e, sourceRate: r.rate }
      notes.push(`source timecode counts ${nominal(r.rate)} by rule`)
    } else if (r.kind === 'folder' && e.sourceFile) {
      const [path, from] = [plainPath(e.sourceFile), plainPath(r.from)]
      if (from === '' || !low(path).startsWith(`${low(from)}/`)) continue
      e = { ...e, sourceFile: `${plainPath(r.to)}${path.slice(from.length)}` }
      notes.push(`${r.from} is ${r.to} by rule`)
    } else if (r.kind === 'ignore') ignored.add(r.what)
    else if (r.kind === 'needs-none' && r.text !== '') {
      if (e.kind !== 'camera' || ![event.clipName, event.sourceFile, event.reel].some((t) => low(t).includes(low(r.text)))) continue
      e = { ...e, kind: r.as }
    }
  }
  if (ignored.has('name')) e = { ...e, clipName: null, sourceFile: null, otherFiles: [] }
  if (ignored.has('reel')) e = { ...e, reel: null }
  const touched = e !== event || scene !== null || take !== null || notes.length + ignored.size + only.length + preferences.length > 0
  return { event: e, scene, take, notes, ignored, only, preferences, touched }
}

const forSome = (r: ForSome): boolean => r.events !== undefined && r.events.kind !== 'all'

/** Whether an original comes into question under a rule. */
export function allowed(c: ClipFacts, r: Only): boolean {
  const field = { place: c.place, roll: c.roll, reel: c.reel, coding: c.coding, form: c.form }[r.of]
  return low(field).includes(low(r.text))
}

/** What a chip can read of an original. */
function clipValues(c: ClipFacts): Partial<Record<Readable, string | null>> {
  const folders = c.place.split('/').filter(Boolean)
  return {
    name: stem(c.name),
    folder: folders.length > 1 ? (folders.at(-1) ?? null) : null,
    above: folders.length > 2 ? (folders.at(-2) ?? null) : null,
    volume: folders[0] ?? null,
    roll: c.roll ?? null,
    reel: c.reel,
    scene: c.scene ?? null,
    take: c.take ?? null,
  }
}

/** Whether a rule makes anything else of originals. */
export const rulesClips = (r: Rule): boolean =>
  r.on && ((r.kind === 'pattern' && r.side === 'originals') || (r.kind === 'only' && r.text !== '' && !forSome(r)))

/** Originals with the rules applied to them: those that come into question, with what patterns read in them. */
export function ruledClips(clips: readonly ClipFacts[], rules: readonly Rule[]): readonly ClipFacts[] {
  const mine = rules.filter(rulesClips)
  if (mine.length === 0) return clips
  return clips.flatMap((clip) => {
    let c = clip
    for (const r of mine) {
      if (r.kind === 'only') {
        if (!allowed(c, r)) return []
      } else if (r.kind === 'pattern') {
        const made = chipText(r.chips, clipValues(clip))
        if (!('text' in made) || made.text === '') continue
        if (r.field === 'reel') c = { ...c, otherReels: [...(c.otherReels ?? []), made.text] }
        else if (r.field === 'name') c = { ...c, aliases: [...c.aliases, made.text] }
        else c = { ...c, [r.field]: made.text }
      }
    }
    return [c]
  })
}

/** Those of equal candidates that the first preference that parts them puts first; all of them where none does. `rules`: those for the event. */
export function preferredOf(
  list: readonly ClipFacts[],
  rules: readonly Rule[],
  cut: Rate,
): { readonly clips: readonly ClipFacts[]; readonly rule: Rule | null } {
  for (const r of rules) {
    if (!r.on || r.kind !== 'prefer') continue
    const value = (c: ClipFacts): number => {
      switch (r.what) {
        case 'here':
          return c.away ? 0 : 1
        case 'larger':
          return c.pixels ?? 0
        case 'longer':
          return (c.frames * c.rate.den) / c.rate.num
        case 'later':
          return c.recorded ?? 0
        case 'same-rate':
          return c.rate.num * cut.den === cut.num * c.rate.den ? 1 : 0
        case 'place':
          return r.text !== '' && low(`${c.place}${c.name}`).includes(low(r.text)) ? 1 : 0
      }
    }
    const most = Math.max(...list.map(value))
    const best = list.filter((c) => value(c) === most)
    if (best.length < list.length) return { clips: best, rule: r }
  }
  return { clips: list, rule: null }
}
