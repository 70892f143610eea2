/** Cut lists: bring one in, see it stand in record time, read it beside its text. */
import type { CutDetail, EventShape, LinkRow } from '@naranja/contract'
import { formatFrames, rateText, timecodeText } from '@naranja/core/time'
import { Upload } from 'lucide-react'
import { type ChangeEvent, useEffect, useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { useCutPlaylistQuery, useCutsQuery, useCutTextQuery, useImportCutMutation, useRemoveCutMutation, useSetReferenceMutation } from '../../api/index.ts'
import { useAct, useChosenCut, useProjectId, useViewing } from '../../app/hooks.ts'
import { CutStrip } from '../../charts/CutStrip.tsx'
import { plural } from '../../ui/format.ts'
import { FolderPicker } from '../../ui/FolderPicker.tsx'
import type { Picked } from '../../ui/places.ts'
import { base64Of } from '../../ui/files.ts'
import { NoticeMark, StateMark, stateWords } from '../../ui/marks.tsx'
import { Button, Choice, Dialog, Empty, Head, inputLook } from '../../ui/parts.tsx'
import { Viewer } from '../../viewer/Viewer.tsx'
import { EventTable } from './EventTable.tsx'
import { CutName } from './parts.tsx'
import { useCutView } from './useCutView.ts'

export function CutLists() {
  const projectId = useProjectId()
  const viewing = useViewing()
  const { cut: row, cuts, loading } = useChosenCut()
  const view = useCutView(row, viewing)
  const { currentData: playlist } = useCutPlaylistQuery({ id: row?.id ?? '', viewing }, { skip: !row })
  const [importing, setImporting] = useState(false)
  const [reference, setReference] = useState(false)
  const [side, setSide] = useState<'events' | 'text'>('events')
  const [remove] = useRemoveCutMutation()
  const act = useAct()
  const { cut, frame, setFrame, select, event } = view
  const onFrame = (f: number) => {
    setFrame(f)
    const at = cut?.events.find((e) => e.track.startsWith('V') && f >= e.recordIn - cut.start && f < e.recordOut - cut.start)
    if (at && at.id !== event?.id) select(at)
  }
  const open = (
    <Button main onClick={() => setImporting(true)}>
      <Upload size={14} aria-hidden /> Import cut list
    </Button>
  )
  const shows = playlist?.pieces.find((p) => frame >= p.in && frame < p.out)?.shows
  const errors = row?.problems.filter((p) => p.severity === 'error').length ?? 0
  return (
    <>
      <Head
        title="Cut lists"
        sub={
          row && (
            <>
              <CutName cut={row} cuts={cuts} step="cuts" />
              <span>
                {plural(row.events, 'event')}, {formatFrames(row.length, row.rate, false)} at {rateText(row.rate)} fps
              </span>
              {row.problems.length > 0 && (
                <button type="button" onClick={() => setSide('text')} className="inline-flex items-center gap-1.5 hover:text-ink">
                  <NoticeMark severity={errors ? 'error' : 'warning'} /> {plural(row.problems.length, 'problem line')}
                </button>
              )}
            </>
          )
        }
      >
        {row && (
          <>
            <Button onClick={() => setReference(true)}>{row.reference ? 'Other reference' : 'Choose reference'}</Button>
            <Button quiet onClick={() => void act(remove(row.id), (c) => c.sentence, projectId)}>
              Remove
            </Button>
          </>
        )}
        {open}
      </Head>
      {!loading && !row && (
        <Empty title="Bring in the edit" action={open}>
          Import the edit decision list that your editing program wrote. Every event is read with its reel, name and timecode; lines that cannot be read are
          shown with their number, and the good ones are kept.
        </Empty>
      )}
      {cut && row && (
        <>
          <CutStrip cut={cut} links={view.links} frame={frame} eventId={event?.id ?? null} thumb={view.thumb} onFrame={onFrame} onEvent={select} />
          <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_424px]">
            <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
              <div className="flex flex-none items-center gap-2 border-b border-line px-3 py-1.5">
                <Choice
                  label="Events or text"
                  value={side}
                  onChange={setSide}
                  options={[
                    ['events', 'Events'],
                    ['text', 'Text and problems'],
                  ]}
                />
                {event && (
                  <Link to={`/p/${projectId}/reconnect/${row.id}`} className="ml-auto text-ink-2 underline hover:text-ink">
                    Show event {event.number} in Reconnect
                  </Link>
                )}
              </div>
              {side === 'events' ? (
                <EventTable cut={cut} byId={view.byId} selected={event?.id ?? null} onSelect={select} />
              ) : (
                <RawText cut={cut} event={event} onSelect={select} />
              )}
            </div>
            <div className="flex min-h-0 flex-col overflow-auto">
              <Viewer
                key={cut.id}
                label={cut.name}
                playlist={playlist}
                still={(f) => `/api/cuts/${cut.id}/still?frame=${f}&viewing=${viewing}&as=${shows ?? ''}`}
                frame={frame}
                onFrame={onFrame}
                shape={16 / 9}
                shown={shows ?? ''}
              />
              {event && <EventFacts cut={cut} event={event} link={view.byId.get(event.id)} />}
            </div>
          </div>
        </>
      )}
      {importing && <ImportDialog onClose={() => setImporting(false)} />}
      {reference && row && <ReferenceDialog cutId={row.id} onClose={() => setReference(false)} />}
    </>
  )
}

