/** Masters: before, what would stop one; after, the proof. */
import { addressOf, type MasterRow, routes } from '@naranja/contract'
import { safeFileName } from '@naranja/core/naming'
import { formatFrames } from '@naranja/core/time'
import { Download } from 'lucide-react'
import { type ReactNode, useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { api } from '../../api/index.ts'
import { useAct, useAsking, useChosenCut, useEditProject, useProject, useProjectId, useViewing } from '../../state/index.ts'
import { CutStrip } from '../../charts/index.ts'
import { FinishFromCopies } from '../../pieces/index.ts'
import { Button, Choice, Field, Figure, Head, inputLook, Loading, NoticeMark, plural, rateName } from '../../ui/index.ts'
import { TargetPicker, useTarget } from '../../places/index.ts'
import { NoCut, useCutView } from '../cutlists/index.ts'
import { Proof } from './Proof.tsx'

const stateWords: Record<MasterRow['state'], string> = {
  waiting: 'waiting',
  'being-made': 'being rendered',
  verified: 'checked',
  unchecked: 'rendered, not checked',
  'failed-check': 'failed its check',
  failed: 'failed',
  cancelled: 'cancelled',
}

export function Masters() {
  const projectId = useProjectId()
  const project = useProject()
  const navigate = useNavigate()
  const { cut: row, loading } = useChosenCut()
  const { data: masters } = api.useMastersQuery(projectId)
  const { masterId } = useParams()
  const master = masters?.find((m) => m.id === masterId)
  const shown = master ? 'proof' : 'before'
  const latest = masters?.[0]
  return (
    <>
      <Head
        title="Masters"
        sub={
          <>
            {row && <span>{row.name}</span>}
            {project && (
              <span>
                ProRes 422 HQ, {project.width}×{project.height}, {rateName(project.rate)}
              </span>
            )}
            {masters && masters.length > 0 && (
              <select
                aria-label="Master"
                value={master?.id ?? ''}
                onChange={(e) => void navigate(e.target.value ? `/p/${projectId}/masters/${e.target.value}` : `/p/${projectId}/masters`)}
                className={`${inputLook} max-w-[300px]`}
              >
                <option value="">before the next master</option>
                {masters.map((m) => (
                  <option key={m.id} value={m.id}>
                    {m.path.slice(m.path.lastIndexOf('/') + 1)}: {stateWords[m.state]}
                  </option>
                ))}
              </select>
            )}
          </>
        }
      >
        {latest && (
          <Choice
            label="Before or proof"
            value={shown}
            onChange={(v) => void navigate(v === 'proof' ? `/p/${projectId}/masters/${(master ?? latest).id}` : `/p/${projectId}/masters`)}
            options={[
              ['before', 'Before'],
              ['proof', 'Proof'],
            ]}
          />
        )}
        {master?.report && (
          <a
            href={addressOf(routes.masterReport, master.id)}
            download
            className="inline-flex items-center gap-1.5 rounded-md border border-line bg-raised px-2.5 py-[4.5px] hover:border-ink-3"
          >
            <Download size={13} aria-hidden /> Save report
          </a>
        )}
      </Head>
      {loading && <Loading what="the cut" />}
      {!loading && !row && (
        <NoCut title="No master yet">
          A master is rendered from originals or pulls only, never from a proxy, and checked frame by frame against its sources when it is finished.
        </NoCut>
      )}
      {row && (master ? <Proof master={master} cutId={master.cutId} /> : <Before />)}
    </>
  )
}

function Before() {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const viewing = useViewing()
  const { cut: row } = useChosenCut()
  const view = useCutView(row, viewing)
  const { currentData, isFetching } = api.usePlanQuery({ cutId: row?.id ?? '', handles: 0 }, { skip: !row })
  // What was decided a moment ago is not in the plan yet: nothing is said of it until it is.
  const plan = useAsking() || isFetching || view.counting ? undefined : currentData
  const { data: pulls } = api.usePullsQuery(row?.id ?? '', { skip: !row })
  const target = useTarget('masters', 'Masters')
  const [file, setFile] = useState('')
  const [from, setFrom] = useState<'originals' | 'pulls'>('originals')
  const [placeholders, setPlaceholders] = useState(false)
  const [missing, setMissing] = useState<'placeholder' | 'held'>('placeholder')
  const [render, { isLoading }] = api.useRenderMasterMutation()
  const act = useAct()
  const { cut, byId, select, event } = view
  const lacking = plan?.events.filter((e) => e.partial && e.missing > 0) ?? []
  const stops = useMemo(() => plan?.events.filter((e) => e.block && !(e.partial && missing === 'held')) ?? [], [plan, missing])
  const fromCopies = plan?.events.filter((e) => e.finishing) ?? []
  const light = plan?.events.filter((e) => e.notes.some((n) => n.code === 'light-copy')) ?? []
  const likely = view.links.filter((l) => l.state === 'likely').length
  const name = file || `${row?.name ?? 'cut'} master`
  const start = async () => {
    if (!row || !target.place) return
    const done = await act(render({ cutId: row.id, file: name, from, placeholders, missing, ...target.place }), (s) => s.message)
    if (done) void navigate(`/p/${projectId}/masters/${done.masterId}`)
  }
  if (!cut || !row) return <Loading what="the cut" />
  const made = pulls?.filter((p) => p.state === 'checked').length ?? 0
  return (
    <>
      <CutStrip cut={cut} links={view.links} frame={view.frame} eventId={event?.id ?? null} thumb={view.thumb} onFrame={view.setFrame} onEvent={select} />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_312px]">
        <div className="flex min-h-0 flex-col overflow-auto border-r border-line p-4">
          <SmallerRaster />
          {!plan ? (
            <p role="status" className="m-0 text-ink-3">
              Going through the events …
            </p>
          ) : stops.length === 0 ? (
            <p className="m-0 text-leaf">
              {fromCopies.length === 0
                ? 'Every event has an original that is here. The master can be rendered.'
                : 'Every event has a source that is here. The master can be rendered.'}
            </p>
          ) : (
            <>
              <p className="m-0 mb-1 flex items-center gap-2 text-[15px] font-[650]">
                <NoticeMark severity="error" /> {plural(stops.length, 'event')} of {plan?.events.length} cannot come from {stops.length === 1 ? 'its' : 'their'}{' '}
                original.
              </p>
              <p className="m-0 mb-3 text-ink-2">
                Settle {stops.length === 1 ? 'it' : 'them'} in Reconnect, or let placeholders stand for {stops.length === 1 ? 'it' : 'them'}: plain pictures
                that name event and reason, listed in the report.
              </p>
              <span className="mb-3 empty:hidden">
                <FinishFromCopies events={stops} />
              </span>
              <table className="border-collapse">
                <thead>
                  <tr className="text-left text-xs text-ink-3">
                    <th className="w-[80px] py-1 font-medium">Event</th>
                    <th className="w-[110px] font-medium">Record in</th>
                    <th className="w-[220px] font-medium">Name</th>
                    <th className="font-medium">Why it stops the master</th>
                    <th />
                  </tr>
                </thead>
                <tbody>
                  {stops.map((e) => (
                    <tr key={e.eventId} className="h-8 border-t border-line/60">
                      <td className="mono">
                        {e.track} {e.number}
                      </td>
                      <td className="mono text-ink-2">{formatFrames(cut.start + e.recordIn, cut.rate, cut.drop)}</td>
                      <td className="mono max-w-[220px] overflow-hidden text-ellipsis">{e.name}</td>
                      <td>{e.block}</td>
                      <td className="text-right whitespace-nowrap">
                        {byId.get(e.eventId)?.state !== 'none-needed' && (
                          <Link
                            to={`/p/${projectId}/reconnect/${row.id}`}
                            onClick={() => select(cut.events.find((x) => x.id === e.eventId))}
                            className="text-ink-2 underline hover:text-ink"
                          >
                            Show in Reconnect
                          </Link>
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
          {fromCopies.length > 0 && (
            <Mind>
              {plural(fromCopies.length, 'event comes', 'events come')} from {fromCopies.length === 1 ? 'an intermediate' : 'intermediates'}, as decided, not
              from {fromCopies.length === 1 ? 'its original' : 'their originals'}: {[...new Set(fromCopies.map((e) => e.finishing))].join(', ')}. The report
              says so.
            </Mind>
          )}
          {light.length > 0 && (
            <Mind>
              {plural(light.length, 'event comes', 'events come')} from a light copy, as decided: {[...new Set(light.map((e) => e.name))].join(', ')}. The
              report says so.
            </Mind>
          )}
          {plan && plan.enlarged.length > 0 && (
            <Mind>
              {plural(plan.enlarged.length, 'source is', 'sources are')} smaller than the master and will be enlarged:
              <ul aria-label="Enlarged sources" className="m-0 mt-1 grid list-none grid-cols-[max-content_max-content_max-content] gap-x-4 p-0">
                {plan.enlarged.map((s) => (
                  <li key={`${s.clip} ${s.eventIds[0]}`} className="col-span-3 grid grid-cols-subgrid">
                    <span className="mono text-ink">{s.clip}</span>
                    <span className="mono">
                      {s.width}×{s.height}
                    </span>
                    <span className="mono">to {s.percent} %</span>
                  </li>
                ))}
              </ul>
            </Mind>
          )}
          {plan && likely > 0 && (
            <Mind>
              {plural(likely, 'match is', 'matches are')} likely and unconfirmed; {likely === 1 ? 'it is' : 'they are'} rendered, and listed in the report.
            </Mind>
          )}
        </div>
        <aside aria-label="The next master" className="flex min-h-0 flex-col p-3">
          <div className="flex min-h-0 flex-1 flex-col gap-2.5 overflow-auto pb-2">
            <b className="font-[650]">The next master</b>
            <Field label="File name">{(id) => <input id={id} value={name} onChange={(e) => setFile(e.target.value)} className={inputLook} />}</Field>
            <TargetPicker target={target} first={target.look ? `${target.look.path}/${safeFileName(name).replace(/\.mov$/i, '')}.mov` : null} />
            <div className="flex flex-col gap-1">
              <span className="text-ink-2">Pictures from</span>
              <Choice
                label="Pictures from"
                value={from}
                onChange={setFrom}
                options={[
                  ['originals', 'originals'],
                  ['pulls', `pulls (${made})`],
                ]}
              />
            </div>
            <div>
              <Figure name="Codec">ProRes 422 HQ, mov</Figure>
              <Figure name="Length">{formatFrames(cut.length, cut.rate, false)}</Figure>
              <Figure name="Starts at">
                <span className="mono">{formatFrames(cut.start, cut.rate, cut.drop)}</span>
              </Figure>
              <Figure name="Sound">{plan?.soundTracks ? `${plural(plan.soundTracks, 'track')} of the cut` : 'silent: the cut has none'}</Figure>
            </div>
            {lacking.length > 0 && (
              <div className="flex flex-col gap-1">
                <span className="text-ink-2">
                  {plural(
                    lacking.reduce((n, e) => n + e.missing, 0),
                    'frame',
                  )}{' '}
                  that no clip has
                </span>
                <Choice
                  label="Frames that no clip has"
                  value={missing}
                  onChange={setMissing}
                  options={[
                    ['placeholder', 'placeholder'],
                    ['held', 'hold the last frame'],
                  ]}
                />
              </div>
            )}
          </div>
          <div className="flex flex-none flex-col gap-2.5 border-t border-line pt-2.5">
            {stops.length > 0 && (
              <label className="flex items-start gap-2">
                <input type="checkbox" checked={placeholders} onChange={(e) => setPlaceholders(e.target.checked)} className="mt-0.5 accent-zest" />
                <span>
                  Let {plural(stops.length, 'placeholder')} stand <span className="block text-xs text-ink-3">for this master only</span>
                </span>
              </label>
            )}
            <Button main className="py-2" disabled={isLoading || !plan || !target.ready || (stops.length > 0 && !placeholders)} onClick={() => void start()}>
              Render master
            </Button>
          </div>
        </aside>
      </div>
    </>
  )
}

/** What does not stop a master, and should be seen before it is rendered. */
const Mind = ({ children }: { children: ReactNode }) => (
  <div className="mt-4 flex items-start gap-2 text-ink-2">
    <span className="mt-1">
      <NoticeMark severity="warning" />
    </span>
    <div className="min-w-0">{children}</div>
  </div>
)

/** Says that the project's raster, which nobody has chosen, is smaller than that of most originals, and offers theirs. */
function SmallerRaster() {
  const id = useProjectId()
  const project = useProject()
  const { data: summary } = api.useSummaryQuery(id)
  const [edit, { isLoading }] = useEditProject()
  const m = summary?.majority
  if (!project || !m || project.rateChosen) return null
  const [width, height] = [m.width - (m.width % 2), m.height - (m.height % 2)]
  if (width * height <= project.width * project.height) return null
  return (
    <div className="mb-4 flex items-center gap-2">
      <NoticeMark severity="warning" />
      <span className="min-w-0 flex-1">
        The master is {project.width}×{project.height}, smaller than most originals: {m.sizeCount} of {m.count} have {m.width}×{m.height}.
      </span>
      <Button disabled={isLoading} onClick={() => void edit({ width, height }, `The raster is ${width}×${height}.`, { undo: true })}>
        Set the raster to {width}×{height}
      </Button>
    </div>
  )
}
