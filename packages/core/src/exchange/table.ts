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
  const from = layout.head === null ? 0 : layout.head + 1
  let drop = false

  for (let i = from; !fault && i < table.rows.length; i++) {
    const row = table.rows[i] as readonly string[]
    const line = table.lines[i] ?? i + 1
    if (row.every((c) => c.trim() === '')) continue
    const cell = (c: CutColumn): string => (at.has(c) ? (row[at.get(c) as number] ?? '').trim() : '')
    const leaveOut = (code: string, message: string) => {
      report('error', code, line, `${message}; the row was left out and kept.`)
      kept.push({ line, text: row.join('\t').slice(0, 2000) })
    }
    const label = (c: CutColumn): TimecodeDigits | null | 'bad' => {
      const text = cell(c)
      if (text === '') return null
      const t = parseTimecode(text)
      if (t) return { ...t, drop: c === 'length' ? t.drop : t.drop || counted }
      // A plain number counts frames.
      return /^\d{1,8}$/.test(text) ? digitsAt(Number(text), r, counted) : 'bad'
    }
    const labels = {
      sourceIn: label('sourceIn'),
      sourceOut: label('sourceOut'),
      recordIn: label('recordIn'),
      recordOut: label('recordOut'),
      length: label('length'),
    }
    const bad = (Object.keys(labels) as (keyof typeof labels)[]).find((k) => labels[k] === 'bad')
    if (bad) {
      leaveOut('timecode', `"${cell(bad)}" (${cutColumnNames[bad]}) is neither a timecode nor a number of frames`)
      continue
    }
    const frames = (t: TimecodeDigits | null | 'bad'): number | null => (t === null || t === 'bad' ? null : framesOf(t, r))
    const times = labels as { [K in keyof typeof labels]: TimecodeDigits | null }
    const over = (['recordIn', 'recordOut', 'length'] as const).find((k) => times[k] && frames(times[k]) === null)
    if (over) {
      leaveOut('frame-digits', `${cell(over)} has frame digits that do not exist at ${rateText(r)} fps`)
      continue
    }
    const trackText = trackForm.exec(cell('track'))
    if (cell('track') !== '' && !trackText) {
      leaveOut('channels', `The track "${cell('track')}" is not known`)
      continue
    }
    const track = `${(trackText?.[1] ?? 'V').toUpperCase()}${Number(trackText?.[2] ?? trackText?.[3] ?? 1) || 1}`
    const percent = /^([+-]?\d{1,5}(?:[.,]\d{1,15})?)\s*%?$/.exec(cell('speed'))
    if (cell('speed') !== '' && !percent) report('warning', 'speed', line, `"${cell('speed')}" is not a speed in per cent; the event was read in real time.`)
    const hundredths = percent ? Math.round(Number((percent[1] ?? '').replace(',', '.')) * 10_000) : 1_000_000
    const speed: Step | null = hundredths === 1_000_000 ? null : { num: hundredths, den: 1_000_000 }
    const span = (a: TimecodeDigits | null, b: TimecodeDigits | null): number | null => {
      const [x, y] = [frames(a), frames(b)]
      if (x === null || y === null) return null
      return y >= x ? y - x : y + dayFrames(r, b?.drop ?? false) - x
    }
    const source = span(times.sourceIn, times.sourceOut)
    const length =
      span(times.recordIn, times.recordOut) ??
      frames(times.length) ??
      (source !== null && speed && speed.num !== 0 ? Math.floor((source * speed.den) / Math.abs(speed.num)) : source)
    if (length === null || length <= 0) {
      leaveOut('no-length', length === null ? 'The row does not tell how long its event is' : 'The event has no length')
      continue
    }
    if (length > 3600 * 6 * nominal(r)) {
      leaveOut('record-order', 'The event would last over six hours: an out lies before its in')
      continue
    }
    const recordIn = frames(times.recordIn) ?? (times.recordOut ? (frames(times.recordOut) ?? 0) - length : (ends.get(track) ?? 0))
    const recordOut = recordIn + length
    ends.set(track, Math.max(ends.get(track) ?? 0, recordOut))
    drop ||= (times.recordIn ?? times.recordOut)?.drop ?? false
    const name = cell('name') || null
    const file = cell('file') || null
    const reel = cell('reel') || null
    const medium = track.startsWith('V') ? 'picture' : 'sound'
    const zero: TimecodeDigits = { h: 0, m: 0, s: 0, f: 0, drop: false }
    events.push({
      ...{ id: '', number: cell('number') || String(events.length + 1).padStart(3, '0'), track, medium, kind: kindOf(medium, reel, name ?? file) },
      ...{
        reel,
        clipName: name,
        sourceFile: file,
        sourceIn: times.sourceIn ?? zero,
        sourceOut: times.sourceOut ?? times.sourceIn ?? zero,
        recordIn,
        recordOut,
      },
      transition: transitionOf(cell('transition'), cell('transitionLength'), length, (t) => frames(parseTimecode(t))),
      speed,
      comments: cell('comment') ? [`* COMMENT: ${cell('comment').replace(/\s+/g, ' ')}`] : [],
      ...{ file: 0, firstLine: line, lastLine: line },
    })
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
