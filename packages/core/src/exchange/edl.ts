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

/** Lists of the cut on the files that `point` names; an event without one keeps what the imported list said. */
export function cutToEdl(cut: Cut, point: (e: CutEvent) => Pointed | null, options: EdlOptions = {}): EdlFiles {
  const policy = options.reels ?? asTheyAre
  const { rate: r } = cut
  const losses: string[] = []
  const lose = (e: CutEvent, what: string) => losses.push(`Event ${e.number} on ${e.track}: ${what}`)
  const files = new Map(cut.events.map((e) => [e, point(e)]))
  const wanted = new Map(cut.events.map((e) => [e, wantedReel(e, files.get(e) ?? null, policy)]))
  const { names, changed } = reelNames(
    [...wanted.values()].filter((w) => !isNoReel(w)),
    policy.longest,
  )
  const reelOf = (e: CutEvent): string => names.get(wanted.get(e) ?? '') ?? wanted.get(e) ?? 'AX'

  /** Source timecode of the first frame, in frames at the list's rate. */
  const sourceIn = (e: CutEvent): { frames: number; exact: boolean; drop: boolean } => {
    const file = files.get(e)
    if (!file) return { ...labelFrames(e, r), drop: e.sourceIn.drop }
    const t = digitsAt(file.range.in, file.rate, file.drop)
    const f = (t.f * nominal(r)) / nominal(file.rate)
    return { frames: framesOf({ ...t, f: Math.floor(f) }, r) ?? 0, exact: Number.isInteger(f), drop: file.drop }
  }

  const byTrack = grouped(cut.events, (e) => e.track)
  const before = new Map<CutEvent, CutEvent>()
  for (const list of byTrack.values()) for (let i = 1; i < list.length; i++) before.set(list[i] as CutEvent, list[i - 1] as CutEvent)

  /** Events that one line stood for stand in one line again. */
  const lineOf = (e: CutEvent): number => e.file * 1e7 + e.firstLine
  const perLine = new Map<number, number>()
  for (const e of cut.events) perLine.set(lineOf(e), (perLine.get(lineOf(e)) ?? 0) + 1)
  const shared = (e: CutEvent): boolean => e.channels !== undefined && (options.lists ?? 'one') === 'one' && (perLine.get(lineOf(e)) ?? 0) > 1
  const lineKey = (e: CutEvent) => (shared(e) ? `${e.file} ${e.firstLine} ${e.recordIn} ${files.get(e)?.url}` : e.id)
  const written = (events: readonly CutEvent[], track: string | null): string => {
    const rows = [...grouped(events, lineKey).values()].sort((x, y) => {
      const [a, b] = [x[0] as CutEvent, y[0] as CutEvent]
      return a.file - b.file || a.firstLine - b.firstLine || a.recordIn - b.recordIn
    })
    // Numbers stay where each line has one of its own.
    const own = rows.map((g) => g[0]?.number ?? '')
    const keep = new Set(own).size === own.length && own.every((n) => /^\d{1,6}$/.test(n))
    if (!keep && rows.length > 1) losses.push(`${track ?? 'The list'}: its events were renumbered, since some numbers occurred twice.`)
    const kept = keptLines(cut, events)
    const entries = rows.map((group, i): EdlEntry => {
      const e = group[0] as CutEvent
      const file = files.get(e) ?? null
      const from = sourceIn(e)
      if (!from.exact) lose(e, `its first source frame has no name of its own at ${rateText(r)} fps; the one before it is named.`)
      const length = e.recordOut - e.recordIn
      const speed = e.speed ?? { num: 1, den: 1 }
      const span = e.kind === 'black' ? length : sourceLength(length, speed)
      const dissolve = e.transition.frames > 0
      const was = before.get(e)
      const joined = was && was.recordOut === e.recordIn && !e.transition.fromBlack ? was : null
      const extra = remarks(e, cut, lose)
      const code = knownCode(e)
      if (code !== e.transition.code && dissolve) lose(e, `its transition ${e.transition.code} became a dissolve.`)
      return {
        number: keep ? Number(e.number) : i + 1,
        digits: keep ? e.number.length : 3,
        reel: reelOf(e),
        channels: group.length > 1 && e.channels ? e.channels : channelOf(e.track),
        transition:
          dissolve || e.transition.type === 'key'
            ? { code, frames: e.transition.frames }
            : { code: /^[A-Z]{1,2}\d{0,3}$/.test(code) && e.transition.type === 'cut' ? code : 'C', frames: 0 },
        sourceIn: from.frames,
        sourceOut: from.frames + span,
        sourceDrop: from.drop,
        recordIn: e.recordIn,
        recordOut: e.recordOut,
        clipName: file?.name ?? e.clipName,
        sourceFile: file?.url ?? e.sourceFile,
        outgoing: !dissolve
          ? null
          : joined
            ? {
                reel: reelOf(joined),
                source: sourceFrame(sourceIn(joined).frames, e.recordIn - joined.recordIn, stepOf(r, r, joined.speed ?? undefined)),
                clipName: files.get(joined)?.name ?? joined.clipName,
              }
            : { reel: 'BL', source: 0, clipName: null },
        speed: e.speed,
        tail: e.tail ?? '',
        comments: extra,
        before: kept.before.get(e) ?? [],
      }
    })
    const title = options.title ?? cut.sources?.[events[0]?.file ?? 0]?.title ?? cut.name
    const out = writeEdl({
      title: track && (options.lists ?? 'one') === 'each' ? `${title} ${track}` : title,
      rate: r,
      drop: cut.drop,
      entries,
      head: kept.head,
      after: kept.after,
    })
    losses.push(...out.losses)
    return out.text
  }
  for (const c of cut.markers ?? []) losses.push(`The marker "${c.text}" on the cut as a whole.`)
  for (const s of cut.sources ?? []) for (const i of s.items ?? []) losses.push(`What is on ${i.track} but is not an event (${i.json.slice(0, 60)} …).`)
  if (cut.sources?.some((s) => s.metadata && s.format === 'otio')) losses.push('Names of tracks and further data of the timeline.')
  const lists = (options.lists ?? 'one') === 'one' ? [{ track: null, events: cut.events }] : [...byTrack].map(([track, events]) => ({ track, events }))
  const texts = lists.map(({ track, events }) => ({ track, text: written(events, track) }))
  const full = new Map(changed.map((c) => [c.full, c.reel]))
  const seen = new Set<string>()
  const table = (full.size === 0 ? [] : cut.events).flatMap((e) => {
    const w = wanted.get(e) ?? ''
    const reel = full.get(w)
    const file = files.get(e)
    const row = { reel: reel ?? '', full: w, name: file?.name ?? e.clipName ?? '', file: file?.url ?? e.sourceFile ?? '' }
    const key = JSON.stringify(row)
    return reel && !seen.has(key) && seen.add(key) ? [row] : []
  })
  return { files: texts, table, losses: [...new Set(losses)] }
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
function keptLines(cut: Cut, events: readonly CutEvent[]) {
  const head: string[] = []
  const after: string[] = []
  const before = new Map<CutEvent, string[]>()
  const mine = new Set(events)
  cut.sources?.forEach((s, file) => {
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
