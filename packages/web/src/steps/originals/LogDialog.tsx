/** The clip log: its columns, heading lines and separator, saved under a name; seen as it will be, and written. */
import type { LogLayouts, LogLayoutShape } from '@naranja/contract'
import { headingValues, type LogField, logFields, logNames, reelFields } from '@naranja/core/cliplog'
import { ArrowDown, ArrowUp, Plus, X } from 'lucide-react'
import { useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Choice, Dialog, Field, inputLook, plural, Select } from '../../ui/index.ts'
import { TargetPicker, useTarget } from '../../places/index.ts'

const valueWords: Record<(typeof headingValues)[number], string> = {
  nothing: 'nothing beside it',
  project: 'the project',
  date: 'the date',
  rate: 'the rate',
  clips: 'how many clips',
  roll: 'the roll',
}
const reelWords: Record<(typeof reelFields)[number], string> = { reel: 'its reel', roll: 'its roll', camera: 'its camera', name: 'its name' }

function download(name: string, text: string): void {
  const a = document.createElement('a')
  a.href = URL.createObjectURL(new Blob([text], { type: 'text/csv;charset=utf-8' }))
  a.download = name
  a.click()
  URL.revokeObjectURL(a.href)
}

/** `clipIds`: the clips it is of; absent for all. */
export function LogDialog({ clipIds, onClose }: { clipIds?: string[]; onClose: () => void }) {
  const { data } = api.useLogLayoutsQuery()
  return (
    <Dialog open onClose={onClose} title="Clip log" wide>
      {data && <Layout {...data} {...(clipIds ? { clipIds } : {})} onClose={onClose} />}
    </Dialog>
  )
}

function Layout({ layouts, version, clipIds, onClose }: LogLayouts & { clipIds?: string[]; onClose: () => void }) {
  const projectId = useProjectId()
  const [layout, setLayout] = useState(layouts[0] as LogLayoutShape)
  const set = (patch: Partial<LogLayoutShape>) => setLayout({ ...layout, ...patch })
  const [keep] = api.useKeepLogLayoutsMutation()
  const [save, { isLoading }] = api.useSaveLogMutation()
  const act = useAct()
  const target = useTarget('logs', 'Logs')
  const ask = { projectId, layout, ticked: false, ...(clipIds ? { clipIds } : {}) }
  const { data, error } = api.useLogQuery(ask, { skip: layout.columns.length === 0 || layout.name.trim() === '' })
  const kept = layouts.find((l) => l.name === layout.name)
  const changed = JSON.stringify(kept) !== JSON.stringify(layout)
  const withMine = ({ layouts: all, version: seen }: LogLayouts): LogLayouts => ({
    layouts: all.some((l) => l.name === layout.name) ? all.map((l) => (l.name === layout.name ? layout : l)) : [...all, layout],
    version: seen,
  })
  const first = data?.files[0]
  return (
    <>
      <div className="grid min-h-0 grid-cols-[1fr_1fr] gap-4 overflow-auto px-4 py-3">
        <div className="flex flex-col gap-2.5">
          <div className="grid grid-cols-2 gap-2">
            <Field label="Layout">
              {(id) => (
                <Select id={id} value={kept ? layout.name : ''} onChange={(v) => setLayout(layouts.find((l) => l.name === v) ?? layout)}>
                  {!kept && <option value="">a new one</option>}
                  {layouts.map((l) => (
                    <option key={l.name} value={l.name}>
                      {l.name}
                    </option>
                  ))}
                </Select>
              )}
            </Field>
            <Field label="Its name">
              {(id) => <input id={id} className={inputLook} value={layout.name} maxLength={60} onChange={(e) => set({ name: e.target.value })} />}
            </Field>
          </div>
          <Columns layout={layout} set={set} />
        </div>
        <div className="flex min-w-0 flex-col gap-2.5">
          <Headings layout={layout} set={set} />
          <Form layout={layout} set={set} />
          <TargetPicker target={target} first={target.look && first ? `${target.look.path}/${first.name}` : null} />
        </div>
      </div>
      <div className="flex-none border-t border-line px-4 py-2">
        <div className="mb-1 flex justify-between text-xs text-ink-3">
          <span className="mono">{first?.name}</span>
          <span>{data && `${plural(data.clips, 'clip')} in ${plural(data.files.length, 'file')}`}</span>
        </div>
        <pre role="region" aria-label="The log as it will be" tabIndex={0} className="mono m-0 h-[112px] overflow-auto rounded-md bg-ground p-2 text-xs">
          {error ? refusal(error)?.message : first?.text.split('\r\n').slice(0, 40).join('\n')}
        </pre>
      </div>
      <div className="flex items-center justify-end gap-2 border-t border-line px-4 py-2.5">
        <Button
          className="mr-auto"
          disabled={!changed || layout.name.trim() === ''}
          onClick={() =>
            void act(keep(withMine({ layouts, version })), `The layout is kept as ${layout.name}.`, undefined, (now: LogLayouts) => keep(withMine(now)))
          }
        >
          Keep this layout
        </Button>
        <Button
          disabled={!data}
          onClick={() => {
            for (const f of data?.files ?? []) download(f.name, f.text)
          }}
        >
          Download
        </Button>
        <Button
          main
          disabled={!data || data.clips === 0 || !target.ready || isLoading}
          onClick={async () => {
            if (target.place && (await act(save({ ...ask, ...target.place }), (c) => c.sentence))) onClose()
          }}
        >
          Write log
        </Button>
      </div>
    </>
  )
}

