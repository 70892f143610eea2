/** Bringing a cut in: its files chosen, what would be read of each seen, tables laid out; then it is imported. */
import type { CutAsk, CutPreview, CutRow } from '@naranja/contract'
import { rateText } from '@naranja/core/time'
import { X } from 'lucide-react'
import { type ChangeEvent, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { base64Of, Button, Dialog, inputLook, NoticeMark, type Picked, plural, Select } from '../../ui/index.ts'
import { FolderPicker } from '../../places/index.ts'
import { asTold, followedBy, isReadable, mayShareNumbers, type ReadingChoice, readingAsked, unsignedIn } from './importing.ts'
import { TableColumns } from './TableColumns.tsx'

type Uploaded = { name: string; base64: string }
type Chosen = Uploaded | Picked
const isUploaded = (c: Chosen): c is Uploaded => 'base64' in c
const formats = { edl: 'edit decision list', otio: 'timeline', table: 'table' } as const

export function ImportDialog({ onClose }: { onClose: () => void }) {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const { data: cuts, refetch } = api.useCutsQuery(projectId)
  const [importCut, { isLoading }] = api.useImportCutMutation()
  const act = useAct()
  const [chosen, setChosen] = useState<readonly Chosen[]>([])
  const [reading, setReading] = useState<ReadingChoice>(asTold)
  const [layout, setLayout] = useState<CutAsk['layout']>(undefined)
  const [follows, setFollows] = useState<string | null>(null)
  const file = useRef<HTMLInputElement>(null)
  const ask = {
    projectId,
    files: chosen.map((f) => (isUploaded(f) ? f : { volumeId: f.volumeId, ref: f.ref })),
    ...readingAsked(reading),
    ...(layout ? { layout } : {}),
  }
  const { currentData: seen, error } = api.usePreviewCutQuery(ask, { skip: chosen.length === 0 })
  const guess = chosen[0] && followedBy(chosen[0].name, cuts ?? [])
  const turnoverOf = follows === null ? (guess?.id ?? '') : follows
  const upload = async (e: ChangeEvent<HTMLInputElement>) => {
    const files = await Promise.all([...(e.target.files ?? [])].map(async (f) => ({ name: f.name, base64: await base64Of(f) })))
    setChosen((c) => [...c, ...files])
    e.target.value = ''
  }
  const run = async () => {
    const done = await act(importCut({ ...ask, sourceCount: reading.count, ...(turnoverOf ? { follows: turnoverOf } : {}) }), (d) => d.message)
    if (!done) return
    await refetch()
    void navigate(`/p/${projectId}/cuts/${done.cut.id}`)
    onClose()
  }
  const table = seen?.files.find((f) => f.table)
  const fault = error ? refusal(error)?.message : seen?.fault
  const ready = seen && isReadable(seen)
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
        <Reading of={reading} seen={seen} onChange={setReading} />
        {cuts && cuts.length > 0 && (
          <Select label="Turnover" value={turnoverOf} onChange={setFollows} className="w-auto max-w-[230px]">
            <option value="">a cut of its own</option>
            {cuts.map((c: CutRow) => (
              <option key={c.id} value={c.id}>
                new turnover of {c.name}
              </option>
            ))}
          </Select>
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

const counts = [
  ['auto', 'source timecode: as it fits'],
  ['list', "source timecode at the list's rate"],
  ['source', "source timecode at the source's rate"],
] as const
const shared: readonly (readonly [string, string])[] = [
  ['', 'frames: as the digits tell'],
  ['1', 'a number for each frame'],
  ['2', 'two frames share a number'],
  ['4', 'four frames share a number'],
]

/** How the numbers of the files are read: at which rate, counted how. Asked only where a file leaves it open. */
function Reading({ of, seen, onChange }: { of: ReadingChoice; seen: CutPreview | undefined; onChange: (c: ReadingChoice) => void }) {
  const unsigned = seen && unsignedIn(seen)
  return (
    <>
      <input
        aria-label="Frame rate of the cut"
        placeholder={seen ? `rate: ${rateText(seen.rate)}` : 'rate: as told'}
        value={of.rate}
        onChange={(e) => onChange({ ...of, rate: e.target.value })}
        className={`${inputLook} w-[104px]`}
      />
      <Select label="How source timecode is counted" value={of.count} options={counts} onChange={(count) => onChange({ ...of, count })} />
      {seen && mayShareNumbers(seen) && (
        <Select
          label="How frames are counted"
          value={`${of.perLabel ?? ''}`}
          options={shared}
          onChange={(v) => onChange({ ...of, perLabel: (Number(v) || undefined) as CutAsk['perLabel'] })}
        />
      )}
      {unsigned && (
        <Select
          label="Drop-frame"
          value={of.drop}
          options={[
            ['', unsigned.drop ? 'drop-frame, as it seems' : 'not drop-frame, as the originals are'],
            ['drop', 'drop-frame'],
            ['plain', 'not drop-frame'],
          ]}
          onChange={(drop) => onChange({ ...of, drop })}
        />
      )}
    </>
  )
}
