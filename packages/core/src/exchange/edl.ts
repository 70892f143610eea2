/** A cut as edit decision lists. */
import type { Cut, CutEvent } from '../cutlist/index.ts'
import { type EdlEntry, writeEdl } from '../edl/index.ts'
import { grouped } from '../lists/index.ts'
import { plainCdl } from '../look/index.ts'
import { isNoReel, stem } from '../naming/index.ts'
import { digitsAt, formatFrames, framesOf, nominal, rateText, sourceFrame, sourceLength, stepOf } from '../time/index.ts'
import { labelFrames, type Pointed } from './point.ts'
import { asTheyAre, type ReelPolicy, reelNames } from './reels.ts'

export interface EdlOptions {
  readonly reels?: ReelPolicy
  /** One list for all tracks, or one for each. */
  readonly lists?: 'one' | 'each'
  readonly title?: string
}

export interface EdlFiles {
  /** For each list the tracks that stand in it (all of them, or one). */
  readonly files: readonly { readonly track: string | null; readonly text: string }[]
  /** The reels that stand in the lists under other names; empty where none does. */
  readonly table: readonly { readonly reel: string; readonly full: string; readonly name: string; readonly file: string }[]
  readonly losses: readonly string[]
}

/** Remarks that are written anew, since they speak of the file that the event points at. */
const rewritten = /^\*\s*((FROM|TO|KEY)\s+)?CLIP NAME|^\*\s*SOURCE[ _]FILE|^\*\s*((SOURCE\s+)?REEL|TAPE)(\s+NAME)?\s*(IS)?\s*:|^M2\b|^AUD\s|^SPLIT/i
const colours = /^(RED|GREEN|BLUE|CYAN|MAGENTA|YELLOW|ORANGE|PURPLE|PINK|WHITE|BLACK)$/

const wantedReel = (e: CutEvent, file: Pointed | null, policy: ReelPolicy): string => {
  const reel = file ? file.reel : e.reel
  const name = file?.name ?? e.clipName ?? e.sourceFile
  const other = policy.from === 'name' ? name : policy.from === 'file' ? name && stem(name) : policy.from === 'roll' ? (file?.roll ?? null) : null
  return (e.kind === 'black' ? 'BL' : (other ?? reel)) ?? 'AX'
}

/** An event with what it is written by. */
interface WrittenEvent {
  readonly event: CutEvent
  readonly file: Pointed | null
  /** Its reel in full. */
  readonly reel: string
  /** The event before it on its track. */
  before: WrittenEvent | null
}

/** What one cut is written by: the file of each event, its reel as lists have it, and what is lost on the way. */
class Writing {
  readonly losses: string[] = []
  /** In the order of the cut. */
  readonly rows: readonly WrittenEvent[]
  readonly byTrack: ReadonlyMap<string, readonly WrittenEvent[]>
  /** Reels that stand under other names. */
  readonly changed: readonly { readonly full: string; readonly reel: string }[]
  private readonly names: ReadonlyMap<string, string>
  private readonly perLine = new Map<number, number>()

  constructor(
    readonly cut: Cut,
    point: (e: CutEvent) => Pointed | null,
    private readonly options: EdlOptions,
  ) {
    const policy = options.reels ?? asTheyAre
    this.rows = cut.events.map((event) => {
      const file = point(event)
      return { event, file, reel: wantedReel(event, file, policy), before: null }
    })
    const reels = new Set(this.rows.map((r) => r.reel))
    const { names, changed } = reelNames(
      [...reels].filter((r) => !isNoReel(r)),
      policy.longest,
    )
    this.names = names
    this.changed = changed
    this.byTrack = grouped(this.rows, (r) => r.event.track)
    for (const list of this.byTrack.values()) for (const [i, row] of list.entries()) row.before = list[i - 1] ?? null
    for (const { event } of this.rows) this.perLine.set(lineOf(event), (this.perLine.get(lineOf(event)) ?? 0) + 1)
  }

  /** All tracks in one list. */
  get together(): boolean {
    return (this.options.lists ?? 'one') === 'one'
  }

  private reelOf({ reel }: WrittenEvent): string {
    return this.names.get(reel) ?? reel
  }
  private readonly lose = (e: CutEvent, what: string): void => void this.losses.push(`Event ${e.number} on ${e.track}: ${what}`)

  /** Source timecode of the first frame, in frames at the list's rate. */
  private sourceIn({ event, file }: WrittenEvent): { frames: number; exact: boolean; drop: boolean } {
    const r = this.cut.rate
    if (!file) return { ...labelFrames(event, r), drop: event.sourceIn.drop }
    const t = digitsAt(file.range.in, file.rate, file.drop)
    const f = (t.f * nominal(r)) / nominal(file.rate)
    return { frames: framesOf({ ...t, f: Math.floor(f) }, r) ?? 0, exact: Number.isInteger(f), drop: file.drop }
  }

