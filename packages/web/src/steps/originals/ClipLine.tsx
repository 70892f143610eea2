/** One clip in the list of originals: its tick, its stations, its still, its name, and its cells. */
import type { ClipRow } from '@naranja/contract'
import { type CSSProperties, memo, useState } from 'react'
import { useViewing } from '../../state/index.ts'
import { chosenRow, clipStill, isThere, plural, Segments, Still } from '../../ui/index.ts'
import { useTriedLook } from '../clip/index.ts'
import type { ClipColumn } from './columns.tsx'
import type { useCells } from './useCells.ts'

type Cells = ReturnType<typeof useCells>

interface Props {
  row: ClipRow
  columns: readonly ClipColumn[]
  /** It is the one that is shown beside the list, or chosen with others for work on many. */
  chosen: 'this' | 'too' | null
  cells: Cells
  high: boolean
  pictures: boolean
  style: CSSProperties
  onTick: (ids: string[], ticked: boolean) => void
  /** What was typed is done with. */
  onTyped: () => void
}

export function ClipLine({ row: r, columns, chosen, cells, high, pictures, style, onTick, onTyped }: Props) {
  const look = chosen === 'this' ? chosenRow : chosen ? 'bg-raised/70' : ''
  const faint = r.notices.some((n) => n.code === 'marked-light') ? 'opacity-60' : ''
  return (
    <div
      id={`clip ${r.id}`}
      role="row"
      aria-selected={chosen !== null}
      style={style}
      onClick={(e) => cells.onClick(e, r.id, null)}
      className={`border-b border-line/60 px-2.5 whitespace-nowrap ${look} ${faint}`}
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
      {columns.map((c) => (
        <Cell key={c.code} row={r} column={c} cells={cells} here={chosen === 'this' && cells.cell?.code === c.code} onTyped={onTyped} />
      ))}
    </div>
  )
}

/** What one column says of a clip; a field is chosen by a click and typed into. */
function Cell({ row: r, column: c, cells, here, onTyped }: { row: ClipRow; column: ClipColumn; cells: Cells; here: boolean; onTyped: () => void }) {
  return (
    <span
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
            if (e.key === 'Enter' || e.key === 'Escape' || e.key === 'Tab') onTyped()
          }}
          onBlur={() => cells.commit()}
          className="w-full bg-ground text-ink outline-none"
        />
      ) : (
        c.cell(r)
      )}
    </span>
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
