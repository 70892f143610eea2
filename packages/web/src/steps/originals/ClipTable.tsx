/** The list of originals: only the rows in sight are drawn, so ten thousand scroll like forty; its fields are typed into as in a spreadsheet. */
import type { ClipRow, ClipSort, DescribeEdit, ListView } from '@naranja/contract'
import { useVirtualizer } from '@tanstack/react-virtual'
import { ArrowDown, ArrowUp } from 'lucide-react'
import { memo, useEffect, useMemo, useRef, useState } from 'react'
import { useViewing } from '../../state/index.ts'
import { chosenRow, clipStill, isThere, plural, Segments, Still } from '../../ui/index.ts'
import { gap, layout } from './columns.tsx'
import { useTriedLook } from '../clip/index.ts'
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
type Item = { kind: 'head'; name: string; more: string; count: number } | { kind: 'clip'; row: ClipRow }

const headOf = (group: ListView['group'], r: ClipRow): { name: string; more: string } =>
  group === 'roll' ? { name: r.roll, more: r.day } : group === 'day' ? { name: r.day, more: '' } : { name: r.camera ?? 'No camera', more: '' }

export function ClipTable({ rows, total, view, selected, chosen, onChoose, onSort, onEdit, onTick, onTell }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const { shown, pictures, high, template, least } = useMemo(() => layout(view.columns), [view.columns])
  const group = view.sort ? 'none' : view.group
  const items = useMemo((): Item[] => {
    if (group === 'none') return rows.map((row) => ({ kind: 'clip', row }))
    const out: Item[] = []
    let head: Extract<Item, { kind: 'head' }> | null = null
    for (const row of rows) {
      const own = headOf(group, row)
      if (!head || head.name !== own.name || head.more !== own.more) {
        head = { kind: 'head', ...own, count: 0 }
        out.push(head)
      }
      head.count++
      out.push({ kind: 'clip', row })
    }
    return out
  }, [rows, group])
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
          {shown.map((c) => (
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
            const on = r.id === selected
            const look = on ? chosenRow : chosen.has(r.id) ? 'bg-raised/70' : ''
            return (
              <div
                key={v.key}
                id={`clip ${r.id}`}
                role="row"
                aria-selected={on || chosen.has(r.id)}
                style={{ ...where, ...grid }}
                onClick={(e) => cells.onClick(e, r.id, null)}
                className={`border-b border-line/60 px-2.5 whitespace-nowrap ${look} ${r.notices.some((n) => n.code === 'marked-light') ? 'opacity-60' : ''}`}
              >
                <span role="gridcell" className={`flex items-center ${high ? 'flex-col gap-1.5' : 'gap-2'}`}>
                  <input
                    type="checkbox"
                    tabIndex={-1}
                    aria-label={`Tick ${r.name}`}
                    className="m-0 accent-zest"
                    checked={r.ticked}
                    onClick={(e) => e.stopPropagation()}
                    onChange={() => onTick([r.id], !r.ticked)}
                  />
                  <Segments stations={r.stations} />
                </span>
                {pictures && (
                  <span role="gridcell">
                    <Thumb row={r} />
                  </span>
                )}
                <span role="gridcell" className="mono min-w-0 overflow-hidden text-ellipsis" title={r.file}>
                  {r.name}
                  {high && (
                    <>
                      <br />
                      <span className="font-sans text-xs text-ink-3">{r.backups === 0 ? 'no backup' : plural(r.backups, 'backup')}</span>
                    </>
                  )}
                </span>
                {shown.map((c) => {
                  const here = on && cells.cell?.code === c.code
                  return (
                    <span
                      key={c.code}
                      role="gridcell"
                      onClick={(e) => {
                        if (!c.field) return
                        e.stopPropagation()
                        cells.onClick(e, r.id, c.code)
                      }}
                      onDoubleClick={() => c.field && cells.begin(r[c.field] ?? '')}
                      className={`min-w-0 overflow-hidden text-ellipsis ${c.look ?? ''} ${c.field ? 'self-stretch content-center' : ''} ${here ? 'rounded-sm shadow-[inset_0_0_0_2px_var(--ink-2)] px-1' : ''}`}
                    >
                      {here && cells.draft !== null ? (
                        <input
                          // The cell was chosen by a key or a click: its text is what is typed into next.
                          // biome-ignore lint/a11y/noAutofocus: see above
                          autoFocus
                          aria-label={`${c.head} of ${r.name}`}
                          value={cells.draft}
                          onChange={(e) => cells.setDraft(e.target.value)}
                          onKeyDown={(e) => {
                            cells.onType(e)
                            if (e.key === 'Enter' || e.key === 'Escape' || e.key === 'Tab') box.current?.focus()
                          }}
                          onBlur={() => cells.commit()}
                          className="w-full bg-ground text-ink outline-none"
                        />
                      ) : (
                        c.cell(r)
                      )}
                    </span>
                  )
                })}
              </div>
            )
          })}
        </div>
      </div>
    </div>
  )
}

/** The middle frame; under the pointer it moves through the clip. */
const Thumb = memo(function Thumb({ row }: { row: ClipRow }) {
  const viewing = useViewing()
  const look = useTriedLook(row.id)
  const [share, setShare] = useState(0.5)
  const frame = Math.min(row.frames - 1, Math.floor(row.frames * share))
  if (!row.hasPicture) return <span className="flex h-[42px] w-[74px] items-center justify-center rounded-sm bg-well text-xs text-[#989898]">sound</span>
  const nothing = row.away && !row.copies.some(isThere)
  if (nothing)
    return <span className="flex h-[42px] w-[74px] items-center justify-center rounded-sm bg-well text-xs text-[#989898]">{row.gone ? 'gone' : 'away'}</span>
  return (
    <Still
      url={clipStill(row, frame, 160, viewing, look)}
      onMouseMove={(e) => {
        const box = e.currentTarget.getBoundingClientRect()
        setShare(Math.max(0, Math.min(0.99, Math.floor(((e.clientX - box.left) / box.width) * 10) / 10)))
      }}
      onMouseLeave={() => setShare(0.5)}
      className="h-[42px] w-[74px] rounded-sm bg-well object-contain"
    />
  )
})
