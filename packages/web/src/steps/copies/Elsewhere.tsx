/** Edit copies that were made elsewhere or come back: what was found in a folder, what each file is a copy of, and why not. */
import type { ClipRow, PairAsk, PairLine, PairResult } from '@naranja/contract'
import { FolderOpen } from 'lucide-react'
import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { selectClip, useAct, useAppDispatch, useLastTask, useProjectId } from '../../state/index.ts'
import { FolderPicker, TypedFolder } from '../../places/index.ts'
import {
  Bar,
  Button,
  bytes,
  Choice,
  type Column,
  Dialog,
  Empty,
  Fact,
  Field,
  NoticeMark,
  perCent,
  type Picked,
  plural,
  RowList,
  Select,
} from '../../ui/index.ts'

const words: Record<PairLine['verdict'], string> = {
  paired: 'paired',
  'taken-back': 'taken back',
  known: 'in the list already',
  second: 'a second copy',
  unchecked: 'paired, not compared',
  refused: 'refused',
  several: 'several fit',
  unknown: 'no original',
  unreadable: 'not readable',
}
const good = (v: PairLine['verdict']): boolean => v === 'paired' || v === 'taken-back' || v === 'known'
const severity = (v: PairLine['verdict']) => (v === 'refused' || v === 'unreadable' ? 'error' : 'warning')

function Verdict({ v }: { v: PairLine['verdict'] }) {
  return (
    <span className="flex items-center gap-1.5">
      {good(v) ? (
        <svg width="12" height="12" viewBox="0 0 16 16" fill="none" stroke="var(--leaf)" strokeWidth="1.8" aria-hidden="true" className="flex-none">
          <path d="M2 8.5l4 4L14 4" />
        </svg>
      ) : (
        <NoticeMark severity={severity(v)} />
      )}
      {words[v]}
    </span>
  )
}

const columns: Column<PairLine>[] = [
  { head: 'File', width: 'minmax(180px,1.4fr)', look: 'mono', cell: (l) => <span title={l.path}>{l.path}</span> },
  { head: 'Outcome', width: '160px', cell: (l) => <Verdict v={l.verdict} /> },
  { head: 'Original', width: 'minmax(120px,1fr)', look: 'mono text-ink-2', cell: (l) => l.clip },
  { head: 'Alike', width: '56px', look: 'mono text-right text-ink-2', cell: (l) => (l.likeness === null ? '' : perCent(l.likeness)) },
]
const shows = { all: () => true, open: (l: PairLine) => !good(l.verdict), paired: (l: PairLine) => good(l.verdict) } as const

export function Elsewhere({ rows }: { rows: ClipRow[] }) {
  const { task: last, busy } = useLastTask('pair')
  const { data: result } = api.usePairsQuery(last?.id ?? '', { skip: last?.state !== 'done' })
  const [picking, setPicking] = useState(false)
  const begin = (
    <Button main onClick={() => setPicking(true)} disabled={busy}>
      <FolderOpen size={14} aria-hidden /> Point at copies
    </Button>
  )
  return (
    <>
      {busy && last ? (
        <div className="m-auto flex flex-col items-center gap-3">
          <span>{last.label}</span>
          <Bar share={last.total ? last.done / last.total : 0} label={last.label} className="w-[260px]" />
        </div>
      ) : last?.state === 'failed' ? (
        <Empty title="The folder could not be looked through" action={begin}>
          {last.error}
        </Empty>
      ) : result ? (
        <FoundFiles key={last?.id} result={result} rows={rows} begin={begin} />
      ) : (
        <div className="m-auto flex w-[860px] max-w-[94%] flex-col rounded-lg border border-line bg-panel">
          <div className="border-b border-line px-4 py-2.5">
            <h2 className="m-0 text-[15px] font-[650]">Copies made elsewhere</h2>
            <p className="m-0 text-ink-2">
              Tick a folder of edit copies that another program or machine has made, or that come back from somebody. Each is compared with its original, in
              count, timecode and picture, before it is used. Nothing in the folder is changed.
            </p>
          </div>
          <Pointing />
        </div>
      )}
      {picking && (
        <Dialog open onClose={() => setPicking(false)} title="Point at copies" wide>
          <Pointing onDone={() => setPicking(false)} />
        </Dialog>
      )}
    </>
  )
}

