/** Bringing a cut in: its files chosen, what would be read of each seen, tables laid out; then it is imported. */
import type { CutAsk, CutPreview, CutRow } from '@naranja/contract'
import { type CutColumn, cutColumnNames, cutColumns } from '@naranja/core/exchange'
import { dropPossible, rateText } from '@naranja/core/time'
import { X } from 'lucide-react'
import { type ChangeEvent, useEffect, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { base64Of, Button, Dialog, inputLook, NoticeMark, type Picked, plural } from '../../ui/index.ts'
import { FolderPicker } from '../../places/index.ts'

type Uploaded = { name: string; base64: string }
type Chosen = Uploaded | Picked
const isUploaded = (c: Chosen): c is Uploaded => 'base64' in c
const formats = { edl: 'edit decision list', otio: 'timeline', table: 'table' } as const

/** A name without what changes from turnover to turnover: numbers, dates, versions, endings. */
const bareName = (name: string): string =>
  name
    .replace(/\.[a-z0-9]{2,5}$/i, '')
    .replace(/[\s_\-.]*(v|cut|version|turnover|r)?[\s_\-.]*\d+/gi, '')
    .trim()
    .toLowerCase()

export function ImportDialog({ onClose }: { onClose: () => void }) {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const { data: cuts, refetch } = api.useCutsQuery(projectId)
  const [importCut, { isLoading }] = api.useImportCutMutation()
  const act = useAct()
  const [chosen, setChosen] = useState<readonly Chosen[]>([])
  const [rate, setRate] = useState('')
  const [count, setCount] = useState<'auto' | 'list' | 'source'>('auto')
  const [perLabel, setPerLabel] = useState<CutAsk['perLabel']>(undefined)
  const [drop, setDrop] = useState<'' | 'drop' | 'plain'>('')
  const [layout, setLayout] = useState<CutAsk['layout']>(undefined)
  const [follows, setFollows] = useState<string | null>(null)
  const file = useRef<HTMLInputElement>(null)
  const ask = {
    projectId,
    files: chosen.map((f) => (isUploaded(f) ? f : { volumeId: f.volumeId, ref: f.ref })),
    ...(rate ? { rate } : {}),
    ...(perLabel ? { perLabel } : {}),
    ...(layout ? { layout } : {}),
    ...(drop === '' ? {} : { drop: drop === 'drop' }),
  }
  const { currentData: seen, error } = api.usePreviewCutQuery(ask, { skip: chosen.length === 0 })
  // What is called like an earlier cut is its next turnover, unless a person says otherwise.
  const guess = cuts?.find((c) => chosen[0] && bareName(c.name) !== '' && bareName(c.name) === bareName(chosen[0].name))
  const turnoverOf = follows === null ? (guess?.id ?? '') : follows
  const upload = async (e: ChangeEvent<HTMLInputElement>) => {
    const files = await Promise.all([...(e.target.files ?? [])].map(async (f) => ({ name: f.name, base64: await base64Of(f) })))
    setChosen((c) => [...c, ...files])
    e.target.value = ''
  }
  const run = async () => {
    const done = await act(importCut({ ...ask, sourceCount: count, ...(turnoverOf ? { follows: turnoverOf } : {}) }), (d) => d.message)
    if (!done) return
    await refetch()
    void navigate(`/p/${projectId}/cuts/${done.cut.id}`)
    onClose()
  }
  const table = seen?.files.find((f) => f.table)
  const fault = error ? refusal(error)?.message : seen?.fault
  const ready = seen && !seen.fault && !seen.files.some((f) => f.refusal || f.table?.fault || f.events === 0)
  // Timelines have no word for drop-frame, tables often none.
  const unsigned = seen && dropPossible(seen.rate) ? seen.files.find((f) => f.format === 'otio' || f.format === 'table') : undefined
  const fast = seen && seen.rate.num / seen.rate.den > 30 && seen.files.some((f) => f.format === 'edl')
  return (
    <Dialog open onClose={onClose} title="Import cut list" wide>
      <div className="flex h-[min(300px,32vh)] min-h-0 flex-col border-b border-line">
        <FolderPicker
          mode="files"
          endings={/\.(edl|txt|otio|json|csv|tsv|tab)$/i}
          picked={chosen.filter((c): c is Picked => !isUploaded(c))}
          onPick={(picked) => {
            setLayout(undefined)
            setChosen([...chosen.filter(isUploaded), ...picked])
          }}
        />
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {chosen.length === 0 ? (
          <p className="m-0 px-4 py-3 text-ink-2">
            Choose one file, or several of one cut (one for each track): an edit decision list, an OpenTimelineIO file, or a table (CSV) with a row for each
            event.
          </p>
        ) : (
          <ul aria-label="Chosen files" className="m-0 list-none px-4 py-2">
            {chosen.map((c, i) => (
              <FileLine
                key={isUploaded(c) ? `${c.name} ${i}` : `${c.volumeId} ${c.ref}`}
                name={c.name}
                seen={seen?.files[i]}
                onLeave={() => {
                  setLayout(undefined)
                  setChosen(chosen.filter((x) => x !== c))
                }}
              />
            ))}
          </ul>
        )}
        {table?.table && <TableColumns table={table.table} onLayout={setLayout} />}
      </div>
      {fault && (
        <p role="alert" className="m-0 flex items-start gap-2 border-t border-line px-4 py-2">
          <span className="mt-0.5">
            <NoticeMark severity="error" />
          </span>
          {fault}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-2 border-t border-line px-4 py-2.5">
        <input
          ref={file}
          type="file"
          multiple
          accept=".edl,.txt,.otio,.json,.csv,.tsv,.tab"
          aria-label="Files from this computer"
          onChange={(e) => void upload(e)}
          className="hidden"
        />
        <input
          aria-label="Frame rate of the cut"
          placeholder={seen ? `rate: ${rateText(seen.rate)}` : 'rate: as told'}
          value={rate}
          onChange={(e) => setRate(e.target.value)}
          className={`${inputLook} w-[104px]`}
        />
        <select
          aria-label="How source timecode is counted"
          value={count}
          onChange={(e) => setCount(e.target.value as typeof count)}
          className={`${inputLook} w-auto`}
        >
          <option value="auto">source timecode: as it fits</option>
          <option value="list">source timecode at the list's rate</option>
          <option value="source">source timecode at the source's rate</option>
        </select>
        {fast && (
          <select
            aria-label="How frames are counted"
            value={perLabel ?? ''}
            onChange={(e) => setPerLabel((Number(e.target.value) || undefined) as CutAsk['perLabel'])}
            className={`${inputLook} w-auto`}
          >
            <option value="">frames: as the digits tell</option>
            <option value="1">a number for each frame</option>
            <option value="2">two frames share a number</option>
            <option value="4">four frames share a number</option>
          </select>
        )}
        {unsigned && (
          <select aria-label="Drop-frame" value={drop} onChange={(e) => setDrop(e.target.value as typeof drop)} className={`${inputLook} w-auto`}>
            <option value="">{unsigned.drop ? 'drop-frame, as it seems' : 'not drop-frame, as the originals are'}</option>
            <option value="drop">drop-frame</option>
            <option value="plain">not drop-frame</option>
          </select>
        )}
        {cuts && cuts.length > 0 && (
          <select aria-label="Turnover" value={turnoverOf} onChange={(e) => setFollows(e.target.value)} className={`${inputLook} w-auto max-w-[230px]`}>
            <option value="">a cut of its own</option>
            {cuts.map((c: CutRow) => (
              <option key={c.id} value={c.id}>
                new turnover of {c.name}
              </option>
            ))}
          </select>
        )}
      </div>
      <div className="flex items-center justify-between gap-2 border-t border-line px-4 py-2.5">
        <Button onClick={() => file.current?.click()}>From this computer ...</Button>
        <Button main disabled={!ready || isLoading} onClick={() => void run()}>
          Import cut list
        </Button>
      </div>
    </Dialog>
  )
}

function FileLine({ name, seen, onLeave }: { name: string; seen: CutPreview['files'][number] | undefined; onLeave: () => void }) {
  return (
    <li className="border-b border-line/60 py-1.5 last:border-0">
      <div className="flex items-center gap-2.5">
        <span className="mono min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap">{name}</span>
        <span className="text-ink-2">
          {!seen
            ? 'reading'
            : seen.refusal
              ? 'cannot be read'
              : `${seen.format ? formats[seen.format] : ''}, ${plural(seen.events, 'event')} on ${seen.tracks.join(' ') || 'no track'}${seen.rate ? ` at ${rateText(seen.rate)} fps` : ''}`}
        </span>
        {seen && seen.errors + seen.warnings > 0 && (
          <span className="inline-flex items-center gap-1.5 text-ink-2">
            <NoticeMark severity={seen.errors ? 'error' : 'warning'} /> {plural(seen.errors + seen.warnings, 'problem')}
          </span>
        )}
        <button type="button" aria-label={`Leave out ${name}`} className="rounded p-1 text-ink-3 hover:text-ink" onClick={onLeave}>
          <X size={14} aria-hidden />
        </button>
      </div>
      {seen && !seen.refusal && seen.problems.length > 0 && (
        <ul className="m-0 mt-1 max-h-[96px] list-none overflow-auto p-0 text-xs text-ink-2">
          {seen.problems.map((p) => (
            <li key={`${p.line} ${p.code} ${p.message}`}>
              <span className="mono text-ink-3">{p.line ? `line ${p.line}` : 'file'}</span> {p.message}
            </li>
          ))}
        </ul>
      )}
    </li>
  )
}

type Table = NonNullable<CutPreview['files'][number]['table']>

const cellLook = 'mono max-w-[132px] overflow-hidden border-t border-line/60 px-2 py-1 text-ellipsis whitespace-nowrap'

/** What each column of a table is, above its first rows. */
function TableColumns({ table, onLayout }: { table: Table; onLayout: (l: CutAsk['layout']) => void }) {
  const width = Math.max(...table.rows.map((r) => r.length), table.layout.columns.length)
  const [head, setHead] = useState(table.layout.head)
  useEffect(() => setHead(table.layout.head), [table.layout.head])
  const columns = Array.from({ length: width }, (_, i) => table.layout.columns[i] ?? null)
  return (
    <div className="border-t border-line px-4 py-2.5">
      <div className="mb-2 flex items-center gap-3 text-ink-2">
        What each column is
        <label className="ml-auto flex items-center gap-2">
          Headings stand in
          <select
            aria-label="Row with the headings"
            className={`${inputLook} w-auto`}
            value={head ?? ''}
            onChange={(e) => onLayout({ head: e.target.value === '' ? null : Number(e.target.value), columns })}
          >
            <option value="">no row</option>
            {table.rows.map((r, i) => (
              // Rows stay where they are.
              // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a row is known by
              <option key={i} value={i}>
                row {i + 1}: {r.join(' · ').slice(0, 40)}
              </option>
            ))}
          </select>
        </label>
      </div>
      <div className="overflow-auto" tabIndex={0} role="region" aria-label="Columns of the table">
        <table className="border-collapse text-xs">
          <thead>
            <tr>
              {columns.map((use, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a column is known by
                <th key={i} className="px-1 pb-1 text-left font-normal">
                  <select
                    aria-label={`Column ${i + 1}`}
                    className={`${inputLook} w-[124px] text-[12px] ${use ? '' : 'text-ink-3'}`}
                    value={use ?? ''}
                    onChange={(e) => {
                      const next = (e.target.value || null) as CutColumn | null
                      onLayout({ head, columns: columns.map((c, n) => (n === i ? next : c === next ? null : c)) })
                    }}
                  >
                    <option value="">left out</option>
                    {cutColumns.map((c) => (
                      <option key={c} value={c}>
                        {cutColumnNames[c]}
                      </option>
                    ))}
                  </select>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.slice(0, 6).map((r, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a row is known by
              <tr key={n} className={n === head ? 'text-ink' : 'text-ink-2'}>
                {columns.map((_, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a cell is known by
                  <td key={i} className={cellLook + (n === head ? ' font-semibold' : '')}>
                    {r[i]}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {table.fault && <p className="m-0 mt-2 text-ink-2">{table.fault}</p>}
    </div>
  )
}
