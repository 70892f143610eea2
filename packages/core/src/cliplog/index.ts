/** The clip log: the table of clips and their descriptions, as a person has laid it out; one for all clips, or one a roll. */
import { type ColumnUse, describable, type Field, fieldNames } from '../describe/index.ts'
import { stem } from '../naming/index.ts'
import { digitsAt, formatFrames, type Rate, rateText, timecodeText } from '../time/index.ts'

/** What a column can hold. `end` is exclusive, as in lists of cuts. */
export const logFields = [
  ...(['name', 'file', 'reel', 'roll', 'day', 'folder', 'start', 'end', 'length', 'frames', 'rate', 'raster', 'codec', 'sound', 'size'] as const),
  ...(['scene', 'take', 'angle', 'camera', 'plain', 'notes', 'copy', 'checksum'] as const),
] as const
export type LogField = (typeof logFields)[number]
export const logNames: Readonly<Record<LogField, string>> = {
  ...fieldNames,
  name: 'Name',
  file: 'File',
  roll: 'Roll',
  day: 'Day',
  folder: 'Folder',
  start: 'Start',
  end: 'End',
  length: 'Length',
  frames: 'Frames',
  rate: 'Rate',
  raster: 'Frame size',
  codec: 'Codec',
  sound: 'Channels',
  size: 'Bytes',
  copy: 'Edit copy',
  checksum: 'Checksum (xxh64)',
}

/** What of a clip is called its reel, said once for the whole log. */
export const reelFields = ['reel', 'roll', 'camera', 'name'] as const
export type ReelField = (typeof reelFields)[number]

/** A line above the table: a label, and what stands beside it. */
export const headingValues = ['nothing', 'project', 'date', 'rate', 'clips', 'roll'] as const
export interface Heading {
  readonly label: string
  readonly value: (typeof headingValues)[number]
}

export interface LogLayout {
  readonly name: string
  readonly headings: readonly Heading[]
  /** Left to right; `head` is what stands above the column. */
  readonly columns: readonly { readonly field: LogField; readonly head: string }[]
  /** Whether a line names the columns. */
  readonly heads: boolean
  readonly separator: 'comma' | 'semicolon' | 'tab'
  /** A cell that a program for tables would take for a formula begins with an apostrophe, which is taken off when it is read here. */
  readonly guarded: boolean
  readonly reel: ReelField
  /** A log for each roll, or one for all. */
  readonly split: 'one' | 'roll'
}

const column = (field: LogField, head: string = logNames[field]) => ({ field, head })
/** What everybody begins with. */
export const plainLayout: LogLayout = {
  name: 'Clip log',
  headings: [],
  columns: (['name', 'reel', 'start', 'end', 'frames', 'rate', 'scene', 'take', 'camera', 'notes'] as const).map((f) => column(f)),
  heads: true,
  separator: 'comma',
  guarded: true,
  reel: 'reel',
  split: 'one',
}
export const separators: Readonly<Record<LogLayout['separator'], string>> = { comma: ',', semicolon: ';', tab: '\t' }

/** A clip as logs have it; positions in frames at its own rate. */
export interface LoggedClip {
  readonly name: string
  readonly reel: string | null
  readonly roll: string
  readonly day: string
  readonly folder: string
  readonly start: number | null
  readonly frames: number
  readonly rate: Rate
  readonly drop: boolean
  readonly width: number
  readonly height: number
  readonly codec: string
  readonly channels: number
  readonly size: number
  readonly described: Readonly<Record<Field, string | null>>
  /** Where its edit copy stands, and the digest of that; where the log goes with copies. */
  readonly copy?: string | undefined
  readonly checksum?: string | undefined
}

/** A clip without timecode counts from zero, as everywhere. */
const label = (c: LoggedClip, frame: number): string => formatFrames((c.start ?? 0) + frame, c.rate, c.drop)

function cell(c: LoggedClip, field: LogField, reel: ReelField): string {
  switch (field) {
    case 'name':
      return stem(c.name)
    case 'file':
      return c.name
    case 'reel':
      return (reel === 'reel' ? c.reel : reel === 'roll' ? c.roll : reel === 'camera' ? c.described.camera : stem(c.name)) ?? ''
    case 'start':
      return label(c, 0)
    case 'end':
      return label(c, c.frames)
    case 'length':
      return timecodeText(digitsAt(c.frames, c.rate, false))
    case 'rate':
      return rateText(c.rate)
    case 'raster':
      return c.width ? `${c.width}x${c.height}` : ''
    case 'sound':
      return c.channels ? String(c.channels) : ''
    case 'roll':
    case 'day':
    case 'folder':
    case 'codec':
      return c[field]
    case 'frames':
    case 'size':
      return String(c[field])
    case 'copy':
    case 'checksum':
      return c[field] ?? ''
    default:
      return c.described[field] ?? ''
  }
}

export interface LogFacts {
  readonly project: string
  /** As it is written: 2026-11-08. */
  readonly date: string
  readonly rate: Rate
}
export interface LogTable {
  /** What it is called, without ending. */
  readonly name: string
  readonly rows: readonly (readonly string[])[]
}

/** The tables of a log, in the order of the clips; each with its heading lines. */
export function logTables(layout: LogLayout, clips: readonly LoggedClip[], facts: LogFacts): LogTable[] {
  const groups = new Map<string, LoggedClip[]>()
  for (const c of clips) {
    const key = layout.split === 'roll' ? c.roll : ''
    groups.set(key, [...(groups.get(key) ?? []), c])
  }
  const said = (h: Heading, roll: string, n: number): string[] => {
    const value = { nothing: null, project: facts.project, date: facts.date, rate: rateText(facts.rate), clips: String(n), roll }[h.value]
    return value === null ? [h.label] : [h.label, value]
  }
  return [...groups].map(([roll, list]) => ({
    name: layout.split === 'roll' ? `${layout.name} ${roll}` : layout.name,
    rows: [
      ...layout.headings.map((h) => said(h, roll, list.length)),
      ...(layout.heads ? [layout.columns.map((c) => c.head)] : []),
      ...list.map((c) => layout.columns.map((x) => cell(c, x.field, layout.reel))),
    ],
  }))
}

/** What each column of a log in this layout tells a clip that is described by it; null for what the clip knows better. */
export const usesOf = (layout: LogLayout): (ColumnUse | null)[] => {
  const taken = new Set<ColumnUse>()
  return layout.columns.map(({ field }) => {
    const use: ColumnUse | null =
      field === 'name' || field === 'file' ? 'name' : field === 'start' ? 'start' : (describable as readonly string[]).includes(field) ? (field as Field) : null
    if (use === null || taken.has(use)) return null
    taken.add(use)
    return use
  })
}

/** The row of a log's file (from 0) above which its clips stand. */
export const headOf = (layout: LogLayout): number => layout.headings.length + (layout.heads ? 1 : 0) - 1

/** Whether a file's row of heads is this layout's. */
export const isLayoutOf = (layout: LogLayout, heads: readonly string[]): boolean =>
  layout.heads &&
  layout.columns.length === heads.filter((h) => h.trim() !== '').length &&
  layout.columns.every((c, i) => c.head.trim() === (heads[i] ?? '').trim())

/** What programs for tables take for the beginning of a formula. */
const formula = /^[=+\-@\t\r]/
/** A cell that begins like a formula, so that it stays text wherever it is opened. */
export const guardedCell = (text: string): string => (formula.test(text) ? `'${text}` : text)
/** The same cell as it was. */
export const unguardedCell = (text: string): string => (text.startsWith("'") && formula.test(text.slice(1)) ? text.slice(1) : text)
