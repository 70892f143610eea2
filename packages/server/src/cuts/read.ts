/** One file of a cut, whatever its form: told apart by what stands in it, not by its name. */
import type { CutAsk } from '@naranja/contract'
import type { CutSource, ListPart, Problem } from '@naranja/core/cutlist'
import { looksLikeEdl, readEdl } from '@naranja/core/edl'
import { decodeText, linesOf, notText } from '@naranja/core/text'
import { findLayout, layoutFault, readCutTable, type TableLayout } from '@naranja/core/exchange'
import { readOtio } from '@naranja/core/otio'
import type { Rate } from '@naranja/core/time'
import { Refusal, tableRows } from '../platform/index.ts'

/** More is no cut: a feature film has some thousands of events on some ten thousand lines. */
export const most = { bytes: 50_000_000, lines: 300_000, events: 50_000 } as const

export interface CutFile {
  readonly name: string
  readonly bytes: Uint8Array
  /** The rate that was asked for, and the one to take where neither that nor the file tells any. */
  readonly rate: Rate | undefined
  readonly otherwise: Rate
  readonly perLabel: CutAsk['perLabel']
  readonly layout: TableLayout | undefined
  /** Whether timecode without a sign is drop-frame, as a person says or originals tell. */
  readonly drop: boolean | undefined
}

export interface CutFileRead {
  readonly format: CutSource['format'] | null
  /** Why nothing can be read of it. */
  readonly refusal: string | null
  readonly value: ListPart & { readonly source: CutSource }
  readonly title: string | null
  /** What the file itself tells. */
  readonly rate: Rate | null
  readonly problems: readonly Problem[]
  readonly table: { readonly rows: readonly (readonly string[])[]; readonly layout: TableLayout; readonly fault: string | null } | null
}

const nothing: ListPart & { source: CutSource } = { events: [], drop: false, source: { format: 'edl', title: null, kept: [], perLabel: 1 } }

/** What is told of a file of which nothing can be read. */
export const unread = (refusal: string, format: CutFileRead['format'] = null): CutFileRead => ({
  ...{ format, refusal, value: nothing, title: null, rate: null, problems: [], table: null },
})

/** Never throws on what stands in the file. */
export function readCutFile(file: CutFile): CutFileRead {
  const { name, bytes, otherwise } = file
  const at = file.rate ?? otherwise
  if (bytes.length === 0) return unread(`${name} is empty (0 bytes). Export the list again.`)
  if (bytes.length > most.bytes) return unread(`${name} is ${Math.round(bytes.length / 1e6)} MB; a cut list is at most ${most.bytes / 1e6} MB.`)
  const what = notText(bytes)
  if (what)
    return unread(
      `${name} is ${what}, not a cut list. Choose the edit decision list (.edl), the timeline (.otio) or the table (.csv) that your editing program wrote.`,
    )
  const text = decodeText(bytes)
  const whole = (read: CutFileRead): CutFileRead =>
    read.value.events.length > most.events
      ? unread(`${name} holds ${read.value.events.length} events; a cut has at most ${most.events} here.`, read.format)
      : read
  if (/^[\s\ufeff]*\{/.test(text.slice(0, 1000))) {
    const { value, problems } = readOtio(text, { rate: file.rate, otherwise, file: name, drop: file.drop })
    return whole({ format: 'otio', refusal: null, value, title: value.title, rate: value.rate, problems, table: null })
  }
  const lines = linesOf(text)
  if (lines.length > most.lines) return unread(`${name} has ${lines.length} lines; a cut list has at most ${most.lines}.`)
  if (!file.layout && looksLikeEdl(lines)) {
    const { value, problems } = readEdl(text, { rate: at, file: name, perLabel: file.perLabel })
    return whole({ format: 'edl', refusal: null, value, title: value.title, rate: null, problems, table: null })
  }
  try {
    const table = tableRows(Buffer.from(bytes))
    const told = file.layout ?? findLayout(table.rows)
    const columns = Math.min(
      500,
      table.rows.slice(0, 50).reduce((n, r) => Math.max(n, r.length), 0),
    )
    // Something between the columns, or it is no table at all.
    if (!told && columns < 3)
      return unread(
        `${name} is neither an edit decision list, nor a timeline, nor a table: no line of it has an event's four timecodes, and no row has columns.`,
      )
    const layout = told ?? { head: 0, columns: Array.from({ length: columns }, () => null) }
    const read = readCutTable(table, layout, { rate: at, file: name, drop: file.drop })
    return whole({
      ...{ format: 'table', refusal: null, value: read.value, title: null, rate: null, problems: read.problems },
      table: { rows: table.rows.slice(0, 12).map((r) => r.slice(0, 60).map((c) => c.slice(0, 200))), layout, fault: layoutFault(layout) },
    })
  } catch (e) {
    if (e instanceof Refusal) return unread(`${name}: ${e.message}`)
    throw e
  }
}