/** The list as it came, the selected event's lines lit, problem lines named. */
function RawText({ cut, event, onSelect }: { cut: CutDetail; event: EventShape | undefined; onSelect: (e: EventShape) => void }) {
  const [file, setFile] = useState(0)
  const { data } = useCutTextQuery({ id: cut.id, file })
  const problems = cut.problems.filter((p) => p.file === data?.name)
  const box = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (event && event.file === file) box.current?.querySelector(`[data-line="${event.firstLine}"]`)?.scrollIntoView({ block: 'center' })
  }, [event, file])
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      {cut.files.length > 1 && (
        <select aria-label="File of the cut" value={file} onChange={(e) => setFile(Number(e.target.value))} className={`${inputLook} m-2 w-auto`}>
          {cut.files.map((f, i) => (
            <option key={f.name} value={i}>
              {f.name}
            </option>
          ))}
        </select>
      )}
      {problems.length > 0 && (
        <ul aria-label="Problems" className="m-0 max-h-[30%] flex-none list-none overflow-auto border-b border-line p-2">
          {problems.map((p) => (
            <li key={`${p.line}${p.code}`}>
              <button
                type="button"
                className="flex items-start gap-2 px-1 py-0.5 text-left hover:text-ink"
                onClick={() => box.current?.querySelector(`[data-line="${p.line}"]`)?.scrollIntoView({ block: 'center' })}
              >
                <span className="mt-0.5">
                  <NoticeMark severity={p.severity} />
                </span>
                <span>
                  <span className="mono text-ink-3">line {p.line}</span> {p.message}
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
      <div ref={box} tabIndex={0} role="region" aria-label="Text of the list" className="mono min-h-0 flex-1 overflow-auto py-1 outline-offset-[-2px]">
        {data?.lines.map((line, i) => {
          const n = i + 1
          const problem = problems.find((p) => p.line === n)
          const owner = cut.events.find((e) => e.file === file && n >= e.firstLine && n <= e.lastLine)
          const lit = event && owner?.number === event.number && owner.firstLine === event.firstLine
          return (
            <div
              key={n}
              data-line={n}
              onClick={() => owner && onSelect(owner)}
              className={`flex gap-3 px-3 whitespace-pre ${lit ? 'bg-raised shadow-[inset_2px_0_0_var(--ink)]' : ''} ${problem ? 'text-lemon' : ''}`}
            >
              <span className="w-9 flex-none text-right text-ink-3">{n}</span>
              <span>
                {line || ' '}
                {problem && <span className="ml-3 text-ink-2">◂ {problem.code}</span>}
              </span>
            </div>
          )
        })}
      </div>
    </div>
  )
}

function EventFacts({ cut, event, link }: { cut: CutDetail; event: EventShape; link: LinkRow | undefined }) {
  return (
    <div className="flex flex-col gap-1.5 border-t border-line p-3">
      <div className="flex items-center gap-2">
        {link && <StateMark state={link.state} away={link.away} size={16} />}
        <b className="font-semibold">
          Event {event.number} on {event.track}
        </b>
        <span className="text-ink-2">{link && stateWords[link.state]}</span>
      </div>
      <p className="m-0 text-ink-2">{link?.reason}</p>
      <p className="mono m-0 text-ink-2">
        source {timecodeText(event.sourceIn)} – {timecodeText(event.sourceOut)}, record {formatFrames(event.recordIn, cut.rate, cut.drop)} –{' '}
        {formatFrames(event.recordOut, cut.rate, cut.drop)}
      </p>
      {event.comments.map((c) => (
        <p key={c} className="mono m-0 text-ink-3">
          {c}
        </p>
      ))}
    </div>
  )
}

function ImportDialog({ onClose }: { onClose: () => void }) {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const [importCut, { isLoading }] = useImportCutMutation()
  const { refetch } = useCutsQuery(projectId)
  const act = useAct()
  const [picked, setPicked] = useState<Picked[]>([])
  const [rate, setRate] = useState('')
  const [count, setCount] = useState<'auto' | 'list' | 'source'>('auto')
  const file = useRef<HTMLInputElement>(null)
  const run = async (files: ({ name: string; base64: string } | Picked)[]) => {
    const done = await act(
      importCut({
        projectId,
        files: files.map((f) => ('base64' in f ? f : { volumeId: f.volumeId, ref: f.ref })),
        ...(rate ? { rate } : {}),
        sourceCount: count,
      }),
      (d) => d.message,
    )
    if (!done) return
    await refetch()
    void navigate(`/p/${projectId}/cuts/${done.cut.id}`)
    onClose()
  }
  const upload = async (e: ChangeEvent<HTMLInputElement>) => {
    const files = await Promise.all([...(e.target.files ?? [])].map(async (f) => ({ name: f.name, base64: await base64Of(f) })))
    if (files.length) await run(files)
    e.target.value = ''
  }
  return (
    <Dialog open onClose={onClose} title="Import cut list" wide>
      <div className="flex h-[360px] min-h-0 flex-col">
        <FolderPicker mode="file" endings={/\.(edl|txt)$/i} picked={picked} onPick={setPicked} />
      </div>
      <div className="flex items-center gap-2 border-t border-line px-4 py-2.5">
        <input ref={file} type="file" multiple accept=".edl,.txt" aria-label="Files from this computer" onChange={(e) => void upload(e)} className="hidden" />
        <Button onClick={() => file.current?.click()}>From this computer ...</Button>
        <input
          aria-label="Frame rate of the list"
          placeholder="rate: the project's"
          value={rate}
          onChange={(e) => setRate(e.target.value)}
          className={`${inputLook} w-[130px]`}
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
        <Button main className="ml-auto" disabled={picked.length === 0 || isLoading} onClick={() => void run(picked)}>
          Import cut list
        </Button>
      </div>
    </Dialog>
  )
}

function ReferenceDialog({ cutId, onClose }: { cutId: string; onClose: () => void }) {
  const [picked, setPicked] = useState<Picked[]>([])
  const [set, { isLoading }] = useSetReferenceMutation()
  const act = useAct()
  return (
    <Dialog open onClose={onClose} title="Choose reference" wide>
      <p className="m-0 border-b border-line px-4 py-2 text-ink-2">
        A movie of the offline edit, from the first frame of the cut on. Candidates are compared with it, frame by frame.
      </p>
      <div className="flex h-[360px] min-h-0 flex-col">
        <FolderPicker mode="file" endings={/\.(mov|mp4|mxf|mkv)$/i} picked={picked} onPick={setPicked} />
      </div>
      <div className="flex justify-end border-t border-line px-4 py-2.5">
        <Button
          main
          disabled={picked.length === 0 || isLoading}
          onClick={async () =>
            picked[0] && (await act(set({ id: cutId, volumeId: picked[0].volumeId, ref: picked[0].ref }), 'The reference is chosen.')) && onClose()
          }
        >
          Use this movie
        </Button>
      </div>
    </Dialog>
  )
}
