/** The list of originals: only the rows in sight are drawn, so five thousand scroll like forty. */
import type { ClipRow } from '@naranja/contract'
import { formatFrames, rateText } from '@naranja/core/time'
import { type ColumnDef, flexRender, getCoreRowModel, useReactTable } from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type ImgHTMLAttributes, type KeyboardEvent, memo, type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { useViewing } from '../../app/hooks.ts'
import { duration, plural } from '../../ui/format.ts'
import { NoticeMark, Segments } from '../../ui/marks.tsx'
import { chosenRow, rowByKey } from '../../ui/RowList.tsx'
import { useStill } from '../../ui/stills.ts'

type Sort = 'place' | 'name' | 'start' | 'frames'
interface Props {
  rows: ClipRow[]
  total: number
  selected: string | null
  onSelect: (id: string) => void
  sort: Sort
  onSort: (s: Sort) => void
  grouped: boolean
}
type Item = { kind: 'roll'; roll: string; day: string; count: number } | { kind: 'clip'; row: ClipRow }

const grid = 'grid grid-cols-[28px_76px_minmax(158px,1.6fr)_102px_58px_minmax(108px,1fr)_minmax(84px,.8fr)] items-center gap-x-2 px-2.5'

const columns: ColumnDef<ClipRow>[] = [
  { id: 'stations', header: '', cell: ({ row }) => <Segments stations={row.original.stations} /> },
  { id: 'picture', header: '', cell: ({ row }) => <Thumb row={row.original} /> },
  {
    id: 'name',
    header: 'Clip',
    cell: ({ row }) => (
      <span className="mono block overflow-hidden text-ellipsis" title={row.original.file}>
        {row.original.name}
        <br />
        <span className="font-sans text-xs text-ink-3">{backupWords(row.original.backups)}</span>
      </span>
    ),
  },
  {
    id: 'start',
    header: 'Timecode',
    cell: ({ row: { original: r } }) => (
      <span className="mono block">
        {r.start === null ? <span className="text-ink-3">none</span> : formatFrames(r.start, r.rate, r.drop)}
        <br />
        <span className="text-ink-3">{duration(r.frames, r.rate)}</span>
      </span>
    ),
  },
  {
    id: 'reel',
    header: 'Reel',
    cell: ({ row: { original: r } }) => <span className="block overflow-hidden text-ellipsis">{r.reel ?? <span className="text-ink-3">none</span>}</span>,
  },
  {
    id: 'format',
    header: 'Picture',
    cell: ({ row: { original: r } }) => (
      <span className="block overflow-hidden text-ellipsis">
        {r.hasPicture ? `${r.width}×${r.height}, ${rateText(r.rate)}` : 'sound only'}
        <br />
        <span className="text-xs text-ink-3">{r.codec || 'unknown'}</span>
      </span>
    ),
  },
  {
    id: 'notices',
    header: 'Notices',
    cell: ({ row: { original: r } }) => {
      const first = r.away ? { severity: 'warning' as const, short: 'away', text: 'Its volume is away.' } : r.notices[0]
      if (!first) return null
      const more = r.notices.length - (r.away ? 0 : 1)
      return (
        <span className="flex min-w-0 items-center gap-1.5 text-ink-2" title={r.notices.map((n) => n.text).join('\n')}>
          <NoticeMark severity={first.severity} />
          <span className="overflow-hidden text-ellipsis">{first.short}</span>
          {more > 0 && <span className="text-xs text-ink-3">+{more}</span>}
        </span>
      )
    },
  },
]
const backupWords = (n: number): string => (n === 0 ? 'no backup' : plural(n, 'backup'))
const sortable: Record<string, Sort> = { name: 'name', start: 'start' }

const SortButton = ({ on, onClick, children }: { on: boolean; onClick: () => void; children: ReactNode }) => (
  <button type="button" onClick={onClick} className={on ? 'text-ink underline' : 'hover:text-ink'}>
    {children}
  </button>
)

