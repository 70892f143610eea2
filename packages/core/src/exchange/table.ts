/** A cut as a table file that a person has laid out: rows of events, columns by their use. */
import { behindMidnight, type CutEvent, type CutSource, kindOf, type ListPart, type Problem, problemsOf, type Transition } from '../cutlist/index.ts'
import {
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
} from '../time/index.ts'

/** What a column of a cut's table can hold. */
export const cutColumns = [
  'number',
  'track',
  'reel',
  'name',
  'file',
  'sourceIn',
  'sourceOut',
  'recordIn',
  'recordOut',
  'length',
  'transition',
  'transitionLength',
  'speed',
  'comment',
] as const
export type CutColumn = (typeof cutColumns)[number]

export const cutColumnNames: Readonly<Record<CutColumn, string>> = {
  number: 'Event',
  track: 'Track',
  reel: 'Reel',
  name: 'Clip name',
  file: 'Source file',
  sourceIn: 'Source in',
  sourceOut: 'Source out',
  recordIn: 'Record in',
  recordOut: 'Record out',
  length: 'Length',
  transition: 'Transition',
  transitionLength: 'Transition length',
  speed: 'Speed in per cent',
  comment: 'Comment',
}

const heads: Readonly<Record<CutColumn, RegExp>> = {
  number: /^(event|edit|no|nr|num|number|#|event ?(no|nr|number))\.?$/,
  track: /^(track|tracks|channel|channels|layer)$/,
  reel: /^(reel|tape|roll|reel ?name|tape ?name|source ?reel|camera ?roll)$/,
  name: /^(name|clip|clip ?name|source ?name|shot|file ?name|filename)$/,
  file: /^(file|path|source ?file|file ?path|media|source ?path)$/,
  sourceIn: /^(source|src) ?(in|start|tc ?in|start ?tc)$|^(in|start|start ?tc|tc ?in)$/,
  sourceOut: /^(source|src) ?(out|end|tc ?out|end ?tc)$|^(out|end|end ?tc|tc ?out)$/,
  recordIn: /^(record|rec|timeline|sequence|seq) ?(in|start|tc ?in|start ?tc)$/,
  recordOut: /^(record|rec|timeline|sequence|seq) ?(out|end|tc ?out|end ?tc)$/,
  length: /^(length|duration|dur|frames)$/,
  transition: /^(transition|effect|trans)$/,
  transitionLength: /^(transition ?(length|duration|frames))$/,
  speed: /^(speed|speed ?(in ?)?(%|percent|per cent)|retime)$/,
  comment: /^(comment|comments|notes?|remarks?|description)$/,
}

/** The use that a column's heading tells; null where it tells none. */
export const columnUse = (head: string): CutColumn | null => {
  const plain = head
    .trim()
    .toLowerCase()
    .replace(/[_\-.]+/g, ' ')
    .replace(/\s+/g, ' ')
  return cutColumns.find((c) => heads[c].test(plain)) ?? null
}

export interface TableLayout {
  /** Index of the row with the headings; what stands above it is passed over. Null where there is none. */
  readonly head: number | null
  readonly columns: readonly (CutColumn | null)[]
}

/** The layout that a table seems to have: its heading row is the one, of the first twenty, that names most. Null where none names enough. */
export function findLayout(rows: readonly (readonly string[])[]): TableLayout | null {
  let best: { head: number; columns: (CutColumn | null)[]; named: number } | null = null
  rows.slice(0, 20).forEach((row, head) => {
    const used = new Set<CutColumn>()
    const columns = row.map((h) => {
      const use = columnUse(h)
      if (!use || used.has(use)) return null
      used.add(use)
      return use
    })
    if (used.size > (best?.named ?? 0)) best = { head, columns, named: used.size }
  })
  const found = best as { head: number; columns: (CutColumn | null)[]; named: number } | null
  return found && layoutFault(found) === null ? { head: found.head, columns: found.columns } : null
}

/** What a layout lacks, as a sentence; null where events can be read with it. */
export function layoutFault(layout: Pick<TableLayout, 'columns'>): string | null {
  const has = (c: CutColumn) => layout.columns.includes(c)
  const twice = layout.columns.find((c, i) => c !== null && layout.columns.indexOf(c) !== i)
  if (twice) return `Two columns are ${cutColumnNames[twice]}; one column can be it.`
  if (!has('sourceIn') && !has('recordIn')) return 'A column with the source in or the record in of each event is needed.'
  if (!has('sourceOut') && !has('recordOut') && !has('length')) return 'A column with an out or a length of each event is needed.'
  if (!has('name') && !has('reel') && !has('file')) return 'A column with the clip name, the reel or the source file is needed.'
  return null
}

export interface CutTable {
  readonly rows: readonly (readonly string[])[]
  /** The line of the file on which each row begins, counted from 1. */
  readonly lines: readonly number[]
}

const timed: readonly CutColumn[] = ['sourceIn', 'sourceOut', 'recordIn', 'recordOut']
/**
 * Whether timecode without a sign of its own is drop-frame: nowhere where some has the sign; else as is said; else where the rate knows it, unless a label
 * stands there that drop-frame counting leaves out.
 */
function countedDrop(table: CutTable, layout: TableLayout, r: Rate, told: boolean | undefined): boolean {
  if (!dropPossible(r)) return false
  const columns = layout.columns.flatMap((c, i) => (c !== null && timed.includes(c) ? [i] : []))
  let leftOut = false
  for (const row of table.rows)
    for (const i of columns) {
      const t = parseTimecode(row[i] ?? '')
      if (t?.drop) return false
      leftOut ||= t !== null && isDroppedLabel({ ...t, drop: true }, r)
    }
  return told ?? !leftOut
}

const trackForm = /^(?:(V|A)[A-Za-z]*\s*(\d{1,2})?|(\d{1,2}))$/i
const timeColumns = ['sourceIn', 'sourceOut', 'recordIn', 'recordOut', 'length'] as const
type Times = { readonly [K in (typeof timeColumns)[number]]: TimecodeDigits | null }

/** Why a row is left out. */
interface Refused {
  readonly code: string
  readonly refused: string
}

/** One row of a table, by what its columns are. */
class TableRow {
  constructor(
    private readonly cells: readonly string[],
    private readonly at: ReadonlyMap<CutColumn | null, number>,
    private readonly rate: Rate,
    /** Whether timecode without a sign of its own is drop-frame. */
    private readonly counted: boolean,
  ) {}

  cell(c: CutColumn): string {
    const i = this.at.get(c)
    return i === undefined ? '' : (this.cells[i] ?? '').trim()
  }

  frames(t: TimecodeDigits | null): number | null {
    return t && framesOf(t, this.rate)
  }

  private label(c: CutColumn): TimecodeDigits | null | 'bad' {
    const text = this.cell(c)
    if (text === '') return null
    const t = parseTimecode(text)
    if (t) return { ...t, drop: c === 'length' ? t.drop : t.drop || this.counted }
    // A plain number counts frames.
    return /^\d{1,8}$/.test(text) ? digitsAt(Number(text), this.rate, this.counted) : 'bad'
  }

  times(): Times | Refused {
    const labels = Object.fromEntries(timeColumns.map((c) => [c, this.label(c)])) as { [K in keyof Times]: TimecodeDigits | null | 'bad' }
    const bad = timeColumns.find((k) => labels[k] === 'bad')
    if (bad) return { code: 'timecode', refused: `"${this.cell(bad)}" (${cutColumnNames[bad]}) is neither a timecode nor a number of frames` }
    const times = labels as Times
    const over = (['recordIn', 'recordOut', 'length'] as const).find((k) => times[k] && this.frames(times[k]) === null)
    return over ? { code: 'frame-digits', refused: `${this.cell(over)} has frame digits that do not exist at ${rateText(this.rate)} fps` } : times
  }

  track(): string | Refused {
    const text = this.cell('track')
    const form = trackForm.exec(text)
    if (text !== '' && !form) return { code: 'channels', refused: `The track "${text}" is not known` }
    return `${(form?.[1] ?? 'V').toUpperCase()}${Number(form?.[2] ?? form?.[3] ?? 1) || 1}`
  }

  /** Null in real time; 'bad' where it is no per cent. */
  speed(): Step | null | 'bad' {
    const percent = /^([+-]?\d{1,5}(?:[.,]\d{1,15})?)\s*%?$/.exec(this.cell('speed'))
    if (!percent) return this.cell('speed') === '' ? null : 'bad'
    const hundredths = Math.round(Number((percent[1] ?? '').replace(',', '.')) * 10_000)
    return hundredths === 1_000_000 ? null : { num: hundredths, den: 1_000_000 }
  }

  private span(a: TimecodeDigits | null, b: TimecodeDigits | null): number | null {
    const [x, y] = [this.frames(a), this.frames(b)]
    if (x === null || y === null) return null
    return y >= x ? y - x : y + dayFrames(this.rate, b?.drop ?? false) - x
  }

  /** Record frames: as the record says, else as a length is given, else as the source is long at its speed. */
  length(times: Times, speed: Step | null): number | Refused {
    const source = this.span(times.sourceIn, times.sourceOut)
    const length =
      this.span(times.recordIn, times.recordOut) ??
      this.frames(times.length) ??
      (source !== null && speed && speed.num !== 0 ? Math.floor((source * speed.den) / Math.abs(speed.num)) : source)
    if (length === null || length <= 0)
      return { code: 'no-length', refused: length === null ? 'The row does not tell how long its event is' : 'The event has no length' }
    if (length > 3600 * 6 * nominal(this.rate)) return { code: 'record-order', refused: 'The event would last over six hours: an out lies before its in' }
    return length
  }
}
const isRefused = (x: object | string | number): x is Refused => typeof x === 'object' && 'refused' in x

/** The cut of a table. Events without a record position follow one another, each track for itself, from time zero on. */
export function readCutTable(
  table: CutTable,
  layout: TableLayout,
  options: { readonly rate: Rate; readonly file: string; readonly drop?: boolean | undefined },
): { value: ListPart & { title: null; source: CutSource }; problems: readonly Problem[] } {
  const { rate: r } = options
  const report = problemsOf(options.file)
  const events: CutEvent[] = []
  const kept: { line: number; text: string }[] = []
  const fault = layoutFault(layout)
  if (fault) report('error', 'layout', 0, fault)
  const counted = countedDrop(table, layout, r, options.drop)
  const at = new Map(layout.columns.map((c, i) => [c, i] as const))
  const ends = new Map<string, number>()
  let drop = false

  /** Reads a row into an event, or says why not. */
  const read = (row: TableRow, line: number): Refused | null => {
    const times = row.times()
    if (isRefused(times)) return times
    const track = row.track()
    if (isRefused(track)) return track
    const told = row.speed()
    if (told === 'bad') report('warning', 'speed', line, `"${row.cell('speed')}" is not a speed in per cent; the event was read in real time.`)
    const speed = told === 'bad' ? null : told
    const length = row.length(times, speed)
    if (isRefused(length)) return length
    const recordIn = row.frames(times.recordIn) ?? (times.recordOut ? (row.frames(times.recordOut) ?? 0) - length : (ends.get(track) ?? 0))
    const recordOut = recordIn + length
    ends.set(track, Math.max(ends.get(track) ?? 0, recordOut))
    drop ||= (times.recordIn ?? times.recordOut)?.drop ?? false
    const [clipName, sourceFile, reel] = [row.cell('name') || null, row.cell('file') || null, row.cell('reel') || null]
    const medium = track.startsWith('V') ? 'picture' : 'sound'
    const zero: TimecodeDigits = { h: 0, m: 0, s: 0, f: 0, drop: false }
    const comment = row.cell('comment')
    events.push({
      ...{ id: '', number: row.cell('number') || String(events.length + 1).padStart(3, '0'), track, medium },
      ...{ kind: kindOf(medium, reel, clipName ?? sourceFile), reel, clipName, sourceFile },
      sourceIn: times.sourceIn ?? zero,
      sourceOut: times.sourceOut ?? times.sourceIn ?? zero,
      ...{ recordIn, recordOut },
      transition: transitionOf(row.cell('transition'), row.cell('transitionLength'), length, (t) => row.frames(parseTimecode(t))),
      speed,
      comments: comment ? [`* COMMENT: ${comment.replace(/\s+/g, ' ')}`] : [],
      ...{ file: 0, firstLine: line, lastLine: line },
    })
    return null
  }
  for (let i = layout.head === null ? 0 : layout.head + 1; !fault && i < table.rows.length; i++) {
    const cells = table.rows[i] as readonly string[]
    const line = table.lines[i] ?? i + 1
    if (cells.every((c) => c.trim() === '')) continue
    const left = read(new TableRow(cells, at, r, counted), line)
    if (!left) continue
    report('error', left.code, line, `${left.refused}; the row was left out and kept.`)
    kept.push({ line, text: cells.join('\t').slice(0, 2000) })
  }
  const day = dayFrames(r, drop)
  for (const i of behindMidnight(events, day, 3600 * nominal(r))) {
    const e = events[i] as CutEvent
    events[i] = { ...e, recordIn: e.recordIn + day, recordOut: e.recordOut + day }
  }
  if (events.length === 0 && !fault) report('error', 'empty', 0, 'No event could be read from this file.')
  return { value: { events, drop, title: null, source: { format: 'table', title: null, kept, perLabel: 1 } }, problems: report.all() }
}

function transitionOf(kind: string, length: string, most: number, frames: (t: string) => number | null): Transition {
  const words = /^([A-Za-z]+\d{0,3})\D*(\d*)$/.exec(kind.trim())
  const wanted = Number(/^\d{1,4}$/.test(length) ? length : (frames(length) ?? words?.[2] ?? 0))
  const n = Math.min(most, Number.isFinite(wanted) ? wanted : 0)
  const code = (words?.[1] ?? 'C').toUpperCase()
  if (n === 0 || /^(C|CUT|NONE)$/.test(code)) return { type: 'cut', frames: 0, code: 'C', fromBlack: false }
  return /^W/.test(code)
    ? { type: 'wipe', frames: n, code: /^W\d{3}$/.test(code) ? code : 'W001', fromBlack: false }
    : { type: 'dissolve', frames: n, code: 'D', fromBlack: /FADE/.test(code) }
}
