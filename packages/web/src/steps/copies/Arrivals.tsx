/** Folders that are looked after: what arrives in them is taken in and copied by itself. */
import type { ArrivalEdit, ArrivalRow } from '@naranja/contract'
import { FolderOpen, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { FolderPicker, TargetPicker, TypedFolder, useFirstCopy, useTarget } from '../../places/index.ts'
import { Button, type Column, Dialog, Field, inputLook, NoticeMark, type Picked, plural, RowList, Select } from '../../ui/index.ts'

type Happened = ArrivalRow['happened'][number]
const clock = (iso: string): string =>
  new Date(iso).toLocaleString(undefined, { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit', second: '2-digit', hour12: false })

const columns: Column<Happened>[] = [
  { head: 'When', width: '130px', look: 'mono text-ink-2', cell: (h) => clock(h.at) },
  { head: 'File', width: 'minmax(160px,1.2fr)', look: 'mono', cell: (h) => <span title={h.path}>{h.path}</span> },
  {
    head: 'What happened',
    width: 'minmax(160px,1fr)',
    cell: (h) => (
      <span className="flex items-center gap-1.5" title={h.what}>
        {!h.good && <NoticeMark severity="error" />} {h.what}
      </span>
    ),
  },
]

export function Arrivals() {
  const projectId = useProjectId()
  const { data: folders } = api.useArrivalFoldersQuery(projectId)
  const [adding, setAdding] = useState(false)
  const [chosen, setChosen] = useState<string | null>(null)
  const folder = folders?.find((f) => f.id === chosen) ?? folders?.[0]
  const add = (
    <Button main onClick={() => setAdding(true)}>
      <FolderOpen size={14} aria-hidden /> Look after a folder
    </Button>
  )
  return (
    <>
      {folders?.length === 0 && (
        <div className="m-auto flex w-[860px] max-w-[94%] flex-col rounded-lg border border-line bg-panel">
          <div className="border-b border-line px-4 py-2.5">
            <h2 className="m-0 text-[15px] font-[650]">What arrives is taken in by itself</h2>
            <p className="m-0 text-ink-2">
              Choose a folder into which files are delivered. What arrives in it is taken in once it has stopped growing, and edit copies are made of it while
              you work.
            </p>
          </div>
          <Adding />
        </div>
      )}
      {folder && folders && (
        <div className="grid min-h-0 flex-1 grid-cols-[340px_minmax(0,1fr)]">
          <div className="flex min-h-0 flex-col border-r border-line">
            <div className="flex justify-end border-b border-line px-3 py-2">{add}</div>
            <ul className="m-0 min-h-0 flex-1 list-none overflow-auto p-2">
              {folders.map((f) => (
                <li key={f.id}>
                  <FolderCard f={f} on={f.id === folder.id} onChoose={() => setChosen(f.id)} />
                </li>
              ))}
            </ul>
          </div>
          <Happenings key={folder.id} f={folder} />
        </div>
      )}
      {adding && (
        <Dialog open onClose={() => setAdding(false)} title="Look after a folder" wide>
          <Adding onDone={() => setAdding(false)} />
        </Dialog>
      )}
    </>
  )
}

/** Changes how a folder is looked after, as it stood on the page. */
function useChange(f: ArrivalRow): (mine: Omit<ArrivalEdit, 'version'>) => void {
  const [change] = api.useChangeArrivalsMutation()
  const projectId = useProjectId()
  const act = useAct()
  return (mine) =>
    void act(
      change({ folderId: f.id, version: f.version, ...mine }),
      (c) => c.sentence,
      projectId,
      (now: ArrivalRow) => change({ folderId: f.id, version: now.version, ...mine }),
    )
}

function FolderCard({ f, on, onChoose }: { f: ArrivalRow; on: boolean; onChoose: () => void }) {
  const projectId = useProjectId()
  const { data: specs } = api.useSpecsQuery({ projectId })
  const change = useChange(f)
  const names = f.copies?.specs.map((c) => specs?.find((s) => s.code === c)?.name ?? c).join(' and ')
  return (
    <div className={`mb-1.5 rounded-md border p-2.5 ${on ? 'border-ink-3 bg-raised' : 'border-line'}`}>
      <button type="button" aria-pressed={on} onClick={onChoose} className="block w-full text-left">
        <span className="mono block overflow-hidden text-ellipsis whitespace-nowrap [direction:rtl]" title={f.folder}>
          <bdi>{f.folder}</bdi>
        </span>
        <span className="block text-ink-2">{names ? `copied to ${names}` : 'taken in, no copies'}</span>
        <span className="block text-xs text-ink-3">
          {f.cause
            ? `away: ${f.cause}`
            : f.arriving.length > 0
              ? `${plural(f.arriving.length, 'clip is', 'clips are')} arriving`
              : f.on
                ? 'nothing is arriving'
                : 'switched off'}
        </span>
      </button>
      <label className="mt-1.5 flex items-center gap-2">
        <input type="checkbox" className="accent-zest" checked={f.on} onChange={(e) => change({ on: e.target.checked })} />
        Look after it
      </label>
    </div>
  )
}

function Happenings({ f }: { f: ArrivalRow }) {
  const [remove] = api.useRemoveArrivalsMutation()
  const change = useChange(f)
  const projectId = useProjectId()
  const act = useAct()
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      <div className="flex items-center gap-3 border-b border-line px-3 py-2">
        <label className="flex items-center gap-2 text-ink-2">
          Take a file once it has looked the same for
          <input
            type="number"
            min={1}
            max={3600}
            key={f.quiet}
            defaultValue={f.quiet}
            className={`${inputLook} mono w-[74px]`}
            onBlur={(e) => {
              const quiet = e.target.valueAsNumber
              if (Number.isInteger(quiet) && quiet >= 1 && quiet <= 3600 && quiet !== f.quiet) change({ quiet })
            }}
          />
          s
        </label>
        <Button className="ml-auto" onClick={() => void act(remove(f.id), (c) => c.sentence, projectId)}>
          <Trash2 size={13} aria-hidden /> Forget this folder
        </Button>
      </div>
      {f.arriving.length > 0 && (
        <ul aria-label="Arriving" className="m-0 max-h-[30%] flex-none list-none overflow-auto border-b border-line p-0">
          {f.arriving.map((a) => (
            <li key={a.path} className="flex h-7 items-center gap-3 px-3">
              <svg width="12" height="12" viewBox="0 0 16 16" fill="none" stroke="var(--tide)" strokeWidth="1.8" aria-hidden="true" className="flex-none">
                <path d="M8 2v9M4 7.5L8 11.5l4-4M2 14.5h12" />
              </svg>
              <span className="mono min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap">{a.path}</span>
              <span className="text-ink-2">{a.waits}</span>
            </li>
          ))}
        </ul>
      )}
      {f.happened.length > 0 ? (
        <RowList label="What happened" keys="Happenings" rows={f.happened} id={(h) => `${h.at} ${h.path}`} columns={columns} />
      ) : (
        <p className="m-4 text-ink-3">Nothing has arrived here yet.</p>
      )}
    </div>
  )
}

function Adding({ onDone }: { onDone?: () => void }) {
  const projectId = useProjectId()
  const { data: specs } = api.useSpecsQuery({ projectId })
  const [picked, setPicked] = useState<readonly Picked[]>([])
  const [place] = picked
  const target = useTarget('copies', 'Edit copies')
  const [chosen, setChosen] = useState<string | null>(null)
  const [now, setNow] = useState(true)
  const [add, { isLoading }] = api.useAddArrivalsMutation()
  const act = useAct()
  // Whoever says where copies go wants them made.
  const spec = specs?.find((s) => s.code === (chosen ?? (target.place ? specs.find((x) => x.isDefault)?.code : '')))
  const beside = spec?.place.how === 'beside'
  const firstCopy = useFirstCopy(place ?? null, spec?.code, target)
  return (
    <>
      <div className="flex h-[min(330px,42vh)] min-h-0 flex-col">
        <FolderPicker mode="folders" picked={picked} onPick={(p) => setPicked(p.slice(-1))} />
      </div>
      <div className="grid grid-cols-3 gap-4 border-t border-line px-4 py-3">
        <Field label="Edit copies of what arrives">
          {(id) => (
            <Select id={id} value={spec?.code ?? ''} onChange={setChosen}>
              <option value="">none, only take it in</option>
              {specs?.map((s) => (
                <option key={s.code} value={s.code}>
                  {s.name}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <div className="flex min-w-0 flex-col gap-2">{!beside && <TargetPicker target={target} first={firstCopy} label="Edit copies go to" />}</div>
        <label className="flex items-start gap-2">
          <input type="checkbox" className="mt-1 accent-zest" checked={now} onChange={(e) => setNow(e.target.checked)} /> Take in what is there already
        </label>
      </div>
      <div className="flex items-center gap-3 border-t border-line px-4 py-2.5">
        <TypedFolder onPlace={({ volumeId, ref, name }) => setPicked([{ volumeId, ref, name }])} />
        <span className="ml-auto max-w-[300px] overflow-hidden text-ellipsis whitespace-nowrap text-ink-2">{place?.name ?? 'Nothing is ticked'}</span>
        <Button
          main
          disabled={!place || (spec && !beside && !target.ready) || isLoading}
          onClick={async () => {
            if (!place) return
            const copies = spec ? { specs: [spec.code], folder: '', leaveEasy: false, ...(beside ? {} : target.place) } : null
            const ask = { on: true, quiet: 10, copies, volumeId: place.volumeId, ref: place.ref, now }
            if (await act(add({ projectId, ...ask }), `${place.name} is looked after.`)) onDone?.()
          }}
        >
          Look after it
        </Button>
      </div>
    </>
  )
}