export function ClipTable({ rows, total, selected, onSelect, sort, onSort, grouped }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const table = useReactTable({ data: rows, columns, getCoreRowModel: getCoreRowModel(), getRowId: (r) => r.id })
  const items = useMemo((): Item[] => {
    if (!grouped) return rows.map((row) => ({ kind: 'clip', row }))
    const out: Item[] = []
    let head: Extract<Item, { kind: 'roll' }> | null = null
    for (const row of rows) {
      if (!head || head.roll !== row.roll) {
        head = { kind: 'roll', roll: row.roll, day: row.day, count: 0 }
        out.push(head)
      }
      head.count++
      out.push({ kind: 'clip', row })
    }
    return out
  }, [rows, grouped])
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => box.current,
    estimateSize: (i) => (items[i]?.kind === 'roll' ? 28 : 52),
    overscan: 12,
    getItemKey: (i) => (items[i]?.kind === 'clip' ? items[i].row.id : `roll ${items[i]?.roll} ${i}`),
  })
  const order = useMemo(() => items.flatMap((it, i) => (it.kind === 'clip' ? [{ id: it.row.id, i }] : [])), [items])
  const at = order.findIndex((o) => o.id === selected)
  const scrollTo = virtual.scrollToIndex
  useEffect(() => {
    const o = order[at]
    if (o) scrollTo(o.i, { align: 'auto' })
  }, [at, order, scrollTo])
  const onKey = (e: KeyboardEvent) => {
    const to = rowByKey(e.key, at, order.length)
    const next = to === null ? undefined : order[to]
    if (!next) return
    e.preventDefault()
    onSelect(next.id)
  }
  const cells = new Map(table.getRowModel().rows.map((r) => [r.id, r]))
  return (
    <div className="flex min-h-0 flex-1 flex-col" role="table" aria-label="Originals" aria-rowcount={total + 1}>
      <div role="rowgroup">
        <div role="row" className={`${grid} flex-none border-b border-line py-1 text-xs text-ink-3`}>
          {table.getFlatHeaders().map((h) => {
            const key = sortable[h.id]
            return (
              <span key={h.id} role="columnheader" aria-sort={key && sort === key ? 'ascending' : undefined}>
                {h.id === 'start' ? (
                  <span className="flex gap-1.5">
                    <SortButton on={sort === 'start'} onClick={() => onSort(sort === 'start' ? 'place' : 'start')}>
                      Timecode
                    </SortButton>
                    <SortButton on={sort === 'frames'} onClick={() => onSort(sort === 'frames' ? 'place' : 'frames')}>
                      Length
                    </SortButton>
                  </span>
                ) : key ? (
                  <SortButton on={sort === key} onClick={() => onSort(sort === key ? 'place' : key)}>
                    {flexRender(h.column.columnDef.header, h.getContext())}
                  </SortButton>
                ) : (
                  flexRender(h.column.columnDef.header, h.getContext())
                )}
              </span>
            )
          })}
        </div>
      </div>
      <div
        ref={box}
        role="rowgroup"
        tabIndex={0}
        aria-label="Originals, arrow keys choose"
        onKeyDown={onKey}
        className="min-h-0 flex-1 overflow-auto outline-offset-[-2px]"
      >
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((v) => {
            const item = items[v.index]
            if (!item) return null
            const place = { position: 'absolute' as const, top: 0, left: 0, right: 0, height: v.size, transform: `translateY(${v.start}px)` }
            if (item.kind === 'roll')
              return (
                <div key={v.key} role="row" style={place} className="flex items-center gap-2.5 border-b border-line/60 bg-panel px-3">
                  <span role="cell" className="font-semibold">
                    {item.roll}
                  </span>
                  <span role="cell" className="text-ink-2">
                    {item.day}, {plural(item.count, 'clip')}
                  </span>
                </div>
              )
            const row = cells.get(item.row.id)
            const on = item.row.id === selected
            return (
              <div
                key={v.key}
                role="row"
                aria-selected={on}
                style={place}
                onClick={() => onSelect(item.row.id)}
                className={`${grid} border-b border-line/60 whitespace-nowrap ${on ? chosenRow : ''}`}
              >
                {row?.getVisibleCells().map((c) => (
                  <span key={c.id} role="cell" className="min-w-0 overflow-hidden">
                    {flexRender(c.column.columnDef.cell, c.getContext())}
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

/** A picture that waits for its turn. */
function Still({ url, ...rest }: { url: string } & Omit<ImgHTMLAttributes<HTMLImageElement>, 'src' | 'alt'>) {
  return <img alt="" src={useStill(url)} {...rest} />
}

/** The middle frame; under the pointer it moves through the clip. */
const Thumb = memo(function Thumb({ row }: { row: ClipRow }) {
  const viewing = useViewing()
  const [share, setShare] = useState(0.5)
  const url = (share: number) => `/api/clips/${row.id}/still?frame=${Math.min(row.frames - 1, Math.floor(row.frames * share))}&width=160&viewing=${viewing}`
  if (!row.hasPicture) return <span className="flex h-[42px] w-[74px] items-center justify-center rounded-sm bg-well text-xs text-[#989898]">sound</span>
  const nothing = row.away && !row.copies.some((c) => c.state === 'checked')
  if (nothing) return <span className="flex h-[42px] w-[74px] items-center justify-center rounded-sm bg-well text-xs text-[#989898]">away</span>
  return (
    <Still
      url={url(share)}
      onMouseMove={(e) => {
        const box = e.currentTarget.getBoundingClientRect()
        setShare(Math.max(0, Math.min(0.99, Math.floor(((e.clientX - box.left) / box.width) * 10) / 10)))
      }}
      onMouseLeave={() => setShare(0.5)}
      className="h-[42px] w-[74px] rounded-sm bg-well object-contain"
    />
  )
})
