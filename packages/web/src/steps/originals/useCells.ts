/** Cells of the list as in a spreadsheet: a cursor, typing, copying and pasting columns, for one clip or all chosen ones. */
import type { ClipRow, DescribeEdit } from '@naranja/contract'
import { type ClipboardEvent, type KeyboardEvent, useRef, useState } from 'react'
import { blockOf, keyMeans, pasted } from './cells.ts'
import type { ClipColumn } from './columns.tsx'

interface Ask {
  /** In the order shown. */
  readonly rows: readonly ClipRow[]
  readonly columns: readonly ClipColumn[]
  readonly selected: string | null
  readonly chosen: ReadonlySet<string>
  readonly choose: (id: string, chosen: ReadonlySet<string>) => void
  readonly edit: (edits: DescribeEdit[]) => void
  readonly tick: (ids: string[], ticked: boolean) => void
  readonly tell: (text: string) => void
}

type Field = NonNullable<ClipColumn['field']>
interface Typing {
  /** What is typed into; none where no cell is chosen. */
  readonly field: Field | undefined
  readonly row: ClipRow | undefined
  /** The chosen clips. */
  readonly now: readonly ClipRow[]
  readonly edit: Ask['edit']
}

/** Typing into a cell. */
function useTyping({ field, row, now, edit }: Typing) {
  const [draft, showDraft] = useState<string | null>(null)
  /** What is being typed, as it is now: leaving the field ends typing a second time. */
  const typed = useRef<string | null>(null)
  /** What stood in the cells when typing began: what somebody else puts there meanwhile is not overwritten unseen. */
  const seen = useRef<ReadonlyMap<string, string | null>>(new Map())
  const setDraft = (text: string | null) => {
    typed.current = text
    showDraft(text)
  }
  const set = (list: readonly ClipRow[], value: string | null, was: ReadonlyMap<string, string | null> = new Map()) => {
    if (!field) return
    const before = (r: ClipRow) => was.get(r.id) ?? (was.has(r.id) ? null : r[field])
    const edits = list.filter((r) => r[field] !== value).map((r) => ({ clipId: r.id, field, before: before(r), value }))
    if (edits.length) edit(edits)
  }
  const begin = (text: string) => {
    if (!field || !row) return
    seen.current = new Map([row, ...now].map((r) => [r.id, r[field]]))
    setDraft(text)
  }
  /** Ends typing: `all` puts it into every chosen clip. */
  const commit = (all = false) => {
    const text = typed.current
    if (text === null) return
    setDraft(null)
    set(all ? now : row ? [row] : [], text.trim() === '' ? null : text, seen.current)
  }
  return { draft, setDraft, set, begin, commit }
}

export function useCells({ rows, columns, selected, chosen, choose, edit, tick, tell }: Ask) {
  const [column, setColumn] = useState<string | null>(null)
  /** Where a range that is being chosen began. */
  const [anchor, setAnchor] = useState<string | null>(null)
  const fields = columns.filter((c) => c.field)
  const at = rows.findIndex((r) => r.id === selected)
  const row = rows[at]
  const cell = fields.find((c) => c.code === column)
  const now = chosen.size > 1 && selected && chosen.has(selected) ? rows.filter((r) => chosen.has(r.id)) : row ? [row] : []
  const { draft, setDraft, set, begin, commit } = useTyping({ field: cell?.field, row, now, edit })

  const go = (index: number, range: boolean) => {
    const next = rows[index]
    if (!next) return
    const from = range ? rows.findIndex((r) => r.id === (anchor ?? selected)) : -1
    if (from < 0) setAnchor(next.id)
    choose(next.id, new Set(from < 0 ? [] : rows.slice(Math.min(from, index), Math.max(from, index) + 1).map((r) => r.id)))
  }
  const side = (by: number) => {
    const i = fields.findIndex((c) => c.code === column)
    const next = i + by
    setColumn(next < 0 ? null : (fields[Math.min(next, fields.length - 1)]?.code ?? null))
  }

  const onKey = (e: KeyboardEvent) => {
    const m = keyMeans(e, { at, rows: rows.length, fields: fields.length, inCell: cell !== undefined, many: chosen.size > 0 })
    if (!m) return
    e.preventDefault()
    e.stopPropagation()
    if (m.what === 'row') go(m.to, m.range)
    else if (m.what === 'column') side(m.by)
    else if (m.what === 'type') begin(m.text)
    else if (m.what === 'nothing chosen') {
      setColumn(null)
      if (row) choose(row.id, new Set())
    } else if (!row) return
    else if (m.what === 'all') choose(row.id, new Set(rows.map((r) => r.id)))
    else if (m.what === 'edit') begin((cell?.field && row[cell.field]) ?? '')
    else if (m.what === 'empty') set(now, null)
    else
      tick(
        now.map((r) => r.id),
        !row.ticked,
      )
  }
  /** Keys while a cell is typed into. */
  const onType = (e: KeyboardEvent) => {
    e.stopPropagation()
    if (e.key === 'Enter') {
      e.preventDefault()
      commit(e.ctrlKey || e.metaKey)
      if (!e.ctrlKey && !e.metaKey) go(Math.min(rows.length - 1, at + 1), false)
    } else if (e.key === 'Escape') setDraft(null)
    else if (e.key === 'Tab') {
      e.preventDefault()
      commit()
      side(e.shiftKey ? -1 : 1)
    }
  }
  const onCopy = (e: ClipboardEvent) => {
    if (draft !== null || now.length === 0) return
    e.preventDefault()
    e.clipboardData.setData('text/plain', now.map((r) => (cell ? cell.text(r) : [r.name, ...columns.map((c) => c.text(r))].join('\t'))).join('\n'))
  }
  const onPaste = (e: ClipboardEvent) => {
    if (draft !== null || !row) return
    e.preventDefault()
    if (!cell) return tell('Choose a cell first: click one, or go to it with the arrow keys.')
    const { edits, left } = pasted(blockOf(e.clipboardData.getData('text/plain')), rows, at, fields.slice(fields.indexOf(cell)), chosen)
    if (edits.length) edit(edits)
    if (left) tell(`${left} ${left === 1 ? 'line was' : 'lines were'} left over below the last clip.`)
  }
  const onClick = (e: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }, id: string, code: string | null) => {
    setColumn(code)
    const index = rows.findIndex((r) => r.id === id)
    if (e.shiftKey) go(index, true)
    else if (e.ctrlKey || e.metaKey) {
      const next = new Set(chosen.size ? chosen : selected ? [selected] : [])
      if (!next.delete(id)) next.add(id)
      choose(id, next)
    } else if (id !== selected || chosen.size) go(index, false)
  }
  return { at, cell, draft, setDraft, begin, commit, onKey, onType, onCopy, onPaste, onClick }
}