  /** Events that one line stood for stand in one line again. */
  private lineKey({ event: e, file }: WrittenEvent): string {
    const shared = e.channels !== undefined && this.together && (this.perLine.get(lineOf(e)) ?? 0) > 1
    return shared ? `${e.file} ${e.firstLine} ${e.recordIn} ${file?.url}` : e.id
  }

  /** What a dissolve goes out of. */
  private outgoing({ event: e, before }: WrittenEvent): EdlEntry['outgoing'] {
    const r = this.cut.rate
    if (e.transition.frames <= 0) return null
    const was = before?.event
    if (!before || !was || was.recordOut !== e.recordIn || e.transition.fromBlack) return { reel: 'BL', source: 0, clipName: null }
    return {
      reel: this.reelOf(before),
      source: sourceFrame(this.sourceIn(before).frames, e.recordIn - was.recordIn, stepOf(r, r, was.speed ?? undefined)),
      clipName: before.file?.name ?? was.clipName,
    }
  }

  /** The line of events that stand in one, with its number as it stood or this one. */
  private entry(row: WrittenEvent, several: boolean, number: { own: boolean; next: number }, before: readonly string[]): EdlEntry {
    const { event: e, file } = row
    const from = this.sourceIn(row)
    if (!from.exact) this.lose(e, `its first source frame has no name of its own at ${rateText(this.cut.rate)} fps; the one before it is named.`)
    const length = e.recordOut - e.recordIn
    const span = e.kind === 'black' ? length : sourceLength(length, e.speed ?? { num: 1, den: 1 })
    const dissolve = e.transition.frames > 0
    const comments = remarks(e, this.cut, this.lose)
    const code = knownCode(e)
    if (code !== e.transition.code && dissolve) this.lose(e, `its transition ${e.transition.code} became a dissolve.`)
    return {
      number: number.own ? Number(e.number) : number.next,
      digits: number.own ? e.number.length : 3,
      reel: this.reelOf(row),
      channels: several && e.channels ? e.channels : channelOf(e.track),
      transition:
        dissolve || e.transition.type === 'key'
          ? { code, frames: e.transition.frames }
          : { code: /^[A-Z]{1,2}\d{0,3}$/.test(code) && e.transition.type === 'cut' ? code : 'C', frames: 0 },
      ...{ sourceIn: from.frames, sourceOut: from.frames + span, sourceDrop: from.drop, recordIn: e.recordIn, recordOut: e.recordOut },
      clipName: file?.name ?? e.clipName,
      sourceFile: file?.url ?? e.sourceFile,
      outgoing: this.outgoing(row),
      ...{ speed: e.speed, tail: e.tail ?? '', comments, before },
    }
  }

  /** One list: of a track, or (null) of all. */
  list(rows: readonly WrittenEvent[], track: string | null): string {
    const { cut } = this
    const lines = [...grouped(rows, (r) => this.lineKey(r)).values()]
      .map((group) => ({ row: group[0] as WrittenEvent, several: group.length > 1 }))
      .sort(({ row: { event: a } }, { row: { event: b } }) => a.file - b.file || a.firstLine - b.firstLine || a.recordIn - b.recordIn)
    // Numbers stay where each line has one of its own.
    const numbers = lines.map(({ row }) => row.event.number)
    const own = new Set(numbers).size === numbers.length && numbers.every((n) => /^\d{1,6}$/.test(n))
    if (!own && lines.length > 1) this.losses.push(`${track ?? 'The list'}: its events were renumbered, since some numbers occurred twice.`)
    const kept = keptLines(cut, rows)
    const entries = lines.map(({ row, several }, i) => this.entry(row, several, { own, next: i + 1 }, kept.before.get(row.event) ?? []))
    const title = this.options.title ?? cut.sources?.[rows[0]?.event.file ?? 0]?.title ?? cut.name
    const out = writeEdl({
      title: track && !this.together ? `${title} ${track}` : title,
      ...{ rate: cut.rate, drop: cut.drop, entries, head: kept.head, after: kept.after },
    })
    this.losses.push(...out.losses)
    return out.text
  }

  /** What of the cut as a whole no list has a word for. */
  loseTheRest(): void {
    const { cut, losses } = this
    for (const c of cut.markers ?? []) losses.push(`The marker "${c.text}" on the cut as a whole.`)
    for (const s of cut.sources ?? []) for (const i of s.items ?? []) losses.push(`What is on ${i.track} but is not an event (${i.json.slice(0, 60)} …).`)
    if (cut.sources?.some((s) => s.metadata && s.format === 'otio')) losses.push('Names of tracks and further data of the timeline.')
  }

