/** A table file that describes clips: what its columns are, which row is which clip, and every value before it is taken over. */
import type { TableAnswer } from '@naranja/contract'
import { type ColumnUse, columnUses, describable, fieldNames } from '@naranja/core/describe'
import { useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { base64Of, Button, type Column, Dialog, NoticeMark, plural, RowList, Select } from '../../ui/index.ts'

type AnswerRow = TableAnswer['rows'][number]
const useNames: Readonly<Record<ColumnUse, string>> = {
  name: 'Clip name (finds the clip)',
  start: 'Start timecode (finds the clip)',
  ...fieldNames,
  reel: 'Reel (finds the clip, fills it where it has none)',
}

const columns: Column<AnswerRow>[] = [
  { head: 'Line', width: '44px', look: 'mono text-right text-ink-3', cell: (r) => r.line },
  { head: 'Clip', width: 'minmax(150px,1fr)', look: 'mono', cell: (r) => r.name },
  {
    head: 'Found',
    width: '104px',
    cell: (r) => (
      <span className="flex items-center gap-1.5">
        {r.state === 'found' ? 'found' : <NoticeMark severity="warning" />}
        {r.state === 'several' ? 'several' : r.state === 'not-found' ? 'not found' : ''}
      </span>
    ),
  },
  {
    head: 'What changes',
    width: 'minmax(240px,2fr)',
    cell: (r) =>
      r.changes.length ? (
        r.changes.map((c) => `${fieldNames[c.field]}: ${c.before === null ? '' : `${c.before} → `}${c.value}`).join(' · ')
      ) : (
        <span className="text-ink-3" title={r.why}>
          {r.why}
        </span>
      ),
  },
]

export function TableDialog({ onClose }: { onClose: () => void }) {
  const projectId = useProjectId()
  const [file, setFile] = useState<{ name: string; base64: string } | null>(null)
  const [uses, setUses] = useState<(ColumnUse | null)[] | undefined>(undefined)
  const [layout, setLayout] = useState('')
  const [add, setAdd] = useState(false)
  const layouts = api.useLogLayoutsQuery().data?.layouts
  const ask = { projectId, base64: file?.base64 ?? '', add, ...(uses ? { uses } : {}), ...(layout ? { layout } : {}) }
  const { currentData, data, error } = api.usePreviewTableQuery(ask, { skip: !file })
  const table = currentData ?? data
  const [apply, { isLoading }] = api.useApplyTableMutation()
  const act = useAct()
  const values = currentData?.rows.reduce((n, r) => n + r.changes.length, 0) ?? 0
  const lost = currentData?.rows.filter((r) => r.state !== 'found').length ?? 0
  const waits = currentData?.rows.filter((r) => r.waits).length ?? 0
  return (
    <Dialog open onClose={onClose} title="Describe from a table file" wide>
      <div className="flex flex-col gap-2.5 border-b border-line px-4 py-3">
        <p className="m-0 text-ink-2">
          CSV or TSV, from a spreadsheet or a log, with or without heading lines. A row finds its clip by name; reel and timecode tell clips of one name apart.
        </p>
        <div className="flex items-center gap-3">
          <label className="cursor-pointer rounded-md border border-line bg-raised px-2.5 py-[4.5px] focus-within:outline-2 focus-within:outline-zest hover:border-ink-3">
            {file ? 'Choose another file' : 'Choose a file'}
            <input
              type="file"
              aria-label="Table file"
              accept=".csv,.tsv,.txt,.tab,text/csv,text/plain"
              className="sr-only"
              onChange={async (e) => {
                const f = e.target.files?.[0]
                setUses(undefined)
                setFile(f ? { name: f.name, base64: await base64Of(f) } : null)
              }}
            />
          </label>
          <span className="mono text-ink-2">{file?.name}</span>
          <Select
            label="Layout of the file"
            className="ml-auto"
            value={layout}
            onChange={(v) => {
              setUses(undefined)
              setLayout(v)
            }}
          >
            <option value="">{table?.layout && !layout ? `told by its heads: ${table.layout}` : 'layout told by its heads'}</option>
            {layouts?.map((l) => (
              <option key={l.name} value={l.name}>
                {l.name}
              </option>
            ))}
          </Select>
        </div>
        {error && file && <p className="m-0 text-pomegranate">{refusal(error)?.message}</p>}
        {table && !error && (
          <div className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-2">
            {table.columns.map((c, i) => (
              // Columns stay where they are.
              // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a column is known by
              <label key={i} className="flex min-w-0 flex-col gap-0.5 text-xs text-ink-2">
                <span className="overflow-hidden text-ellipsis whitespace-nowrap">{c.head || `Column ${i + 1}`}</span>
                <Select
                  value={c.use ?? ''}
                  onChange={(v) => {
                    const use = (v || null) as ColumnUse | null
                    setUses(table.columns.map((x, n) => (n === i ? use : x.use === use ? null : x.use)))
                  }}
                  className="text-[13px]"
                >
                  <option value="">left out</option>
                  {columnUses.map((u) => (
                    <option key={u} value={u}>
                      {describable.includes(u as never) && u !== 'reel' ? `fills ${useNames[u].toLowerCase()}` : useNames[u]}
                    </option>
                  ))}
                </Select>
              </label>
            ))}
          </div>
        )}
      </div>
      {file && table && !error && (
        <div className="flex h-[min(360px,40vh)] min-h-0 flex-col">
          <RowList label="Rows of the table file" keys="Rows" rows={table.rows} id={(r) => String(r.line)} columns={columns} />
        </div>
      )}
      <div className="flex items-center justify-end gap-3 border-t border-line px-4 py-2.5">
        <span className="text-ink-2">
          {currentData && `${plural(values, 'value')} would change${lost ? `; ${plural(lost, 'row')} found no clip, or several` : ''}`}
        </span>
        {waits > 0 && (
          <label className="mr-auto flex items-center gap-2">
            <input type="checkbox" className="accent-zest" checked={add} onChange={(e) => setAdd(e.target.checked)} /> Add {plural(waits, 'clip')} that{' '}
            {waits === 1 ? 'waits' : 'wait'} for media
          </label>
        )}
        <Button
          main
          disabled={(values === 0 && !(add && waits > 0)) || isLoading}
          onClick={async () => {
            if (await act(apply(ask), (c) => c.sentence, projectId)) onClose()
          }}
        >
          {add && waits > 0 ? 'Describe and add clips' : 'Describe clips'}
        </Button>
      </div>
    </Dialog>
  )
}
