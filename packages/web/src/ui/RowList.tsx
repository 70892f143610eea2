/** A long list of rows: only those in sight are drawn, and the keys choose one. */
import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useEffect, useRef } from 'react'

/** The row that a key leads to from row `at` of `count`; null for keys that lead nowhere. */
export function rowByKey(key: string, at: number, count: number): number | null {
  const to = { ArrowDown: at + 1, ArrowUp: at - 1, PageDown: at + 10, PageUp: at - 10, Home: 0, End: count - 1 }[key]
  return to === undefined || count === 0 ? null : Math.max(0, Math.min(count - 1, to))
}

/** How a chosen row looks: raised, between two lines. */
export const chosenRow = 'bg-raised shadow-[inset_0_1px_0_var(--ink-3),inset_0_-1px_0_var(--ink-3)]'

export interface Column<T> {
  readonly head: ReactNode
  /** A track of the grid, as CSS writes it. */
  readonly width: string
  readonly cell: (row: T) => ReactNode
  readonly look?: string
}

interface Props<T> {
  /** Of the table, and of its rows where the keys work. */
  readonly label: string
  readonly keys: string
  readonly rows: readonly T[]
  readonly id: (row: T) => string
  readonly columns: readonly Column<T>[]
  readonly selected?: string | null
  readonly onSelect?: (row: T) => void
  /** Rows of two lines. */
  readonly tall?: boolean
}

const [plain, double] = [28, 46]

export function RowList<T>({ label, keys, rows, id, columns, selected = null, onSelect, tall = false }: Props<T>) {
  const box = useRef<HTMLDivElement>(null)
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => (tall ? double : plain), overscan: 20 })
  const at = selected === null ? -1 : rows.findIndex((r) => id(r) === selected)
  const scrollTo = virtual.scrollToIndex
  useEffect(() => {
    if (at >= 0) scrollTo(at, { align: 'auto' })
  }, [at, scrollTo])
  const grid = { display: 'grid', gridTemplateColumns: columns.map((c) => c.width).join(' '), columnGap: 10, alignItems: 'center' }
  return (
    <div role="table" aria-label={label} aria-rowcount={rows.length + 1} className="flex min-h-0 min-w-0 flex-1 flex-col">
      <div role="rowgroup">
        <div role="row" style={grid} className="border-b border-line px-3 py-1 text-xs text-ink-3">
          {columns.map((c, i) => (
            // Columns stay where they are.
            // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a column is known by
            <span role="columnheader" key={i} className={c.look?.includes('text-right') ? 'text-right' : ''}>
              {c.head}
            </span>
          ))}
        </div>
      </div>
      <div
        ref={box}
        role="rowgroup"
        tabIndex={0}
        aria-label={keys}
        className="min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
        onKeyDown={(e) => {
          const next = onSelect && rowByKey(e.key, at, rows.length)
          const row = next === null || next === undefined ? undefined : rows[next]
          if (!row) return
          e.preventDefault()
          onSelect?.(row)
        }}
      >
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((v) => {
            const row = rows[v.index]
            if (row === undefined) return null
            const key = id(row)
            const on = key === selected
            return (
              <div
                role="row"
                key={key}
                aria-rowindex={v.index + 2}
                aria-selected={onSelect ? on : undefined}
                onClick={() => onSelect?.(row)}
                style={{ ...grid, position: 'absolute', insetInline: 0, height: v.size, transform: `translateY(${v.start}px)` }}
                className={`border-b border-line/60 px-3 whitespace-nowrap ${onSelect ? 'cursor-pointer' : ''} ${on ? chosenRow : ''}`}
              >
                {columns.map((c, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a column is known by
                  <span role="cell" key={i} className={`min-w-0 overflow-hidden text-ellipsis ${c.look ?? ''}`}>
                    {c.cell(row)}
                  </span>
                ))}
              </div>
            )
          })}
        </div>
      </div>
    </div>
  )
}
