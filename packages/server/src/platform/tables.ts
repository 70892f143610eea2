/** Table files: rows and columns as text, whichever sign stands between the cells. */
import { unguardedCell } from '@naranja/core/cliplog'
import { decodeText, notText } from '@naranja/core/text'
import { parse } from 'csv-parse/sync'
import { Refusal } from './errors.ts'

export interface TableFile {
  readonly rows: string[][]
  /** The line on which each row begins, counted from 1. */
  readonly lines: number[]
}

/** The rows of a CSV or TSV file. Refuses what is no text, or has quotation marks that nobody closes. */
export function tableRows(bytes: Buffer): TableFile {
  const odd = notText(bytes)
  if (odd) throw new Refusal('bad-request', `This is ${odd}, not a table file. Choose a CSV or TSV file.`)
  const text = decodeText(bytes)
  const head = text.slice(0, 20_000)
  const count = (sign: string) => head.split(sign).length
  const delimiter = (['\t', ';', ','] as const).reduce((best, sign) => (count(sign) > count(best) ? sign : best))
  try {
    const options = { delimiter, relax_column_count: true, relax_quotes: true, skip_empty_lines: false, bom: true, info: true } as const
    const records = parse(text, options) as unknown as { record: string[]; info: { lines: number } }[]
    return { rows: records.map((r) => r.record.map(unguardedCell)), lines: records.map((_, i) => (i === 0 ? 0 : (records[i - 1]?.info.lines ?? 0)) + 1) }
  } catch (e) {
    throw new Refusal('bad-request', `The table file cannot be read: ${e instanceof Error ? e.message : e}. Save it as CSV (UTF-8) again.`)
  }
}
