/** What a key means in the list of originals, and what a block of text pasted there changes. */
import type { ClipRow, DescribeEdit } from '@naranja/contract'
import { rowByKey } from '../../ui/index.ts'
import type { ClipColumn } from './columns.tsx'

/** What a block of text from a spreadsheet is: lines of cells. */
export const blockOf = (text: string): string[][] =>
  text
    .replace(/(\r\n|\n|\r)$/, '')
    .split(/\r\n|\n|\r/)
    .map((line) => line.split('\t'))

/**
 * The edits of a block that is pasted at a cell: its columns fill the fields from there to the right, its lines the clips from
 * there down. A single value fills every chosen clip. `left` counts lines below the last clip.
 */
export function pasted(
  block: readonly (readonly string[])[],
  rows: readonly ClipRow[],
  at: number,
  fields: readonly ClipColumn[],
  chosen: ReadonlySet<string>,
): { edits: DescribeEdit[]; left: number } {
  const single = block.length === 1 && block[0]?.length === 1 && chosen.size > 1
  const targets = single ? rows.filter((r) => chosen.has(r.id)) : rows.slice(at, at + block.length)
  const edits = targets.flatMap((row, i) =>
    ((single ? block[0] : block[i]) ?? []).flatMap((text, n): DescribeEdit[] => {
      const field = fields[n]?.field
      const value = text.trim() === '' ? null : text
      return field && value !== row[field] ? [{ clipId: row.id, field, before: row[field], value }] : []
    }),
  )
  return { edits, left: single ? 0 : Math.max(0, block.length - targets.length) }
}

/** A key as an event of the browser tells it. */
export interface Pressed {
  readonly key: string
  readonly ctrlKey: boolean
  readonly metaKey: boolean
  readonly altKey: boolean
  readonly shiftKey: boolean
}
/** Where the list stands when it is pressed. */
export interface Stand {
  /** Row of the chosen clip, -1 if none is. */
  readonly at: number
  readonly rows: number
  /** Columns that can be typed into. */
  readonly fields: number
  /** A cell is chosen, not only a row. */
  readonly inCell: boolean
  /** Several clips are chosen. */
  readonly many: boolean
}
export type Meaning =
  | { readonly what: 'row'; readonly to: number; readonly range: boolean }
  | { readonly what: 'column'; readonly by: 1 | -1 }
  | { readonly what: 'tick' | 'all' | 'nothing chosen' | 'edit' | 'empty' }
  | { readonly what: 'type'; readonly text: string }

/** What a key means while nothing is typed; null if it is not one of the list's. */
export function keyMeans(e: Pressed, s: Stand): Meaning | null {
  const control = e.ctrlKey || e.metaKey
  const plain = !control && !e.altKey
  const to = rowByKey(e.key, s.at, s.rows)
  if (to !== null && (plain || e.key === 'Home' || e.key === 'End')) return { what: 'row', to, range: e.shiftKey }
  if (e.key === 'Escape') return s.inCell || s.many ? { what: 'nothing chosen' } : null
  if (control) return e.key.toLowerCase() === 'a' ? { what: 'all' } : null
  if (!plain) return null
  if (e.key === 'ArrowRight' || e.key === 'ArrowLeft') return s.fields > 0 ? { what: 'column', by: e.key === 'ArrowRight' ? 1 : -1 } : null
  if (s.at < 0) return null
  if (e.key === ' ') return { what: 'tick' }
  if (!s.inCell) return null
  if (e.key === 'Enter' || e.key === 'F2') return { what: 'edit' }
  if (e.key === 'Delete' || e.key === 'Backspace') return { what: 'empty' }
  return e.key.length === 1 ? { what: 'type', text: e.key } : null
}
