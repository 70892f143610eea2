/** Cut lists: bring one in, see it stand in record time, read it beside its text. */
import { addressOf, type CutDetail, type CutRow, type EventShape, type LinkRow, routes } from '@naranja/contract'
import { formatFrames, rateText, timecodeText } from '@naranja/core/time'
import { Upload } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { useAct, useChosenCut, useProjectId, useViewing } from '../../state/index.ts'
import { CutStrip, eventsIn, OnlyPart, useBrush } from '../../charts/index.ts'
import { Button, Choice, Dialog, Empty, Head, Loading, NoticeMark, type Picked, plural, StateMark, stateWords } from '../../ui/index.ts'
import { FolderPicker } from '../../places/index.ts'
import { Viewer } from '../../viewer/index.ts'
import { EventTable } from './EventTable.tsx'
import { ImportDialog } from './ImportDialog.tsx'
import { CutName } from './parts.tsx'
import { RawText } from './RawText.tsx'
import { Stages } from './Stages.tsx'
import { SaveListDialog } from './SaveListDialog.tsx'
import { hasPictures, useCutView } from './useCutView.ts'

export function CutLists() {
  const projectId = useProjectId()
  const viewing = useViewing()
  const { cut: row, cuts, loading } = useChosenCut()
  const view = useCutView(row, viewing)
  const { currentData: playlist } = api.useCutPlaylistQuery({ cutId: row?.id ?? '', viewing }, { skip: !row })
  const [importing, setImporting] = useState(false)
  const [reference, setReference] = useState(false)
  const [saving, setSaving] = useState(false)
  const navigate = useNavigate()
  const [side, setSide] = useState<'events' | 'text' | 'stages'>('events')
  const [remove] = api.useRemoveCutMutation()
  const act = useAct()
  const { cut, frame, setFrame, select, event } = view
  const [brush, setBrush] = useBrush(cut)
  const within = useMemo(() => (cut && brush ? eventsIn(cut, brush) : undefined), [cut, brush])
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
            {cuts.length > 1 && (
              <Button onClick={() => void navigate(`/p/${projectId}/cuts/${row.id}/changes/${row.follows ?? cuts.find((c) => c.id !== row.id)?.id}`)}>
                What changed
              </Button>
            )}
            <Button onClick={() => setSaving(true)}>Save list</Button>
            <Button onClick={() => setReference(true)}>{hasPictures(row) ? 'Other reference' : 'Choose reference'}</Button>
            <Button quiet onClick={() => void act(remove(row.id), (c) => c.sentence, projectId)}>
              Remove
            </Button>
          </>
        )}
        {open}
      </Head>
      {(loading || (row && !cut)) && <Loading what="the cut lists" />}
      {!loading && !row && (
        <Empty title="Bring in the edit" action={open} guide="/guide/cut-lists">
          Import the edit decision list, the OpenTimelineIO file or the table that your editing program wrote. Every event is read with its reel, name and
          timecode; lines that cannot be read are shown with their number, and the good ones are kept.
        </Empty>
      )}
      {cut && row && (
        <>
          <CutStrip
            cut={cut}
            links={view.links}
            frame={frame}
            eventId={event?.id ?? null}
            thumb={view.thumb}
            onFrame={onFrame}
            onEvent={select}
            brush={brush}
            onBrush={setBrush}
          />
          <div className={`grid min-h-0 flex-1 ${side === 'stages' ? 'grid-cols-1' : 'grid-cols-[minmax(0,1fr)_424px]'}`}>
            <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
              <div className="flex flex-none items-center gap-2 border-b border-line px-3 py-1.5">
                <Choice
                  label="Events, text or stages"
                  value={side}
                  onChange={setSide}
                  options={[
                    ['events', 'Events'],
                    ['text', 'Text and problems'],
                    ['stages', 'Stages'],
                  ]}
                />
                {brush && <OnlyPart cut={cut} part={brush} onAll={() => setBrush(null)} />}
                {event && (
                  <Link to={`/p/${projectId}/reconnect/${row.id}`} className="ml-auto text-ink-2 underline hover:text-ink">
                    Show event {event.number} in Reconnect
                  </Link>
                )}
              </div>
              {side === 'events' ? (
                <EventTable cut={cut} byId={view.byId} selected={event?.id ?? null} onSelect={select} within={within} />
              ) : side === 'stages' ? (
                <Stages cut={cut} byId={view.byId} selected={event?.id ?? null} onSelect={select} within={within} />
              ) : (
                <RawText cut={cut} event={event} onSelect={select} />
              )}
            </div>
            <div className={`min-h-0 flex-col overflow-auto ${side === 'stages' ? 'hidden' : 'flex'}`}>
              <Viewer
                key={cut.id}
                label={cut.name}
                playlist={playlist}
                still={(f) => addressOf(routes.cutStill, { cutId: cut.id, frame: f, viewing, as: shows })}
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
      {saving && row && <SaveListDialog cutId={row.id} onClose={() => setSaving(false)} />}
      {importing && <ImportDialog onClose={() => setImporting(false)} />}
      {reference && row && <ReferenceDialog cut={row} onClose={() => setReference(false)} />}
    </>
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

function ReferenceDialog({ cut, onClose }: { cut: Pick<CutRow, 'id' | 'projectId' | 'reference' | 'copies'>; onClose: () => void }) {
  // What it had when this was opened.
  const [seen] = useState({ reference: cut.reference, copies: cut.copies })
  const [kind, setKind] = useState<'movie' | 'copies'>('movie')
  const [picked, setPicked] = useState<Picked[]>([])
  const [set, { isLoading }] = api.useSetEditPicturesMutation()
  const act = useAct()
  return (
    <Dialog open onClose={onClose} title="Choose reference" wide>
      <div className="flex items-center gap-3 border-b border-line px-4 py-2 text-ink-2">
        <Choice
          label="The edit's own pictures"
          value={kind}
          onChange={(k) => {
            setKind(k)
            setPicked([])
          }}
          options={[
            ['movie', 'A movie of the edit'],
            ['copies', 'Its light copies'],
          ]}
        />
        <span>
          {kind === 'movie'
            ? 'From the first frame of the cut on. Originals are compared with it, frame by frame.'
            : 'The folder with the light copies it was cut from, named like its events. Originals are compared with them.'}
        </span>
      </div>
      <div className="flex h-[360px] min-h-0 flex-col">
        {kind === 'movie' ? (
          <FolderPicker mode="file" endings={/\.(mov|mp4|mxf|mkv)$/i} picked={picked} onPick={setPicked} />
        ) : (
          <FolderPicker mode="folders" picked={picked} onPick={(p) => setPicked(p.slice(-1))} />
        )}
      </div>
      <div className="flex justify-end border-t border-line px-4 py-2.5">
        <Button
          main
          disabled={picked.length === 0 || isLoading}
          onClick={async () => {
            if (!picked[0]) return
            const mine = { cutId: cut.id, kind, volumeId: picked[0].volumeId, ref: picked[0].ref }
            const chosen = act(set({ ...mine, seen }), 'The reference is chosen.', cut.projectId, (now: typeof seen) => set({ ...mine, seen: now }))
            if (await chosen) onClose()
          }}
        >
          {kind === 'movie' ? 'Use this movie' : 'Use this folder'}
        </Button>
      </div>
    </Dialog>
  )
}