interface PartProps {
  layout: LogLayoutShape
  set: (patch: Partial<LogLayoutShape>) => void
}

/** Which columns there are, what they hold, and what they are called. */
function Columns({ layout, set }: PartProps) {
  const move = (i: number, by: number) => {
    const columns = [...layout.columns]
    const [c] = columns.splice(i, 1)
    if (c) columns.splice(Math.max(0, i + by), 0, c)
    set({ columns })
  }
  return (
    <fieldset className="m-0 border-0 p-0">
      <legend className="mb-1 p-0 text-ink-2">Columns, from left to right</legend>
      <ol className="m-0 flex list-none flex-col gap-1 p-0">
        {layout.columns.map((c, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a column is known by
          <li key={i} className="flex items-center gap-1">
            <Select
              label={`Column ${i + 1} holds`}
              className="w-[130px]"
              value={c.field}
              onChange={(v) => {
                const field = v as LogField
                set({ columns: layout.columns.map((x, n) => (n === i ? { field, head: x.head === logNames[x.field] ? logNames[field] : x.head } : x)) })
              }}
              options={logFields.map((f) => [f, logNames[f]] as const)}
            />
            <input
              aria-label={`Head of column ${i + 1}`}
              className={`${inputLook} flex-1`}
              value={c.head}
              maxLength={80}
              onChange={(e) => set({ columns: layout.columns.map((x, n) => (n === i ? { ...x, head: e.target.value } : x)) })}
            />
            <Button quiet aria-label={`Column ${i + 1} further left`} className="px-1" disabled={i === 0} onClick={() => move(i, -1)}>
              <ArrowUp size={13} />
            </Button>
            <Button quiet aria-label={`Column ${i + 1} further right`} className="px-1" disabled={i === layout.columns.length - 1} onClick={() => move(i, 1)}>
              <ArrowDown size={13} />
            </Button>
            <Button
              quiet
              aria-label={`Leave out column ${i + 1}`}
              className="px-1"
              disabled={layout.columns.length === 1}
              onClick={() => set({ columns: layout.columns.filter((_, n) => n !== i) })}
            >
              <X size={13} />
            </Button>
          </li>
        ))}
      </ol>
      <Button
        className="mt-1"
        onClick={() => {
          const field = logFields.find((f) => !layout.columns.some((c) => c.field === f)) ?? 'notes'
          set({ columns: [...layout.columns, { field, head: logNames[field] }] })
        }}
      >
        <Plus size={12} aria-hidden /> Column
      </Button>
    </fieldset>
  )
}

/** The lines above the table. */
function Headings({ layout, set }: PartProps) {
  return (
    <fieldset className="m-0 border-0 p-0">
      <legend className="mb-1 p-0 text-ink-2">Heading lines, above the table</legend>
      <ol className="m-0 flex list-none flex-col gap-1 p-0">
        {layout.headings.map((h, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a line is known by
          <li key={i} className="flex items-center gap-1">
            <input
              aria-label={`Heading line ${i + 1}`}
              className={`${inputLook} flex-1`}
              value={h.label}
              maxLength={200}
              onChange={(e) => set({ headings: layout.headings.map((x, n) => (n === i ? { ...x, label: e.target.value } : x)) })}
            />
            <Select
              label={`Beside heading line ${i + 1}`}
              value={h.value}
              onChange={(v) => set({ headings: layout.headings.map((x, n) => (n === i ? { ...x, value: v as typeof h.value } : x)) })}
              options={headingValues.map((v) => [v, valueWords[v]] as const)}
            />
            <Button
              quiet
              aria-label={`Leave out heading line ${i + 1}`}
              className="px-1"
              onClick={() => set({ headings: layout.headings.filter((_, n) => n !== i) })}
            >
              <X size={13} />
            </Button>
          </li>
        ))}
      </ol>
      <Button className="mt-1" onClick={() => set({ headings: [...layout.headings, { label: '', value: 'project' }] })}>
        <Plus size={12} aria-hidden /> Heading line
      </Button>
    </fieldset>
  )
}

/** How the table is written, and into how many files. */
function Form({ layout, set }: PartProps) {
  return (
    <>
      <label className="flex items-center gap-2">
        <input type="checkbox" className="accent-zest" checked={layout.heads} onChange={(e) => set({ heads: e.target.checked })} /> A line names the columns
      </label>
      <label className="flex items-start gap-2">
        <input type="checkbox" className="mt-0.5 accent-zest" checked={layout.guarded} onChange={(e) => set({ guarded: e.target.checked })} />
        <span>
          Keep cells from being formulas
          <span className="block text-xs text-ink-3">
            One that begins with = + - or @ gets an apostrophe before it; it is taken off when the file is read here.
          </span>
        </span>
      </label>
      <div className="flex">
        <Choice
          label="Separator"
          value={layout.separator}
          onChange={(separator) => set({ separator })}
          options={[
            ['comma', 'Comma'],
            ['semicolon', 'Semicolon'],
            ['tab', 'Tab'],
          ]}
        />
      </div>
      <div className="flex">
        <Choice
          label="How many files"
          value={layout.split}
          onChange={(split) => set({ split })}
          options={[
            ['one', 'One for all'],
            ['roll', 'One a roll'],
          ]}
        />
      </div>
      <Field label="The reel of a clip is">
        {(id) => (
          <Select
            id={id}
            value={layout.reel}
            onChange={(v) => set({ reel: v as LogLayoutShape['reel'] })}
            options={reelFields.map((r) => [r, reelWords[r]] as const)}
          />
        )}
      </Field>
    </>
  )
}