function Pointing({ onDone }: { onDone?: () => void }) {
  const projectId = useProjectId()
  const [picked, setPicked] = useState<readonly Picked[]>([])
  const [kind, setKind] = useState<PairAsk['kind']>('auto')
  const [start, { isLoading }] = api.useStartPairingMutation()
  const act = useAct()
  const [place] = picked
  return (
    <>
      <div className="flex h-[min(400px,50vh)] min-h-0 flex-col">
        <FolderPicker mode="folders" picked={picked} onPick={(p) => setPicked(p.slice(-1))} />
      </div>
      <div className="flex items-center gap-3 border-t border-line px-4 py-3">
        <span className="text-ink-2">The copies are</span>
        <Choice
          label="What they are"
          value={kind}
          onChange={setKind}
          options={[
            ['auto', 'told by size and coding'],
            ['proxy', 'proxies'],
            ['intermediate', 'intermediates'],
          ]}
        />
      </div>
      <div className="flex items-center gap-3 border-t border-line px-4 py-2.5">
        <TypedFolder onPlace={({ volumeId, ref, name }) => setPicked([{ volumeId, ref, name }])} />
        <span className="ml-auto max-w-[300px] overflow-hidden text-ellipsis whitespace-nowrap text-ink-2">{place?.name ?? 'Nothing is ticked'}</span>
        <Button
          main
          disabled={!place || isLoading}
          onClick={async () => {
            if (place && (await act(start({ projectId, volumeId: place.volumeId, ref: place.ref, kind, pointed: [] })))) onDone?.()
          }}
        >
          Pair copies
        </Button>
      </div>
    </>
  )
}

function FoundFiles({ result, rows, begin }: { result: PairResult; rows: ClipRow[]; begin: React.ReactNode }) {
  const projectId = useProjectId()
  const [show, setShow] = useState<keyof typeof shows>(result.lines.some(shows.open) ? 'open' : 'all')
  const lines = useMemo(() => result.lines.filter(shows[show]), [result, show])
  const [chosen, setChosen] = useState<string | null>(null)
  const line = lines.find((l) => l.path === chosen) ?? lines[0]
  const [putAside, { isLoading }] = api.usePutAsideMutation()
  const [aside, setAside] = useState(false)
  const act = useAct()
  const open = result.lines.filter(shows.open).length
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_440px]">
      <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
        <div className="flex items-center gap-3 border-b border-line px-3 py-2">
          <Choice
            label="Which files"
            value={show}
            onChange={setShow}
            options={[
              ['all', 'All'],
              ['open', `Open (${open})`],
              ['paired', 'Paired'],
            ]}
          />
          <span title={result.folder} className="mono min-w-0 flex-1 overflow-hidden text-xs text-ellipsis whitespace-nowrap text-ink-3">
            {result.folder}
          </span>
          {begin}
        </div>
        {result.indexes.length > 0 && !aside && (
          <div className="flex items-center gap-2 border-b border-line px-3 py-1.5 text-ink-2">
            <NoticeMark severity="info" />
            <span className="min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap" title={result.indexes.join('\n')}>
              {plural(result.indexes.length, 'old index file stands', 'old index files stand')} beside them: {result.indexes[0]}
              {result.indexes.length > 1 ? ' and more' : ''}. Programs may read these instead of the copies.
            </span>
            <Button
              disabled={isLoading}
              onClick={async () => {
                if (await act(putAside({ projectId, ...result.place, paths: result.indexes }), (c) => c.sentence, projectId)) setAside(true)
              }}
            >
              Put aside
            </Button>
          </div>
        )}
        {lines.length > 0 ? (
          <RowList
            label="Copies found"
            keys="Files"
            rows={lines}
            id={(l) => l.path}
            columns={columns}
            selected={line?.path ?? null}
            onSelect={(l) => setChosen(l.path)}
          />
        ) : (
          <p className="m-4 text-ink-2">{result.lines.length === 0 ? 'There is no copy in this folder.' : 'None of this kind.'}</p>
        )}
      </div>
      {line ? <Line key={line.path} line={line} result={result} rows={rows} /> : <aside />}
    </div>
  )
}