  /** The reels that stand under other names, with the files that they are of; each once. */
  table(): EdlFiles['table'] {
    const full = new Map(this.changed.map((c) => [c.full, c.reel]))
    const seen = new Set<string>()
    return (full.size === 0 ? [] : this.rows).flatMap(({ event: e, file, reel: inFull }) => {
      const reel = full.get(inFull)
      const row = { reel: reel ?? '', full: inFull, name: file?.name ?? e.clipName ?? '', file: file?.url ?? e.sourceFile ?? '' }
      const key = JSON.stringify(row)
      return reel && !seen.has(key) && seen.add(key) ? [row] : []
    })
  }
}

/** The line that an event stood in, wherever it came from. */
const lineOf = (e: CutEvent): number => e.file * 1e7 + e.firstLine

/** Lists of the cut on the files that `point` names; an event without one keeps what the imported list said. */
export function cutToEdl(cut: Cut, point: (e: CutEvent) => Pointed | null, options: EdlOptions = {}): EdlFiles {
  const writing = new Writing(cut, point, options)
  writing.loseTheRest()
  const lists = writing.together ? [{ track: null, rows: writing.rows }] : [...writing.byTrack].map(([track, rows]) => ({ track, rows }))
  const files = lists.map(({ track, rows }) => ({ track, text: writing.list(rows, track) }))
  return { files, table: writing.table(), losses: [...new Set(writing.losses)] }
}

const channelOf = (track: string): string => (track === 'V1' ? 'V' : track === 'A1' ? 'A' : track)

/** The code of a transition where a list has it, else a dissolve's. */
const knownCode = (e: CutEvent): string =>
  /^(C|D|W\d{0,3}|K[BO]?|[A-Z]{1,2}\d{0,3})$/.test(e.transition.code) ? e.transition.code : e.transition.type === 'cut' ? 'C' : 'D'

const says = (e: CutEvent, form: RegExp): boolean => e.comments.some((c) => form.test(c))
const triple = (v: readonly number[]): string => `(${v.map((x) => String(x)).join(' ')})`

/** The remarks below an event: those that came with it, and what only other formats had fields for. */
function remarks(e: CutEvent, cut: Cut, lose: (e: CutEvent, what: string) => void): string[] {
  const out = e.comments.filter((c) => !rewritten.test(c))
  if (e.cdl && !says(e, /ASC_SOP/i)) {
    out.push(`* ASC_SOP ${triple(e.cdl.slope)}${triple(e.cdl.offset)}${triple(e.cdl.power)}`)
  }
  if (e.cdl && e.cdl.saturation !== plainCdl.saturation && !says(e, /ASC_SAT/i)) out.push(`* ASC_SAT ${e.cdl.saturation}`)
  if (e.markers && !says(e, /^\*\s*(LOC|MARKER)\s*:/i))
    for (const m of e.markers) {
      if (m.length) lose(e, `how long the marker "${m.text}" is.`)
      const colour = m.colour && colours.test(m.colour) ? m.colour : null
      if (colour !== m.colour) lose(e, `the colour ${m.colour} of a marker.`)
      out.push(`* LOC: ${formatFrames(m.at, cut.rate, cut.drop)} ${(colour ?? '').padEnd(7)} ${m.text}`.trimEnd())
    }
  if (e.levels?.length && !says(e, /AUDIO LEVEL AT/i)) lose(e, 'its levels.')
  if (e.otio?.effects?.length) lose(e, `${e.otio.effects.length === 1 ? 'an effect' : `${e.otio.effects.length} effects`} that nothing here understands.`)
  if (e.otio?.metadata) lose(e, 'its further data.')
  if (e.otherFiles?.length) lose(e, 'its other media references.')
  return out
}

/** Lines that belong to no event, by the event in front of which they stand. */
function keptLines(cut: Cut, rows: readonly WrittenEvent[]) {
  const head: string[] = []
  const after: string[] = []
  const before = new Map<CutEvent, string[]>()
  if (!cut.sources?.some((s) => s.format === 'edl' && s.kept.length > 0)) return { head, before, after }
  const mine = new Set(rows.map((r) => r.event))
  cut.sources.forEach((s, file) => {
    if (s.format !== 'edl' || s.kept.length === 0) return
    const inFile = cut.events.filter((e) => e.file === file).sort((a, b) => a.firstLine - b.firstLine)
    for (const k of s.kept) {
      const next = inFile.find((e) => e.firstLine > k.line)
      if (next && next === inFile[0]) {
        if (mine.has(next)) head.push(k.text)
      } else if (next) {
        if (mine.has(next)) before.set(next, [...(before.get(next) ?? []), k.text])
      } else if (mine.has(inFile.at(-1) as CutEvent)) after.push(k.text)
    }
  })
  return { head, before, after }
}
