/** The head of the list of originals: what its columns are, by which it is sorted, and the tick for all. */
import type { ClipRow, ClipSort, ListView } from '@naranja/contract'
import { ArrowDown, ArrowUp } from 'lucide-react'
import type { CSSProperties } from 'react'
import type { ClipColumn } from './columns.tsx'

interface Props {
  rows: readonly ClipRow[]
  view: ListView
  columns: readonly ClipColumn[]
  pictures: boolean
  grid: CSSProperties
  onSort: (sort: ClipSort) => void
  onTick: (ids: string[], ticked: boolean) => void
}

export function TableHead({ rows, view, columns, pictures, grid, onSort, onTick }: Props) {
  const all = rows.length > 0 && rows.every((r) => r.ticked)
  const head = (name: string, sort?: ClipSort) => {
    const on = sort && view.sort === sort
    const Way = view.descending ? ArrowDown : ArrowUp
    return sort ? (
      <button type="button" onClick={() => onSort(sort)} className={`inline-flex items-center gap-0.5 ${on ? 'text-ink underline' : 'hover:text-ink'}`}>
        {name} {on && <Way size={11} aria-hidden />}
      </button>
    ) : (
      name
    )
  }
  const sorted = (sort?: ClipSort) => (sort && view.sort === sort ? (view.descending ? 'descending' : 'ascending') : undefined)
  return (
    <div role="row" style={grid} className="sticky top-0 z-10 h-[25px] border-b border-line bg-ground px-2.5 text-xs whitespace-nowrap text-ink-3">
      <span role="columnheader" className="flex">
        <input
          type="checkbox"
          aria-label={all ? 'Untick all that are shown' : 'Tick all that are shown'}
          className="m-0 ml-[5px] accent-zest"
          checked={all}
          onChange={() =>
            onTick(
              rows.map((r) => r.id),
              !all,
            )
          }
        />
      </span>
      {pictures && <span role="columnheader" aria-label="Still" />}
      <span role="columnheader" aria-sort={sorted('name')}>
        {head('Clip', 'name')}
      </span>
      {columns.map((c) => (
        <span key={c.code} role="columnheader" aria-sort={sorted(c.sort)} className={c.look?.includes('text-right') ? 'text-right' : ''}>
          {c.code === 'start' ? (
            <span className="flex gap-1.5">
              {head('Timecode', 'start')} {head('Length', 'frames')}
            </span>
          ) : (
            head(c.head, c.sort)
          )}
        </span>
      ))}
    </div>
  )
}