/** One file: what speaks for and against it, the two pictures where it was refused, and whose copy it is. */
function Line({ line, result, rows }: { line: PairLine; result: PairResult; rows: ClipRow[] }) {
  const projectId = useProjectId()
  const [start, { isLoading }] = api.useStartPairingMutation()
  const act = useAct()
  const [clipId, setClipId] = useState('')
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const candidates = line.clipIds.length ? rows.filter((r) => line.clipIds.includes(r.id)) : rows
  return (
    <aside aria-label={line.path} className="flex min-h-0 flex-col gap-3 overflow-auto p-3">
      <div className="flex items-center justify-between gap-3">
        <b className="mono min-w-0 overflow-hidden font-[650] text-ellipsis whitespace-nowrap" title={line.path}>
          {line.path}
        </b>
        <Verdict v={line.verdict} />
      </div>
      {line.pictures && (
        <div className="grid grid-cols-2 gap-2">
          {(
            [
              ['This copy', line.pictures.copy, line.pictures.frame],
              [line.beside ? 'The copy in use' : line.clip, line.pictures.original, line.pictures.of],
            ] as const
          ).map(([name, jpeg, frame]) => (
            <figure key={name} className="m-0">
              <div className="flex aspect-video items-center justify-center rounded bg-well">
                <img alt={`${name}, frame ${frame}`} src={`data:image/jpeg;base64,${jpeg}`} className="max-h-full max-w-full" />
              </div>
              <figcaption className="flex justify-between gap-2 pt-1 text-xs text-ink-2">
                <span className="mono overflow-hidden text-ellipsis whitespace-nowrap">{name}</span>
                <span className="mono whitespace-nowrap">frame {frame}</span>
              </figcaption>
            </figure>
          ))}
        </div>
      )}
      {line.reason && <p className="m-0">{line.reason}</p>}
      {line.beside && (
        <>
          <dl className="m-0 grid grid-cols-[auto_minmax(0,1fr)] gap-x-3 gap-y-1">
            {(['own', 'standing'] as const).map((which) => {
              const c = line.beside?.[which]
              return (
                c && (
                  <Fact key={which} name={which === 'own' ? 'This copy' : 'The copy in use'}>
                    <span className="mono block break-all">{c.path}</span>
                    <span className="text-ink-2">
                      {c.width}×{c.height}, {bytes(c.bytes)}
                    </span>
                  </Fact>
                )
              )
            })}
          </dl>
          <span>
            <Button
              main
              disabled={isLoading}
              onClick={() => void act(start({ projectId, ...result.place, kind: result.kind, pointed: [], instead: [line.path] }))}
            >
              Use this copy instead
            </Button>
          </span>
        </>
      )}
      {line.evidence.length > 0 && (
        <ul className="m-0 flex list-none flex-col gap-1 p-0 text-ink-2">
          {line.evidence.map((e) => (
            <li key={e}>{e}</li>
          ))}
        </ul>
      )}
      {good(line.verdict) && line.clipId && (
        <span>
          <Button
            onClick={() => {
              dispatch(selectClip(line.clipId))
              void navigate(`/p/${projectId}/copies/compare`)
            }}
          >
            Compare it with its original
          </Button>
        </span>
      )}
      {!good(line.verdict) && line.verdict !== 'unreadable' && line.verdict !== 'second' && (
        <div className="mt-1 flex flex-col gap-2 border-t border-line pt-3">
          <Field label="It is a copy of" hint="Files that are named like it follow. Count, timecode and picture are compared all the same.">
            {(id) => (
              <Select id={id} className="mono" value={clipId} onChange={setClipId}>
                <option value="">choose an original …</option>
                {candidates.map((r) => (
                  <option key={r.id} value={r.id}>
                    {r.name}
                    {r.roll ? ` · ${r.roll}` : ''}
                  </option>
                ))}
              </Select>
            )}
          </Field>
          <span>
            <Button
              disabled={!clipId || isLoading}
              onClick={() => void act(start({ projectId, ...result.place, kind: result.kind, pointed: [{ path: line.path, clipId }] }))}
            >
              Pair it, and those like it
            </Button>
          </span>
        </div>
      )}
    </aside>
  )
}
