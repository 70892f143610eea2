/** A long list of rows: only those in sight are drawn, and the keys choose one. */
import { useVirtualizer } from '@tanstack/react-virtual'
import { type ReactNode, useEffect, useLayoutEffect, useRef, useState } from 'react'

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
  /** Pixels below which the table moves sideways instead; its first column stays in sight. */
  readonly minWidth?: number
}

const [plain, double] = [28, 46]

export function RowList<T>({ label, keys, rows, id, columns, selected = null, onSelect, tall = false, minWidth = 0 }: Props<T>) {
  const box = useRef<HTMLDivElement>(null)
  const head = useRef<HTMLDivElement>(null)
  const [headHeight, setHeadHeight] = useState(25)
  // The head may take two lines, and lies over the rows.
  useLayoutEffect(() => {
    const now = head.current?.offsetHeight
    if (now && now !== headHeight) setHeadHeight(now)
  })
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => (tall ? double : plain),
    overscan: 20,
    scrollMargin: headHeight,
    scrollPaddingStart: headHeight,
  })
  const at = selected === null ? -1 : rows.findIndex((r) => id(r) === selected)
  const scrollTo = virtual.scrollToIndex
  useEffect(() => {
    if (at >= 0) scrollTo(at, { align: 'auto' })
  }, [at, scrollTo])
  const grid = { display: 'grid', gridTemplateColumns: columns.map((c) => c.width).join(' '), columnGap: 10, alignItems: 'center' }
  const stays = (i: number, ground: string): string => (minWidth > 0 && i === 0 ? `sticky left-0 z-1 -ml-3 pl-3 self-stretch flex items-center ${ground}` : '')
  return (
    <div role="table" aria-label={label} aria-rowcount={rows.length + 1} className="flex min-h-0 min-w-0 flex-1 flex-col">
      <div ref={box} className="min-h-0 flex-1 overflow-auto">
        <div style={{ minWidth }}>
          <div ref={head} role="rowgroup" className="sticky top-0 z-2 bg-ground">
            <div role="row" style={grid} className="border-b border-line px-3 py-1 text-xs text-ink-3">
              {columns.map((c, i) => (
                // Columns stay where they are.
                // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a column is known by
                <span role="columnheader" key={i} className={`${c.look?.includes('text-right') ? 'text-right' : ''} ${stays(i, 'bg-ground')}`}>
                  {c.head}
                </span>
              ))}
            </div>
          </div>
          <div
            role="rowgroup"
            tabIndex={0}
            aria-label={keys}
            className="relative outline-offset-[-2px]"
            style={{ height: virtual.getTotalSize() }}
            onKeyDown={(e) => {
              const next = onSelect && rowByKey(e.key, at, rows.length)
              const row = next === null || next === undefined ? undefined : rows[next]
              if (!row) return
              e.preventDefault()
              onSelect?.(row)
            }}
          >
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
                  style={{ ...grid, position: 'absolute', insetInline: 0, height: v.size, transform: `translateY(${v.start - headHeight}px)` }}
                  className={`border-b border-line/60 px-3 whitespace-nowrap ${onSelect ? 'cursor-pointer' : ''} ${on ? chosenRow : ''}`}
                >
                  {columns.map((c, i) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a column is known by
                    <span role="cell" key={i} className={`min-w-0 overflow-hidden text-ellipsis ${c.look ?? ''} ${stays(i, 'bg-ground')}`}>
                      {c.cell(row)}
                    </span>
                  ))}
                </div>
              )
            })}
          </div>
        </div>
      </div>
    </div>
  )
}
