/** The list of originals: only the rows in sight are drawn, so ten thousand scroll like forty; its fields are typed into as in a spreadsheet. */
import type { ClipRow, ClipSort, DescribeEdit, ListView } from '@naranja/contract'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useMemo, useRef } from 'react'
import { plural } from '../../ui/index.ts'
import { ClipLine } from './ClipLine.tsx'
import { gap, layout } from './columns.tsx'
import { itemsOf } from './listItems.ts'
import { TableHead } from './TableHead.tsx'
import { useCells } from './useCells.ts'

interface Props {
  rows: ClipRow[]
  total: number
  view: ListView
  selected: string | null
  /** Clips chosen beside it, for work on many. */
  chosen: ReadonlySet<string>
  onChoose: (id: string, chosen: ReadonlySet<string>) => void
  onSort: (sort: ClipSort) => void
  onEdit: (edits: DescribeEdit[]) => void
  onTick: (ids: string[], ticked: boolean) => void
  onTell: (text: string) => void
}

export function ClipTable({ rows, total, view, selected, chosen, onChoose, onSort, onEdit, onTick, onTell }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const { shown, pictures, high, template, least } = useMemo(() => layout(view.columns), [view.columns])
  const group = view.sort ? 'none' : view.group
  const items = useMemo(() => itemsOf(rows, group), [rows, group])
  const height = high ? 52 : 28
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => box.current,
    estimateSize: (i) => (items[i]?.kind === 'head' ? 28 : height),
    overscan: 12,
    scrollMargin: 25,
    scrollPaddingStart: 25,
    getItemKey: (i) => (items[i]?.kind === 'clip' ? items[i].row.id : `head ${i}`),
  })
  const measure = virtual.measure
  // biome-ignore lint/correctness/useExhaustiveDependencies: another height of rows is measured anew
  useEffect(() => measure(), [height, measure])
  const place = useMemo(() => new Map(items.flatMap((it, i) => (it.kind === 'clip' ? [[it.row.id, i] as const] : []))), [items])
  const cells = useCells({ rows, columns: shown, selected, chosen, choose: onChoose, edit: onEdit, tick: onTick, tell: onTell })
  const scrollTo = virtual.scrollToIndex
  const index = selected === null ? undefined : place.get(selected)
  useEffect(() => {
    if (index !== undefined) scrollTo(index, { align: 'auto' })
  }, [index, scrollTo])
  const grid = { display: 'grid', gridTemplateColumns: template, columnGap: gap, alignItems: 'center', minWidth: least }
  const drawn = virtual.getVirtualItems()
  const inSight = index !== undefined && drawn.some((v) => v.index === index)
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div
        ref={box}
        role="grid"
        tabIndex={0}
        aria-label="Originals, arrow keys choose"
        aria-rowcount={total + 1}
        aria-multiselectable
        aria-activedescendant={inSight ? `clip ${selected}` : undefined}
        onKeyDown={cells.onKey}
        onCopy={cells.onCopy}
        onPaste={cells.onPaste}
        className="min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
      >
        <TableHead rows={rows} view={view} columns={shown} pictures={pictures} grid={grid} onSort={onSort} onTick={onTick} />
        <div className="relative" style={{ height: virtual.getTotalSize(), minWidth: least }}>
          {drawn.map((v) => {
            const item = items[v.index]
            if (!item) return null
            const where = { position: 'absolute' as const, top: 0, left: 0, right: 0, height: v.size, transform: `translateY(${v.start - 25}px)` }
            if (item.kind === 'head')
              return (
                <div key={v.key} role="row" style={where} className="flex items-center gap-2.5 border-b border-line/60 bg-panel px-3">
                  <span role="gridcell" className="font-semibold">
                    {item.name}
                  </span>
                  <span role="gridcell" className="text-ink-2">
                    {[item.more, plural(item.count, 'clip')].filter(Boolean).join(', ')}
                  </span>
                </div>
              )
            const r = item.row
            return (
              <ClipLine
                key={v.key}
                row={r}
                columns={shown}
                chosen={r.id === selected ? 'this' : chosen.has(r.id) ? 'too' : null}
                cells={cells}
                high={high}
                pictures={pictures}
                style={{ ...where, ...grid }}
                onTick={onTick}
                onTyped={() => box.current?.focus()}
              />
            )
          })}
        </div>
      </div>
    </div>
  )
}
